"""Every backend over the same rows, and one of the tests' own: rows that can only be asked in SQL."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, ClassVar

import numpy as np
import pyarrow as pa
from pyarrow import parquet

import golden_almanac as ga
from golden_almanac.engine import embedded_engine
from golden_almanac.engine.held_store import Held
from golden_almanac.engine.store import ROW, Abilities, Store
from golden_almanac.tables import Calendar, Guide
from golden_almanac.tables.io import large_files


@dataclass(frozen=True, eq=False)
class Remote:
    """Rows that are elsewhere: asked in SQL, drawn from, never looked at in their order."""

    abilities: ClassVar[Abilities] = Abilities(in_order=False, groups_in_sql=True)

    inner: Held
    memory: int | None = 1 << 30

    @property
    def rows(self) -> int:
        return self.inner.rows

    def query(self, sql: str, beside: Mapping[str, Any] | None = None) -> pa.Table:
        rows = self.inner.arrow()
        numbered = rows.append_column(ROW, pa.array(np.arange(1, rows.num_rows + 1)))
        return embedded_engine.query(sql, {"source": rows, "numbered": numbered, **(beside or {})})

    def kept(self, condition: str) -> tuple[Store, None]:
        inner, _ = self.inner.kept(condition)
        assert isinstance(inner, Held)
        return Remote(inner), None

    def dropped(self, names: Sequence[str]) -> Store:
        return Remote(Held(self.inner.arrow().drop_columns(list(names))))

    def most_held(self) -> int:
        return 2_000

    def __getattr__(self, name: str) -> Any:
        return getattr(self.inner, name)


def stores(arrow: pa.Table, folder: Path) -> dict[str, Store]:
    """The rows as each backend keeps them."""
    parquet.write_table(arrow, folder / "t.parquet", row_group_size=500)
    arrow.to_pandas().to_csv(folder / "t.csv", index=False)
    made: dict[str, Store] = {"memory": ga.read(arrow).store, "remote": Remote(Held(arrow))}
    for name in ("t.parquet", "t.csv"):
        left = large_files.filed([folder / name], name, Guide(), Calendar(), 2 << 30, several=False)
        assert left is not None
        made[name] = left.store
    return made
