"""What an engine that keeps the rows must be able to do, to be asked for cells and samples."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Protocol

if TYPE_CHECKING:
    import pyarrow as pa


@dataclass(frozen=True, slots=True, kw_only=True)
class Relation:
    """What is read: SQL of the engine's own dialect that stands in a FROM, a quoted table or a query in brackets."""

    sql: str
    table: str | None = None
    query: str | None = None


@dataclass(frozen=True, slots=True)
class Expected:
    """Rows, and bytes of one, as an engine's planner reckons."""

    rows: int
    width: int


class Adapter(Protocol):
    """One engine. Statements come in its own dialect and may only read."""

    #: The dialect, as sqlglot calls it.
    dialect: str
    #: What is shown of where the rows are: no secret.
    shown: str
    #: Groupings that one statement may make, and columns that they may tell apart.
    groupings: tuple[int, int]
    relation: Relation
    #: Rows that the relation had when the reading began, to which a later connection is held; None before that.
    expected: int | None

    def rewritten(self, tree: Any) -> Any:
        """A statement's tree with what sqlglot would otherwise leave as the engine does not know it."""

    def run(self, sql: str) -> pa.Table:
        """The answer of a statement, as Arrow: whole numbers, doubles, texts, dates, moments and flags; sums of whole
        numbers beyond 64 bits as decimals of 38 digits. Raises ExpressionError, SourceError, BudgetError."""

    def bounded(self, sql: str, seconds: float) -> pa.Table:
        """The same for a statement that a person wrote, stopped after so many seconds or too large an answer."""

    def columns(self) -> list[tuple[str, str, str]]:
        """The columns of the relation: name, SQL of the house in a type that it knows, and that type: number, text,
        date, datetime or boolean."""

    def expected_size(self) -> Expected:
        """How many rows the engine thinks there are, and of how many bytes, without looking at them."""

    def cancel(self) -> None:
        """Stops what runs, on the server too. May be called from another thread."""

    def close(self) -> None:
        """Lets go of the engine."""
