"""`ga.table_of`: measures by dimensions and spans, as a table that can be printed."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, ClassVar

import numpy as np

from ..analysis.printed_table import PrintedTable, printed_table_of
from ..charts import Chart
from ..charts.caller_axes import onto
from ..charts.heatmap import heat
from ..charts.printed_cells import cell_bars
from ..reports import Report as Model
from ..support.errors import RequestError
from ..tables import Period, Table
from ..text import Summary, names
from ..text import printed_sentences as said
from ..text.languages import say
from ..text.text_tables import TextTable
from .request import Request, several
from .result import Result
from .result_language import in_voice, voiced

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.axes import Axes

#: Columns from which cells of one measure are told by their shade.
_HEAT = 3


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class Printed(Result):
    """A table to print; `result` holds its figures, `cells` how they are drawn (heat or bars)."""

    format: ClassVar[str] = "golden-almanac/table/1"

    result: PrintedTable
    shares: bool
    cells: str

    @property
    def sql(self) -> str:
        """The SELECT that gives every cell again, spans below each other."""
        return self.result.sql

    def _about(self) -> Table:
        return self.result.table

    def _asked(self) -> dict[str, Any]:
        found = self.result
        return {
            "rows": list(found.down),
            "columns": found.across or [_head(one) for one in found.columns],
            "measures": [measure.name for measure in found.measures],
            "order": found.sorted_by,
        }

    def _summed(self, length: str, technical: bool) -> Summary:
        return said.printed_summary(self.result, length)

    def _heading(self) -> str:
        return f"Table of {self._about().name}"

    def _caveats(self) -> list[str]:
        return said.printed_caveats(self.result)

    def _face(self) -> pd.DataFrame:
        printed = self._printed()
        return printed.to_frame()

    def to_frame(self) -> pd.DataFrame:
        """One row a cell: the labels of its row, column, measure, value; rows that stand for several labels are left
        out, the total has no labels."""
        import pandas as pd

        found = self.result
        depth = len(found.down)
        rows = [
            (*map(_text, row.labels), _head(column), measure.name, found.values[m][at][place])
            for m, measure in enumerate(found.measures)
            for at, row in enumerate(found.rows) if len(row.labels) == depth and not row.others
            for place, column in enumerate(found.columns)
        ]  # fmt: skip
        rows += [
            (*([None] * depth), _head(column), measure.name, found.totals[m][place])
            for m, measure in enumerate(found.measures)
            for place, column in enumerate(found.columns)
        ]
        return pd.DataFrame(rows, columns=[*found.down, "column", "measure", "value"])

    def _printed(self) -> TextTable:
        return said.printed(self.result, shares=self.shares)

    @in_voice
    def tables(self) -> tuple[TextTable, ...]:
        """The table, as it is printed."""
        return (self._printed(),)

    def _figures(self) -> dict[str, Any]:
        found = self.result
        return {
            "sql": self.sql,
            "cells": [
                {"row": [_text(one) for one in row.labels], "others": row.others,
                 "column": _head(column), "measure": measure.name, "value": float(found.values[m][at][place])}
                for m, measure in enumerate(found.measures)
                for at, row in enumerate(found.rows)
                for place, column in enumerate(found.columns)
            ],
            "totals": [
                {"column": _head(column), "measure": measure.name, "value": float(found.totals[m][place])}
                for m, measure in enumerate(found.measures)
                for place, column in enumerate(found.columns)
            ],
        }  # fmt: skip

    @in_voice
    def chart(self, *, ax: Axes | None = None) -> Chart:
        """The table, with its figures as bars in the cells, or as a heat map."""
        with onto(ax):
            found, printed = self.result, self._printed()
            measure = found.measures[0]
            source = say("Source: {name}", name=found.table.name)
            names_ = [said.row_name(found, row) for row in found.rows]
            by = names.capital(str(names.measure_name(measure)))
            title = self.headline.rstrip(".")
            if self.cells == "heat":
                leaves = [place for place, row in enumerate(found.rows) if row.depth and not row.others]
                return heat(
                    name="table", title=title, subtitle=by, source=source, rows=[names_[place] for place in leaves],
                    columns=[said.label(found, column) for column in found.columns],
                    values=found.values[0][leaves] * (100 if measure.share else 1),
                    texts=[list(printed.rows[place][1 : 1 + len(found.columns)]) for place in leaves],
                    by=(printed.heads[0], say("Column", "column")),
                )  # fmt: skip
            shown = [(m, place) for m in range(len(found.measures)) for place in range(len(found.columns))][:6]
            heads = [
                by_ if len(found.columns) == 1 else said.label(found, found.columns[place]) if len(found.measures) == 1
                else f"{by_}, {said.label(found, found.columns[place])}"
                for m, place in shown
                for by_ in [names.capital(str(names.measure_name(found.measures[m])))]
            ]  # fmt: skip
            texts = [
                [said.cell(found.values[m][row][column], found.measures[m]) for m, column in shown]
                for row in range(len(found.rows))
            ]
            return cell_bars(
                name="table", title=title, subtitle=say("{measure} by {part}", measure=by, part=printed.heads[0]),
                source=source, rows=names_, heads=heads, values=np.array([found.values[m][:, c] for m, c in shown]).T,
                texts=texts, bold={place for place, row in enumerate(found.rows) if not row.depth}, by=printed.heads[0],
            )  # fmt: skip

    def _pages(self, title: str | None) -> Model:
        from ..reports.printed_report import printed_report

        return printed_report(
            self.result, self.summary(), self.chart(), self._printed(), self.caveats(), title
        )  # fmt: skip


def _text(label: Any) -> Any:
    return None if label is None else str(label)


def _head(column: Any) -> Any:
    if isinstance(column, Period):
        return f"{column.start} to {column.end}"
    return _text(column)


@dataclass(frozen=True, slots=True, kw_only=True)
class TableRequest(Request):
    """A table to print; see `table_of` for the fields."""

    call: ClassVar[str] = "table_of"
    command: ClassVar[str] = "table"
    options: ClassVar[Mapping[str, str]] = {"measures": "-m", "time": "-t", "where": "-w", "top": "-n"}

    rows: tuple[str, ...]
    columns: tuple[str, ...] | None = None
    measures: tuple[str, ...] | None = None
    order: str | None = None
    top: int | None = None
    shares: bool = False
    cells: str | None = None
    time: str | None = None

    def _answered(self, table: Table) -> Printed:
        if self.cells not in (None, "heat", "bars"):
            raise RequestError("The cells", str(self.cells), "heat or bars")
        if self.top is not None and self.top < 1:
            raise RequestError("The number of rows", str(self.top), "one or more")
        found = printed_table_of(
            table, rows=self.rows, columns=self.columns or (), measures=self.measures or (), time=self.time,
            order=self.order, top=self.top,
        )  # fmt: skip
        if self.cells == "heat" and len(found.measures) > 1:
            raise RequestError("The cells", "heat", "bars where there are several measures: they share no scale")
        plain = len(found.measures) == 1 and len(found.columns) >= _HEAT
        return Printed(result=found, shares=self.shares, cells=self.cells or ("heat" if plain else "bars"))


@voiced
def table_of(
    source: Any,
    rows: Sequence[str] | str,
    columns: Sequence[str] | str | None = None,
    measures: Sequence[str] | str | None = None,
    *,
    order: str | None = None,
    top: int | None = None,
    shares: bool = False,
    cells: str | None = None,
    time: str | None = None,
    where: str | None = None,
    progress: Callable[[str], None] | None = None,
    locale: str | None = None,
    names: Mapping[str, str] | None = None,
) -> Printed:
    """A table to print: measures by one or two dimensions, by another dimension, by periods, or by spans beside each
    other with the change between them.

    Parameters
    ----------
    source
        Anything `ga.read` takes, or a `Table`. Labels that are missing are a row of their own.
    rows
        One or two columns, the outer one first; or a grain ("month").
    columns
        A column; a grain ("year"); or spans ("2024-Q3", "2025-Q3"), of which the last is set against the first.
    measures
        SQL aggregates or columns; the number of rows by default.
    order
        value, change or label; by default what matters: the change where there are spans, else the value.
    top
        So many rows at most; the others are put together where they add up.
    shares
        Whether each row's share of the whole stands beside it.
    cells
        heat or bars, how cells are drawn; by default by how many columns there are.
    time
        The column of dates.
    where
        An SQL condition; only the rows that meet it take part.
    progress
        Called with a line of text: what is being done, how far it is, how long it will take.
    locale, names
        The language of the result, and what its columns are called there (see `speaking`); of the caller by default.

    Returns
    -------
    Printed
        Cells in the measures' units. Totals and outer rows are worked out from the rows; of levels (balances) each cell
        is that of its last moment. A span that is not over is marked, and set against none.

    Raises
    ------
    AlmanacError
        One of its subclasses: a column or measure that there is not, too many columns, spans that cannot be read.
    """
    request = TableRequest(
        source=source, rows=several(rows) or (), columns=several(columns), measures=several(measures), order=order,
        top=top, shares=shares, cells=cells, time=time, where=where,
    )  # fmt: skip
    found: Printed = request.run(progress)
    return found
