"""Where the rows of a table are: held in memory, or left in their file."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Protocol

import numpy as np
import numpy.typing as npt

from . import embedded_engine
from .arrow_arrays import wholes

if TYPE_CHECKING:
    import pyarrow as pa


Numbered = Callable[[], npt.NDArray[np.int64]]


class Store(Protocol):
    """Rows that can be asked in SQL, under the name `source`."""

    @property
    def rows(self) -> int: ...

    @property
    def filed(self) -> bool:
        """True when the rows are left in their file, and every look at them all is a pass over it."""

    def arrow(self) -> pa.Table:
        """All rows in memory. Raises BudgetError where they do not fit."""

    def query(self, sql: str, beside: Mapping[str, Any] | None = None) -> pa.Table:
        """The answer to one SELECT over `source`, with the Arrow tables `beside` at hand.

        Raises ExpressionError, BudgetError."""

    def foreign(self, sql: str) -> pa.Table:
        """The answer to a SELECT that a person wrote (see `queries`), within bounds of time and memory."""

    def dropped(self, names: Sequence[str]) -> Store:
        """The same rows without some columns, of which nothing can be asked any more."""

    def recast(self, columns: Mapping[str, str]) -> Store:
        """The same rows with some columns made anew by SQL over the others."""

    def kept(self, condition: str) -> tuple[Store, npt.NDArray[np.bool_] | None]:
        """The rows that a condition (safe SQL) keeps, and which they are where that is known."""

    def held(self, condition: str, numbers: Numbered | None, first: int) -> tuple[Store, npt.NDArray[np.int64]]:
        """The few rows that a condition keeps, in memory, and their numbers."""

    def most_held(self) -> int:
        """How many rows may be taken into memory beside all else."""

    def first(self, count: int) -> pa.Table:
        """The first rows."""

    def row_numbers(self, first: int) -> npt.NDArray[np.int64]:
        """The number a person sees beside each row, the first of them where they are not known otherwise."""

    def at(self, numbers: Sequence[int], known: Numbered) -> tuple[Store, npt.NDArray[np.int64]]:
        """The rows that bear these numbers, in memory, and their numbers; `known` gives those of all rows."""


@dataclass(frozen=True, slots=True, eq=False)
class Held:
    """Rows in memory, as Arrow."""

    rows_held: Any

    @property
    def rows(self) -> int:
        return int(self.rows_held.num_rows)

    @property
    def filed(self) -> bool:
        return False

    def arrow(self) -> pa.Table:
        return self.rows_held

    def query(self, sql: str, beside: Mapping[str, Any] | None = None) -> pa.Table:
        return embedded_engine.query(sql, {"source": self.rows_held, **(beside or {})})

    def foreign(self, sql: str) -> pa.Table:
        connection = embedded_engine.locked(bounded=True)
        try:
            return embedded_engine.bounded_answer(connection, sql, {"source": self.rows_held}, self.rows)
        finally:
            connection.close()

    def dropped(self, names: Sequence[str]) -> Store:
        return Held(self.rows_held.drop_columns(list(names)))

    def recast(self, columns: Mapping[str, str]) -> Store:
        from ..sql.expressions import quote_name

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

    def held(self, condition: str, numbers: Numbered | None, first: int) -> tuple[Store, npt.NDArray[np.int64]]:
        kept, which = self.kept(condition)
        assert which is not None
        places = np.flatnonzero(which)
        return kept, places + first if numbers is None else numbers()[places]

    def most_held(self) -> int:
        return self.rows

    def first(self, count: int) -> pa.Table:
        return self.rows_held.slice(0, count)

    def row_numbers(self, first: int) -> npt.NDArray[np.int64]:
        return np.arange(self.rows) + first

    def at(self, numbers: Sequence[int], known: Numbered) -> tuple[Store, npt.NDArray[np.int64]]:
        which = np.isin(known(), numbers)
        return Held(self.rows_held.filter(which)), known()[which]
