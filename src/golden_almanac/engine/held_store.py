"""Rows held in memory, as Arrow: asked by codes where that is faster than SQL."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, ClassVar

import numpy as np
import numpy.typing as npt

from ..sql.content_numbers import PRIME, content_number
from ..sql.expressions import quote_name
from . import arrow_arrays, embedded_engine
from .arrow_arrays import day_counts, days, encoded, wholes
from .store import Abilities, Labels, Numbered, Pairs, Store

if TYPE_CHECKING:
    import pyarrow as pa


@dataclass(frozen=True, slots=True, eq=False)
class Held:
    """Rows in memory, as Arrow."""

    abilities: ClassVar[Abilities] = Abilities(in_order=True, groups_in_sql=False)

    rows_held: Any
    _made: dict[tuple[str, str], Any] = field(default_factory=dict)

    @property
    def memory(self) -> None:
        return None

    @property
    def rows(self) -> int:
        return int(self.rows_held.num_rows)

    def arrow(self) -> pa.Table:
        return self.rows_held

    def schema(self) -> pa.Schema:
        return self.rows_held.schema

    def codes(self, name: str) -> tuple[npt.NDArray[np.signedinteger[Any]], Labels]:
        if ("codes", name) not in self._made:
            self._made["codes", name] = encoded(self.rows_held.column(name))
        return self._made["codes", name]  # type: ignore[no-any-return]

    def label_counts(self, names: Sequence[str]) -> dict[str, tuple[Labels, npt.NDArray[np.int64]]]:
        for name in names:
            if ("labels", name) not in self._made:
                codes, labels = self.codes(name)
                self._made["labels", name] = labels, np.bincount(codes, minlength=len(labels)).astype(np.int64)
        return {name: self._made["labels", name] for name in names}

    def day_counts(self, name: str) -> tuple[npt.NDArray[np.datetime64], npt.NDArray[np.int64]]:
        if ("days", name) not in self._made:
            self._made["days", name] = day_counts(days(self.rows_held.column(name)))
        return self._made["days", name]  # type: ignore[no-any-return]

    def extents(self, names: Sequence[str]) -> dict[str, tuple[Any, Any]]:
        import pyarrow as pa
        import pyarrow.compute as pc

        for name in names:
            if ("ends", name) not in self._made:
                column = self.rows_held.column(name)
                if pa.types.is_dictionary(column.type):
                    column = column.cast(column.type.value_type)
                ends = pc.min_max(column).as_py()
                self._made["ends", name] = ends["min"], ends["max"]
        return {name: self._made["ends", name] for name in names}

    def total(self, name: str) -> float | None:
        import pyarrow.compute as pc

        return pc.sum(self.rows_held.column(name)).as_py()  # type: ignore[no-any-return]

    def pairs(self, wanted: Sequence[tuple[str, str]]) -> dict[tuple[str, str], Pairs]:
        return {(first, second): (self.codes(first)[0], self.codes(second)[0]) for first, second in wanted}

    def slabs(self) -> list[str]:
        return ["TRUE"]

    def query(self, sql: str, beside: Mapping[str, Any] | None = None) -> pa.Table:
        return embedded_engine.query(sql, {"source": self.rows_held, **(beside or {})})

    def foreign(self, sql: str) -> pa.Table:
        return embedded_engine.foreign(sql, {"source": self.rows_held}, self.rows)

    def dropped(self, names: Sequence[str]) -> Store:
        return Held(self.rows_held.drop_columns(list(names)))

    def recast(self, columns: Mapping[str, str]) -> Store:
        listed = ", ".join(f"{sql} AS {quote_name(name)}" for name, sql in columns.items())
        made = self.query(f"SELECT {listed} FROM source")
        rows = self.rows_held
        for name in columns:
            place = rows.column_names.index(name)
            rows = rows.set_column(place, name, made.column(name).dictionary_encode())
        return Held(rows)

    def kept(self, condition: str) -> tuple[Store, npt.NDArray[np.bool_] | None]:
        import pyarrow as pa

        answer = self.query(f"SELECT coalesce(({condition}), FALSE) AS keep FROM source")
        keep = answer.column("keep").combine_chunks().cast(pa.bool_())
        return Held(self.rows_held.filter(keep)), wholes(keep.cast(pa.int8())).astype(bool)

    def release(self) -> None:
        """Nothing is held open."""

    def held(self, condition: str, numbers: Numbered | None, first: int) -> tuple[Store, npt.NDArray[np.int64]]:
        kept, which = self.kept(condition)
        assert which is not None
        places = np.flatnonzero(which)
        return kept, places + first if numbers is None else numbers()[places]

    def sampled(self, wanted: int, columns: Sequence[tuple[str, str]]) -> tuple[Store, npt.NDArray[np.int64]]:
        number = content_number(columns)
        drawn = self.query(f"SELECT {number} AS drawn FROM source").column("drawn")
        size = wholes(drawn).astype(np.int64)
        places = np.flatnonzero(size < int(PRIME * (wanted / self.rows)))
        places = places[np.argsort(size[places], kind="stable")]
        return Held(self.rows_held.take(arrow_arrays.column(places))), places + 1

    def most_held(self) -> int:
        return self.rows

    def first(self, count: int) -> pa.Table:
        return self.rows_held.slice(0, count)

    def row_numbers(self, first: int) -> npt.NDArray[np.int64]:
        return np.arange(self.rows) + first

    def at(self, numbers: Sequence[int], known: Numbered) -> tuple[Store, npt.NDArray[np.int64]]:
        which = np.isin(known(), numbers)
        return Held(self.rows_held.filter(arrow_arrays.column(which))), known()[which]
