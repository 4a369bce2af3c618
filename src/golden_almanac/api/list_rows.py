"""`ga.list_rows`: rows as they stand, in the order of a column."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, ClassVar

from ..analysis.row_lists import MOST_LISTED, Listed, listed
from ..reports import Report as Model
from ..tables import Table
from ..text import Summary
from ..text import total_sentences as said
from ..text.text_tables import TextTable
from .request import Request, several
from .result import Result
from .result_language import in_voice, voiced

if TYPE_CHECKING:
    import pandas as pd


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class Rows(Result):
    """Rows as they stand; `result` holds them, how many there are, and the SELECT that gives them again."""

    format: ClassVar[str] = "golden-almanac/rows/2"

    result: Listed

    @property
    def sql(self) -> str:
        """The SELECT that gives the rows again."""
        return self.result.sql

    def check(self) -> bool:
        """Whether the SQL, run anew, gives as many rows."""
        return len(self.result.table.sql(self.sql)) == len(self.result.rows)

    def _about(self) -> Table:
        return self.result.table

    def _asked(self) -> dict[str, Any]:
        result = self.result
        return {"columns": list(result.columns), "order": result.order, "descending": result.descending}

    def _summed(self, length: str, technical: bool) -> Summary:
        return said.listed_summary(self.result)

    def _heading(self) -> str:
        return f"Rows of {self.result.table.name}"

    def to_frame(self) -> pd.DataFrame:
        """The rows shown, a column each."""
        import pandas as pd

        return pd.DataFrame([list(row) for row in self.result.rows], columns=list(self.result.columns))

    @in_voice
    def tables(self) -> tuple[TextTable, ...]:
        """The rows as a table of text."""
        return (said.listed_table(self.result),) if self.result.rows else ()

    def _figures(self) -> dict[str, Any]:
        found = self.result
        rows = [
            {
                name: str(cell) if hasattr(cell, "isoformat") else cell
                for name, cell in zip(found.columns, row, strict=True)
            }
            for row in found.rows
        ]
        return {"columns": list(found.columns), "rows": rows, "matched": found.matched, "sql": found.sql}

    def _pages(self, title: str | None) -> Model:
        from ..reports.total_report import rows_report

        return rows_report(self.result, self.summary(), self.tables(), title)


@dataclass(frozen=True, slots=True, kw_only=True)
class RowsRequest(Request):
    """Rows as they stand; see `list_rows` for the fields."""

    call: ClassVar[str] = "list_rows"
    command: ClassVar[str] = "rows"
    options: ClassVar[Mapping[str, str]] = {"columns": "-c", "order": "--order", "top": "-n", "where": "-w"}

    columns: tuple[str, ...] | None = None
    order: str | None = None
    descending: bool = False
    top: int = MOST_LISTED

    def _answered(self, table: Table) -> Rows:
        return Rows(
            result=listed(table, columns=self.columns, order=self.order, descending=self.descending, top=self.top)
        )


@voiced
def list_rows(
    source: Any,
    *,
    columns: Sequence[str] | str | None = None,
    order: str | None = None,
    descending: bool = False,
    top: int = MOST_LISTED,
    where: str | None = None,
    locale: str | None = None,
    names: Mapping[str, str] | None = None,
) -> Rows:
    """Rows as they stand, with how many there are.

    Parameters
    ----------
    source
        Anything `ga.read` takes, or a `Table`.
    columns
        Which columns; all by default.
    order, descending
        A column to put them in order by, the least first or the greatest; missing values last. Equal rows stand
        by their key, or by dates and labels.
    top
        How many rows at most.
    where
        An SQL condition; only the rows that meet it are listed.
    locale, names
        The language of the result, and what its columns are called there (see `speaking`); of the caller by default.

    Returns
    -------
    Rows
        The rows, missing values as None; `sql` gives them again.

    Raises
    ------
    AlmanacError
        One of its subclasses: a column that is not there, no row that meets the condition, groups of a least size.
    """
    asked = RowsRequest(
        source=source, columns=several(columns), order=order, descending=descending, top=top, where=where
    )
    found: Rows = asked.run()
    return found
