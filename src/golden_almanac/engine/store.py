"""What every backend that keeps the rows of a table can be asked. Nobody asks which one it is: see `Abilities`."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, ClassVar, Protocol

import numpy as np
import numpy.typing as npt

if TYPE_CHECKING:
    import pyarrow as pa


Numbered = Callable[[], npt.NDArray[np.int64]]
Labels = tuple[str | None, ...]
Pairs = tuple[npt.NDArray[Any], npt.NDArray[Any]]
#: The column of `numbered` that holds the number a person sees beside each row. No column can be named so: names
#: hold no tabs.
ROW = "\trow"


@dataclass(frozen=True, slots=True, kw_only=True)
class Abilities:
    """What a backend can do.

    in_order: its rows are at hand in their order, so that examples are shown, rows taken out, and every row tested;
    else every look at them all is a pass, and what needs them by themselves takes an even sample
    groups_in_sql: cells are asked in SQL, over `numbered` (the source with the number of each row under `ROW`), a
    stretch of `slabs` at a time; else they are made from codes in memory
    whole_bits: bits of the whole numbers that are added up exactly
    estimates: it tells about how many different values there are without counting them
    """

    in_order: bool
    groups_in_sql: bool
    whole_bits: int = 124
    estimates: bool = True


class Store(Protocol):
    """Rows that can be asked in SQL, under the name `source`. A backend remembers what it was asked of its columns."""

    abilities: ClassVar[Abilities]

    @property
    def rows(self) -> int: ...

    @property
    def memory(self) -> int | None:
        """The memory that may be used, in bytes; None where there is no bound."""

    def codes(self, name: str) -> tuple[npt.NDArray[np.signedinteger[Any]], Labels]:
        """Integer codes of a column, in the smallest type, and their labels in sorted order, missing (None) last; shape
        (rows,). Raises BudgetError where the rows do not fit."""

    def label_counts(self, names: Sequence[str]) -> dict[str, tuple[Labels, npt.NDArray[np.int64]]]:
        """Of each column its labels in sorted order, missing (None) last, and the rows of each: asked in one go."""

    def day_counts(self, name: str) -> tuple[npt.NDArray[np.datetime64], npt.NDArray[np.int64]]:
        """The days of a column of dates that occur, in order, and the rows on each; missing ones left out."""

    def extents(self, names: Sequence[str]) -> dict[str, tuple[Any, Any]]:
        """The least and the greatest value of each column; (None, None) where all are missing: asked in one go."""

    def schema(self) -> pa.Schema:
        """The names and types of the columns."""

    def total(self, name: str) -> float | None:
        """The sum of a column."""

    def pairs(self, wanted: Sequence[tuple[str, str]]) -> dict[tuple[str, str], Pairs]:
        """Of each two columns the codes that occur together (once or more), by the labels of `label_counts`: asked in
        one go."""

    def slabs(self) -> list[str]:
        """Conditions on `numbered` that part a long table into stretches of rows, each a pass over its part only."""

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

    def release(self) -> None:
        """Lets go of what is held open between statements, such as a transaction; the next one opens it again."""

    def held(self, condition: str, numbers: Numbered | None, first: int) -> tuple[Store, npt.NDArray[np.int64]]:
        """The few rows that a condition keeps, in memory, and their numbers."""

    def sampled(self, wanted: int, columns: Sequence[tuple[str, str]]) -> tuple[Store, npt.NDArray[np.int64]]:
        """About so many rows, drawn evenly by what they hold (see `content_numbers`), in an order that says nothing of
        them, in memory, and their numbers (where rows are in order: their places, from one); `columns` are the table's,
        with their types."""

    def most_held(self) -> int:
        """How many rows may be taken into memory beside all else."""

    def first(self, count: int) -> pa.Table:
        """The first rows."""

    def row_numbers(self, first: int) -> npt.NDArray[np.int64]:
        """The number a person sees beside each row, the first of them where they are not known otherwise."""

    def at(self, numbers: Sequence[int], known: Numbered) -> tuple[Store, npt.NDArray[np.int64]]:
        """The rows that bear these numbers, in memory, and their numbers; `known` gives those of all rows."""
