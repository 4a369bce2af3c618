"""A table to print: measures by one or two dimensions down the side, by a dimension, periods or spans across the top.

Each figure, subtotal and total is worked out from the rows, so that a rate of all is that of all rows, not a sum or an
average of rates.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Any

import numpy as np
import numpy.typing as npt

from ..aggregation.measures import ROWS, Measure, parse_measure
from ..engine.arrow_arrays import floats
from ..support.errors import PeriodError, RequestError
from ..tables import Column, Grain, Period, Table, Timeline
from .change.compared_periods import span_of
from .one_kind import Note, of_one_kind
from .scan_pipeline import timeline_for
from .settled_figures import settled
from .total_statement import Cycle, Statement, Wanted

Floats = npt.NDArray[np.float64]
Key = tuple[Any, ...]
#: Rows that come again in every column.
_CYCLES = {(Grain.MONTH, Grain.YEAR): Cycle.MONTH, (Grain.QUARTER, Grain.YEAR): Cycle.QUARTER}
#: Columns of one measure at most, and measures.
_ACROSS, _MEASURES = 24, 8


@dataclass(frozen=True, slots=True, kw_only=True)
class PrintedRow:
    """A row: its labels, from the outer to the inner one, `depth` 0 for an outer one that others follow; `others`
    counts the labels that are put together in it."""

    labels: Key
    depth: int = 0
    others: int = 0


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class PrintedTable:
    """`values` of each measure, shape (measures, rows, columns); `totals` of each column, shape (measures, columns);
    `whole` of each row over all columns, shape (measures, rows), and `all` of the whole table, shape (measures,): both
    None where columns are spans, or rows the months of any year (`cycle`). `change` tells the last span against the
    first, shape (measures, rows), `total_change` that of the totals. `sql` gives the cells again, in one statement;
    `notes` say what of other scenarios and currencies is left out."""

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
    cycle: Cycle | None
    notes: tuple[Note, ...]

    def span(self, column: Any) -> Period | None:
        """The period that a column is, or a row that is one."""
        if isinstance(column, Period):
            return column
        if not isinstance(column, date) or self.line is None:
            return None
        grain = Grain(str(self.across) if self.across in tuple(Grain) else self.down[0])
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
    table, notes = of_one_kind(table, [*rows, *columns], measures or ["count(*)"])
    line = timeline_for(table, time, None)
    down, grain = _down(table, rows)
    chosen = tuple(parse_measure(text, table) for text in measures) if measures else (ROWS,)
    if len(chosen) > _MEASURES:
        raise RequestError("The measures", f"{len(chosen)}", f"{_MEASURES} at most in one table")
    across, spans = _across(table, line, columns)
    if (spans or grain is not None or isinstance(across, Grain)) and line is None:
        raise PeriodError(f"{table.name} has no dates, so no period can be told. Name the column of dates.")
    cycle = None
    if isinstance(across, Grain) and grain is not None:
        # Months down and years across: each row is a month of any year.
        cycle = _CYCLES.get((grain, across))
        if cycle is None:
            raise RequestError("The columns", str(across), "year where the rows are months or quarters; else no grain")
        grain = None
    grid = _Grid(table, line, chosen, down, grain, cycle, across, spans)
    cells, keys = grid.cells()
    return _kept(grid, cells, keys, order, top, notes)


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
    cycle: Cycle | None
    across: Column | Grain | None
    spans: tuple[Period, ...]

    @property
    def depth(self) -> int:
        """How many labels a row has."""
        return max(len(self.down), 1)

    def statement(self, down: int, across: bool, span: Period | None) -> Statement:
        """By the first so many labels of a row, and by column."""
        by = list(self.down[:down])
        grain = self.grain if down else None
        if across and isinstance(self.across, Column):
            by.append(self.across)
        elif across and isinstance(self.across, Grain):
            grain = self.across
        least = (*self.measures, ROWS) if self.table.minimum > 1 and ROWS not in self.measures else self.measures
        cycle = self.cycle if down else None
        wanted = Wanted(measures=least, by=tuple(by), grain=grain, cycle=cycle, span=span)
        return Statement(self.table, wanted, self.line)

    def asked(self, down: int, across: bool) -> dict[Key, dict[Any, Floats]]:
        """The measures by the labels of a row, then by column."""
        made: dict[Key, dict[Any, Floats]] = {}
        for span in self.spans or (None,):
            statement = self.statement(down, across, span)
            found = self.table.store.query(statement.grouped(span))
            if self.table.minimum > 1 and (floats(found.column(ROWS.name)) < self.table.minimum).any():
                raise RequestError(
                    "The table", " by ".join(column.name for column in self.down),
                    f"one whose every cell has {self.table.minimum} rows: ask for fewer columns",
                )  # fmt: skip
            values = np.array(
                [settled(self.table, measure, floats(found.column(measure.name))) for measure in self.measures]
            )
            labels = [found.column(place).to_pylist() for place in range(len(statement.keys))]
            for place in range(found.num_rows):
                key = [column[place] for column in labels]
                top = (str(span.start), str(span.end)) if span is not None else None
                if across and self.across is not None:
                    top = key.pop(self._column_at)
                made.setdefault(tuple(key), {})[top] = values[:, place]
        return made

    @property
    def _column_at(self) -> int:
        """Where the column stands among the labels: dimensions first, then the period, then its place in the year."""
        if self.cycle is not None or (self.grain is not None and isinstance(self.across, Column)):
            return 0
        return -1

    def without(self, rows: Sequence[Key]) -> _Grid:
        """The same over the rows of the table that none of some rows stands for, all of one outer label."""
        own = [" AND ".join(self.table.equals(column.name, label) for column, label in zip(self.down, row, strict=True))
               for row in rows]  # fmt: skip
        outer = [] if len(self.down) < 2 else [self.table.equals(self.down[0].name, rows[0][0])]
        condition = " AND ".join([*outer, f"NOT ({' OR '.join(f'({one})' for one in own)})"])
        return replace(self, table=self.table.filter(condition), down=())

    def cells(self) -> tuple[dict[Key, dict[Any, Floats]], list[Any]]:
        """The cells, and the columns in their order."""
        cells = self.asked(self.depth, True)
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
    grid: _Grid, cells: dict[Key, dict[Any, Floats]], columns: list[Any], order: str | None, top: int | None,
    notes: tuple[Note, ...],
) -> PrintedTable:  # fmt: skip
    """The rows in their order, with the outer ones among them and the total below."""
    none = np.full(len(grid.measures), np.nan)
    spread = [one.get(()) or {} for one in (grid.asked(0, True), grid.asked(0, False))]
    whole = None if grid.spans else grid.asked(grid.depth, False)
    outer = grid.asked(1, True) if len(grid.down) == 2 else {}
    outer_whole = grid.asked(1, False) if len(grid.down) == 2 and not grid.spans else {}
    # A span that is not over is not set against one that is.
    whole_spans = grid.line is not None and all(
        one.end <= grid.line.reported_to and one.start >= grid.line.period(0).start for one in grid.spans
    )
    changed = len(grid.spans) > 1 and whole_spans
    periods = grid.grain is not None or grid.cycle is not None
    wanted = order or ("label" if periods else "change" if changed else "value")
    if wanted not in ("value", "change", "label"):
        raise RequestError("The order", wanted, "value, change or label")
    if wanted == "change" and not changed:
        instead = "value or label where there are no two spans that are over to set beside each other"
        raise RequestError("The order", "change", instead)

    def weight(key: Key, source: dict[Key, dict[Any, Floats]], sums: dict[Key, dict[Any, Floats]] | None) -> Any:
        row = source.get(key, {})
        label = tuple((one is None, one if isinstance(one, int) else 0, str(one)) for one in key)
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

    def put_all(keys: list[Key]) -> None:
        ordered = sorted(keys, key=lambda key: weight(key, cells, whole))
        for key in ordered[:top]:
            put(PrintedRow(labels=key, depth=1), cells[key], (whole or {}).get(key, {}).get(None, none))
        count = len(ordered[top:]) if top is not None and not periods else 0
        if count:
            rest = grid.without(ordered[:top])
            beside = {} if grid.spans else rest.asked(0, False)
            put(
                PrintedRow(labels=(*ordered[0][:-1], None), depth=1, others=count),
                rest.asked(0, True).get((), {}), beside.get((), {}).get(None, none),
            )  # fmt: skip

    if outer:
        for first in sorted(outer, key=lambda key: weight(key, outer, outer_whole or None)):
            put(PrintedRow(labels=first), outer[first], outer_whole.get(first, {}).get(None, none))
            put_all([key for key in cells if key[:1] == first])
    else:
        put_all(list(cells))
    body = np.stack(values, axis=1)
    totals = np.array([spread[0].get(column, none) for column in columns]).T
    # Of the months of any year some are there oftener than others: their sums say nothing.
    added = not grid.spans and grid.cycle is None
    return PrintedTable(
        table=grid.table,
        line=grid.line,
        measures=grid.measures,
        down=tuple(column.name for column in grid.down) or (str(grid.grain or grid.cycle),),
        across=None
        if grid.across is None
        else grid.across.name
        if isinstance(grid.across, Column)
        else str(grid.across),
        columns=tuple(grid.spans) if grid.spans else tuple(columns),
        rows=tuple(rows),
        values=body,
        totals=totals,
        whole=np.array(sums).T if added else None,
        all=spread[1].get(None, none) if added else None,
        change=body[:, :, -1] - body[:, :, 0] if changed else None,
        total_change=totals[:, -1] - totals[:, 0] if changed else None,
        sorted_by=wanted,
        sql=_check(grid),
        cycle=grid.cycle,
        notes=notes,
    )


def _check(grid: _Grid) -> str:
    """The cells in one statement: those of several spans below each other, with their days."""
    made = [grid.statement(grid.depth, True, span).grouped(span) for span in grid.spans or (None,)]
    if len(made) == 1:
        return made[0]
    days = [f"'{span.start} to {span.end}'" for span in grid.spans]
    return " UNION ALL ".join(f"SELECT {day} AS span, * FROM ({one})" for day, one in zip(days, made, strict=True))
