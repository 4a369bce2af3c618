"""A table to print: measures by one or two dimensions down the side, by a dimension, periods or spans across the top.

Each figure, subtotal and total is worked out from the rows, so that a rate of all is that of all rows, not a sum or an
average of rates.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Any

import numpy as np
import numpy.typing as npt

from ..aggregation.measures import ROWS, Measure, parse_measure
from ..engine.arrow_arrays import floats
from ..support.errors import PeriodError, RequestError
from ..tables import Column, Grain, Period, Table, Timeline
from .change.compared_periods import span_of
from .scan_pipeline import timeline_for
from .total_statement import Statement, Wanted

Floats = npt.NDArray[np.float64]
Key = tuple[Any, ...]
#: Columns of one measure at most, and measures.
_ACROSS, _MEASURES = 24, 8


@dataclass(frozen=True, slots=True, kw_only=True)
class PrintedRow:
    """A row: its labels, from the outer to the inner one, `depth` 0 for an outer one that others follow; `key` is None
    for the labels that are put together, the total has none."""

    labels: Key
    depth: int = 0
    others: int = 0


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class PrintedTable:
    """`values` of each measure, shape (measures, rows, columns); `totals` of each column, shape (measures, columns);
    `whole` of each row over all columns, shape (measures, rows), and `all` of the whole table, shape (measures,): both
    None where columns are spans. `change` tells the last span against the first, shape (measures, rows), `total_change`
    that of the totals. `sql` gives the figures again, one statement a span."""

    table: Table
    line: Timeline | None
    measures: tuple[Measure, ...]
    down: tuple[str, ...]
    across: str | None
    columns: tuple[Any, ...]
    rows: tuple[PrintedRow, ...]
    values: Floats
    totals: Floats
    whole: Floats | None
    all: Floats | None
    change: Floats | None
    total_change: Floats | None
    sorted_by: str
    sql: str

    def span(self, column: Any) -> Period | None:
        """The period that a column is, or a row that is one."""
        if isinstance(column, Period):
            return column
        if not isinstance(column, date) or self.line is None:
            return None
        grain = Grain(self.across) if self.across in tuple(Grain) else Grain(self.down[0])
        calendar = self.line.calendar
        number = int(calendar.number(grain, np.array([column], dtype="datetime64[D]"))[0])
        return calendar.period(grain, number)

    def unfinished(self, span: Period | None) -> bool:
        """Whether the data do not cover a period: it begins before them or ends after them."""
        line = self.line
        if span is None or line is None:
            return False
        return bool(span.end > line.reported_to or span.start < line.period(0).start)


def printed_table_of(
    table: Table,
    *,
    rows: Sequence[str],
    columns: Sequence[str],
    measures: Sequence[str],
    time: str | None,
    order: str | None,
    top: int | None,
) -> PrintedTable:
    """The table. Raises ColumnError, ExpressionError, PeriodError, RequestError."""
    line = timeline_for(table, time, None)
    down, grain = _down(table, rows)
    chosen = tuple(parse_measure(text, table) for text in measures) if measures else (ROWS,)
    if len(chosen) > _MEASURES:
        raise RequestError("The measures", f"{len(chosen)}", f"{_MEASURES} at most in one table")
    across, spans = _across(table, line, columns)
    if (spans or grain is not None or isinstance(across, Grain)) and line is None:
        raise PeriodError(f"{table.name} has no dates, so no period can be told. Name the column of dates.")
    grid = _Grid(table, line, chosen, down, grain, across, spans)
    cells, keys = grid.cells()
    return _kept(grid, cells, keys, order, top)


def _down(table: Table, rows: Sequence[str]) -> tuple[tuple[Column, ...], Grain | None]:
    if not 1 <= len(rows) <= 2:
        raise RequestError("The rows", f"{len(rows)} columns", "one or two: the outer one first")
    if len(rows) == 1 and rows[0] in tuple(Grain) and rows[0] not in table.names:
        return (), Grain(rows[0])
    return tuple(table.column(name, "the rows") for name in rows), None


def _across(
    table: Table, line: Timeline | None, columns: Sequence[str]
) -> tuple[Column | Grain | None, tuple[Period, ...]]:
    """A dimension, a grain, or spans, which have to lie apart."""
    if not columns:
        return None, ()
    if len(columns) == 1 and columns[0] in table.names:
        return table.column(columns[0], "the columns"), ()
    if len(columns) == 1 and columns[0] in tuple(Grain):
        return Grain(columns[0]), ()
    if line is None:
        table.column(columns[0], "the columns")
        raise PeriodError(f"{table.name} has no dates, so no span can be told. Name the column of dates.")
    spans = tuple(span_of(text, line) for text in columns)
    if len({(str(span.start), str(span.end)) for span in spans}) != len(spans):
        raise RequestError("The columns", ", ".join(columns), "spans that are different")
    return None, spans


@dataclass(frozen=True, slots=True)
class _Grid:
    """What is asked for, and the statements that answer it."""

    table: Table
    line: Timeline | None
    measures: tuple[Measure, ...]
    down: tuple[Column, ...]
    grain: Grain | None
    across: Column | Grain | None
    spans: tuple[Period, ...]

    def statement(self, down: int, across: bool, span: Period | None) -> Statement:
        """By the first so many labels of a row, and by column."""
        by = list(self.down[:down])
        grain = self.grain if down else None
        if across and isinstance(self.across, Column):
            by.append(self.across)
        elif across and isinstance(self.across, Grain):
            grain = self.across
        least = (*self.measures, ROWS) if self.table.minimum > 1 and ROWS not in self.measures else self.measures
        return Statement(self.table, Wanted(measures=least, by=tuple(by), grain=grain, span=span), self.line)

    def asked(self, down: int, across: bool) -> dict[Key, dict[Any, Floats]]:
        """The measures by the labels of a row, then by column."""
        made: dict[Key, dict[Any, Floats]] = {}
        for span in self.spans or (None,):
            found = self.table.store.query(self.statement(down, across, span).grouped(span))
            names = found.column_names
            if self.table.minimum > 1 and (floats(found.column(ROWS.name)) < self.table.minimum).any():
                raise RequestError(
                    "The table", " by ".join(column.name for column in self.down),
                    f"one whose every cell has {self.table.minimum} rows: ask for fewer columns",
                )  # fmt: skip
            values = np.array([floats(found.column(measure.name)) for measure in self.measures])
            labels = [
                found.column(place).to_pylist()
                for place in range(len(names))
                if names[place] in self._keys(down, across)
            ]
            for place in range(found.num_rows):
                key = [column[place] for column in labels]
                top = (str(span.start), str(span.end)) if span is not None else None
                if across and self.across is not None:
                    # Dates stand last, so the column is the last label but where rows are periods.
                    top = key.pop(0 if self.grain is not None and isinstance(self.across, Column) else -1)
                made.setdefault(tuple(key), {})[top] = values[:, place]
        return made

    def _keys(self, down: int, across: bool) -> set[str]:
        return {name for name, _ in self.statement(down, across, None).keys}

    def cells(self) -> tuple[dict[Key, dict[Any, Floats]], list[Any]]:
        """The cells, and the columns in their order."""
        if isinstance(self.across, Grain) and self.grain is not None:
            raise RequestError("The columns", str(self.across), "a dimension or spans where the rows are periods")
        depth = max(len(self.down), 1)
        cells = self.asked(depth, True)
        tops = {top for row in cells.values() for top in row}
        if self.spans:
            ordered: list[Any] = [(str(span.start), str(span.end)) for span in self.spans]
        elif isinstance(self.across, Column):
            by_column = self.asked(0, True)
            size = {top: float(np.nan_to_num(value[0])) for top, value in by_column.get((), {}).items()}
            ordered = sorted(tops, key=lambda top: (top is None, -size.get(top, 0.0), str(top)))
        else:
            ordered = sorted(tops, key=str)
        if len(ordered) > _ACROSS:
            raise RequestError("The columns", f"{len(ordered)} different", f"{_ACROSS} at most: name another, or spans")
        if not ordered:
            raise RequestError("The table", "no rows", "one with rows in the spans that are asked for")
        return cells, ordered


def _kept(
    grid: _Grid, cells: dict[Key, dict[Any, Floats]], columns: list[Any], order: str | None, top: int | None
) -> PrintedTable:
    """The rows in their order, with the outer ones among them and the total below."""
    none = np.full(len(grid.measures), np.nan)
    spread = [one.get(()) or {} for one in (grid.asked(0, True), grid.asked(0, False))]
    whole = None if grid.spans else grid.asked(max(len(grid.down), 1), False)
    outer = grid.asked(1, True) if len(grid.down) == 2 else {}
    outer_whole = grid.asked(1, False) if len(grid.down) == 2 and not grid.spans else {}
    wanted = order or ("label" if grid.grain is not None else "change" if len(grid.spans) > 1 else "value")
    if wanted not in ("value", "change", "label"):
        raise RequestError("The order", wanted, "value, change or label")
    if wanted == "change" and len(grid.spans) < 2:
        raise RequestError(
            "The order", "change", "value or label where there are no two spans to set beside each other"
        )

    def weight(key: Key, source: dict[Key, dict[Any, Floats]], sums: dict[Key, dict[Any, Floats]] | None) -> Any:
        row = source.get(key, {})
        label = tuple((one is None, str(one)) for one in key)
        if wanted == "label":
            return label
        if wanted == "change":
            change = row.get(columns[-1], none)[0] - row.get(columns[0], none)[0]
            return (not np.isfinite(change), -abs(np.nan_to_num(change)), label)
        value = row.get(columns[-1], none)[0] if sums is None else sums.get(key, {}).get(None, none)[0]
        return (not np.isfinite(value), -float(np.nan_to_num(value)), label)

    rows: list[PrintedRow] = []
    values: list[Floats] = []
    sums: list[Floats] = []

    def put(row: PrintedRow, source: dict[Any, Floats], total: Floats) -> None:
        rows.append(row)
        values.append(np.array([source.get(top, none) for top in columns]).T)
        sums.append(total)

    if outer:
        for first in sorted(outer, key=lambda key: weight(key, outer, outer_whole or None)):
            put(PrintedRow(labels=first), outer[first], outer_whole.get(first, {}).get(None, none))
            inner = [key for key in cells if key[:1] == first]
            for key in sorted(inner, key=lambda key: weight(key, cells, whole))[:top]:
                put(PrintedRow(labels=key, depth=1), cells[key], (whole or {}).get(key, {}).get(None, none))
    else:
        ordered = sorted(cells, key=lambda key: weight(key, cells, whole))
        for key in ordered[:top]:
            put(PrintedRow(labels=key, depth=1), cells[key], (whole or {}).get(key, {}).get(None, none))
        rest = ordered[top:] if top is not None else []
        if rest and all(measure.additive and not measure.level for measure in grid.measures):
            summed = {column: np.nansum([cells[key].get(column, none) for key in rest], axis=0) for column in columns}
            total = np.nansum([(whole or {}).get(key, {}).get(None, none) for key in rest], axis=0)
            put(PrintedRow(labels=(None,), depth=1, others=len(rest)), summed, total)
    body = np.stack(values, axis=1)
    totals = np.array([spread[0].get(column, none) for column in columns]).T
    # A span that is not over is not set against one that is.
    whole_spans = grid.line is not None and all(
        one.end <= grid.line.reported_to and one.start >= grid.line.period(0).start for one in grid.spans
    )
    changed = len(grid.spans) > 1 and whole_spans
    return PrintedTable(
        table=grid.table,
        line=grid.line,
        measures=grid.measures,
        down=tuple(column.name for column in grid.down) or (str(grid.grain),),
        across=None
        if grid.across is None
        else grid.across.name
        if isinstance(grid.across, Column)
        else str(grid.across),
        columns=tuple(grid.spans) if grid.spans else tuple(columns),
        rows=tuple(rows),
        values=body,
        totals=totals,
        whole=None if grid.spans else np.array(sums).T,
        all=None if grid.spans else spread[1].get(None, none),
        change=body[:, :, -1] - body[:, :, 0] if changed else None,
        total_change=totals[:, -1] - totals[:, 0] if changed else None,
        sorted_by=wanted,
        sql=";\n".join(
            grid.statement(max(len(grid.down), 1), True, span).grouped(span) for span in grid.spans or (None,)
        ),
    )
