"""Tables left in their files: every look is one SQL pass, spilled to disk where it outgrows the memory budget."""

from __future__ import annotations

import os
import shutil
import tempfile
import weakref
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import TYPE_CHECKING, Any, ClassVar

import numpy as np
import numpy.typing as npt

from ..sql.content_numbers import PRIME, content_number
from ..sql.expressions import quote_name, quote_value
from ..support.errors import BudgetError
from ..support.parallel import stoppable
from . import embedded_engine, memory_budget
from .arrow_arrays import encoded, wholes
from .held_store import Held
from .sql_store import CELL, SqlStore
from .store import ROW, Abilities, Labels, Store

if TYPE_CHECKING:
    import pyarrow as pa


#: What answers call the number that a row is drawn by.
_DRAWN = "\tdrawn"
#: Rows looked at in one go where a table has many times as many: a pass can then be told of, and stopped.
_SLAB = 10_000_000


class Scratch:
    """A folder of its own for what outgrows memory; gone with the last table that uses it."""

    def __init__(self) -> None:
        self.path = Path(tempfile.mkdtemp(prefix="golden-almanac-"))
        self._end = weakref.finalize(self, shutil.rmtree, self.path, True)

    def remove(self) -> None:
        self._end()


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Filed(SqlStore):
    """Rows in Parquet files, or in a `database` that they were put into (attached as `staged`), asked through a view.

    `select` lists the columns as the table has them, with `ROW`; `columns` are their names; `memory` is the budget in
    bytes; `condition` the rows kept, as safe SQL.
    """

    abilities: ClassVar[Abilities] = Abilities(in_order=False, groups_in_sql=True)

    files: tuple[str, ...]
    select: str
    columns: tuple[str, ...]
    memory: int
    scratch: Scratch
    database: Path | None = None
    condition: str | None = None
    _made: dict[Any, Any] = field(default_factory=dict)

    def arrow(self) -> pa.Table:
        if "arrow" not in self._made:
            size = self.rows * len(self.columns) * CELL
            if size > self.memory:
                raise BudgetError(
                    f"{self.rows:,} rows are more than the memory budget of {memory_budget.said(self.memory)} holds as "
                    f"they are: they take about {memory_budget.said(size)}. Keep fewer with a condition, or raise the "
                    "budget with --memory."
                )
            self._made["arrow"] = self.query(
                f"SELECT {', '.join(map(quote_name, self.columns))} FROM numbered ORDER BY {quote_name(ROW)}"
            )
        return self._made["arrow"]

    def codes(self, name: str) -> tuple[npt.NDArray[np.signedinteger[Any]], Labels]:
        if ("codes", name) not in self._made:
            self._made["codes", name] = encoded(self.arrow().column(name))
        return self._made["codes", name]  # type: ignore[no-any-return]

    def query(self, sql: str, beside: Mapping[str, Any] | None = None) -> pa.Table:
        import duckdb

        cursor = self._connection().cursor()
        try:
            return stoppable(lambda: embedded_engine.answer(cursor, sql, beside or {}), cursor.interrupt)
        except (duckdb.OutOfMemoryException, duckdb.IOException) as problem:
            raise out_of(problem, self.memory, self.scratch.path) from problem
        finally:
            cursor.close()

    def foreign(self, sql: str) -> pa.Table:
        cursor = self._connection().cursor()
        try:
            return embedded_engine.bounded_answer(cursor, sql, {}, self.rows)
        finally:
            cursor.close()

    def dropped(self, names: Sequence[str]) -> Store:
        kept = tuple(name for name in self.columns if name not in set(names))
        listed = ", ".join(quote_name(name) for name in (*kept, ROW))
        return replace(self, select=f"SELECT {listed} FROM ({self.select})", columns=kept, _made={})

    def recast(self, columns: Mapping[str, str]) -> Store:
        listed = ", ".join(f"{sql} AS {quote_name(name)}" for name, sql in columns.items())
        # The condition was written over the columns as they were.
        inner = self.select if self.condition is None else f"SELECT * FROM ({self.select}) WHERE {self.condition}"
        return replace(self, select=f"SELECT * REPLACE ({listed}) FROM ({inner})", condition=None, _made={})

    def slabs(self) -> list[str]:
        if len(self.files) > 1 or self.rows < 2 * _SLAB:
            return ["TRUE"]
        ends = self.query(f"SELECT min({quote_name(ROW)}) AS a, max({quote_name(ROW)}) AS b FROM numbered")
        first, last = (int(ends.column(name)[0].as_py()) for name in "ab")
        return [f"{quote_name(ROW)} BETWEEN {start} AND {start + _SLAB - 1}" for start in range(first, last + 1, _SLAB)]

    def kept(self, condition: str) -> tuple[Store, npt.NDArray[np.bool_] | None]:
        both = condition if self.condition is None else f"({self.condition}) AND ({condition})"
        return replace(self, condition=both, _made={}), None

    def release(self) -> None:
        """Nothing is held open that others would wait for."""

    def held(self, condition: str, numbers: Any, first: int) -> tuple[Store, npt.NDArray[np.int64]]:
        found = self.query(f"SELECT * FROM numbered WHERE {condition} ORDER BY {quote_name(ROW)}")
        return Held(found.drop_columns([ROW])), wholes(found.column(ROW))

    def sampled(self, wanted: int, columns: Sequence[tuple[str, str]]) -> tuple[Store, npt.NDArray[np.int64]]:
        key = ("sampled", wanted, tuple(columns))
        if key in self._made:
            return self._made[key]  # type: ignore[no-any-return]
        number, bound = content_number(columns), int(PRIME * (wanted / self.rows))
        found = self.query(f"SELECT *, {number} AS {quote_name(_DRAWN)} FROM numbered WHERE {number} < {bound}")
        rows = found.sort_by([(_DRAWN, "ascending"), (ROW, "ascending")])
        self._made[key] = Held(rows.drop_columns([ROW, _DRAWN])), wholes(rows.column(ROW))
        return self._made[key]  # type: ignore[no-any-return]

    def most_held(self) -> int:
        return int(self.memory / 4 / (len(self.columns) * CELL))

    def first(self, count: int) -> pa.Table:
        found = self.query(f"SELECT * FROM numbered ORDER BY {quote_name(ROW)} LIMIT {count}")
        return found.drop_columns([ROW])

    def row_numbers(self, first: int) -> npt.NDArray[np.int64]:
        found = self.query(f"SELECT {quote_name(ROW)} AS n FROM numbered ORDER BY 1")
        return np.asarray(wholes(found.column("n")), dtype=np.int64)

    def at(self, numbers: Sequence[int], known: Any) -> tuple[Store, npt.NDArray[np.int64]]:
        return self.held(f"{quote_name(ROW)} IN ({', '.join(map(str, numbers))})", None, 1)

    def _connection(self) -> Any:
        if "connection" not in self._made:
            connection = embedded_engine.locked(self.files, self.database, **settings(self.memory, self.scratch))
            where = "" if self.condition is None else f" WHERE {self.condition}"
            connection.execute(f"CREATE VIEW numbered AS SELECT * FROM ({self.select}){where}")
            connection.execute(f"CREATE VIEW source AS SELECT * EXCLUDE ({quote_name(ROW)}) FROM numbered")
            self._made["connection"] = connection
        return self._made["connection"]


def settings(memory: int, scratch: Scratch) -> dict[str, Any]:
    """What the engine is told of the budget: what the rest of the process takes is not its to use."""
    limit = max(memory - memory_budget.OWN, memory_budget.MB)
    return {
        "memory_limit": f"{limit // memory_budget.MB}MiB",
        "temp_directory": str(scratch.path / "spilled"),
        "preserve_insertion_order": "false",
    }


def out_of(problem: Exception, memory: int, folder: Path) -> BudgetError:
    """The error for an engine that ran out of memory, or of disk to spill to."""
    text = str(problem)
    lowered = text.casefold()
    disk = ("no space", "disk", "too large", "write", "max_temp_directory_size", "file size")
    if any(word in lowered for word in disk) and "failed to pin" not in lowered:
        free = shutil.disk_usage(folder.parent if folder.parent.exists() else tempfile.gettempdir()).free
        return BudgetError(
            f"The disk is full: what outgrew the memory budget of {memory_budget.said(memory)} could not be written to "
            f"{folder.parent} ({memory_budget.said(max(free, 1))} free). What was written is gone again. Make room, "
            "name another folder in TMPDIR, or raise the budget with --memory."
        )
    return BudgetError(
        f"The memory budget of {memory_budget.said(memory)} is too small for this table: the smallest that would do is "
        f"about {memory_budget.said(max(2 * memory, memory_budget.needed(0, 0, 0)))}. Raise it with --memory, or name "
        "fewer columns with --by."
    )


def parquet_view(files: Sequence[Path], columns: Mapping[str, str], part: str | None) -> str:
    """The SELECT over Parquet files: `columns` maps each name to its SQL over the file's; `part` is the column that
    names the file, where there are several."""
    paths = ", ".join(quote_value(os.fspath(file)) for file in files)
    listed = [f"{sql} AS {quote_name(name)}" for name, sql in columns.items()]
    if part is not None:
        listed.append(f"parse_filename(filename) AS {quote_name(part)}")
    listed.append(f"file_row_number + 1 AS {quote_name(ROW)}")
    named = "" if part is None else ", filename=true"
    return f"SELECT {', '.join(listed)} FROM read_parquet([{paths}], file_row_number=true{named})"
