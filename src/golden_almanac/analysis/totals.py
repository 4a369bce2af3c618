"""Measures added up as asked: over labels, periods and spans, ranked, set against another span, in one statement.

What comes back is figures and the SELECT that gave them: anyone may run it over the rows again.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from enum import StrEnum
from typing import Any

import numpy as np

from ..aggregation.measure_names import spoken
from ..aggregation.measures import ROWS, Measure, Part, parse_measure
from ..findings.checks import between
from ..sql.expressions import quote_name
from ..support.errors import ColumnError, ExpressionError, PeriodError, RequestError
from ..tables import Column, Grain, Period, Role, Table, Timeline
from ..tables.calendar import parse_period
from .scan_pipeline import timeline_for


class Cycle(StrEnum):
    """Parts of the calendar that come again."""

    WEEKDAY = "weekday"
    MONTH = "month of the year"
    QUARTER = "quarter of the year"


_CYCLE_SQL = {Cycle.WEEKDAY: "isodow", Cycle.MONTH: "month", Cycle.QUARTER: "quarter"}
#: How groups may be ranked: by the figure, by its change since the baseline, or by that in percent.
RANKED_BY = ("value", "change", "change_pct")
_MEDIAN = re.compile(r"\s*median\s*\((.+)\)\s*", re.IGNORECASE | re.DOTALL)


@dataclass(frozen=True, slots=True, kw_only=True)
class Wanted:
    """What is to be added up; `span` and `baseline` are resolved, `per` averages the totals of whole periods."""

    measures: tuple[Measure, ...]
    by: tuple[Column, ...] = ()
    grain: Grain | None = None
    cycle: Cycle | None = None
    span: Period | None = None
    baseline: Period | None = None
    per: Grain | None = None
    share: bool = False
    running: bool = False
    order: str | None = None
    ranked_by: str = "value"
    top: int | None = None
    above: float | None = None
    below: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Totals:
    """`heads` name the columns of `rows`: `labels` of them are labels, then a figure for each measure, then `baseline`,
    `change`, `change_pct` or `share`. `counted` rows took part; `groups` there were before the cut; `beside` is the
    same figure of the year before (or of all rows) where that says something."""

    table: Table
    wanted: Wanted
    line: Timeline | None
    heads: tuple[str, ...]
    labels: int
    rows: tuple[tuple[Any, ...], ...]
    sql: str
    counted: int
    groups: int
    runner_up: tuple[Any, ...] | None = None
    whole: float | None = None
    year_before: tuple[Period, float] | None = None
    unfinished: bool = False

    @property
    def measure(self) -> Measure:
        return self.wanted.measures[0]

    def column(self, name: str) -> list[Any]:
        place = self.heads.index(name)
        return [row[place] for row in self.rows]

    @property
    def values(self) -> list[Any]:
        """The figures of the first measure."""
        return [row[self.labels] for row in self.rows]


def measure_of(text: str, table: Table) -> Measure:
    """A measure as everywhere, and besides the median of a column. Raises ExpressionError, ColumnError."""
    found = _MEDIAN.fullmatch(text)
    if found is None:
        measure = parse_measure(text, table)
        return replace(measure, share=True) if _is_part(measure) else measure
    inner = parse_measure(f"avg({found[1]})", table)
    part = inner.top[0][1]
    name = spoken(part.column or part.sql, inner.unit)
    return replace(
        inner,
        name=inner.name.replace("avg(", "median(", 1),
        sql=f"MEDIAN({part.sql})",
        label=f"median {name}",
        kind="other",
        top=((1.0, Part("median", part.sql, part.column)),),
        bottom=(),
        share=False,
    )


def _is_part(measure: Measure) -> bool:
    """Whether a ratio is a part of a sum over all of it, as a share."""
    if measure.kind != "ratio" or measure.factor != 1 or len(measure.top) != 1 or len(measure.bottom) != 1:
        return False
    part, whole = measure.top[0][1].sql, measure.bottom[0][1].sql
    return bool(whole) and part.startswith("CASE WHEN ") and part.endswith(f" THEN {whole} END")


def wanted_of(
    table: Table,
    *,
    measures: Sequence[str] | None = None,
    by: Sequence[str] | None = None,
    time: str | None = None,
    grain: str | None = None,
    cycle: str | None = None,
    period: str | None = None,
    baseline: str | None = None,
    **more: Any,
) -> tuple[Wanted, Timeline | None]:
    """The request against a table. Raises AlmanacError where it cannot be met."""
    found = tuple({one.name: one for one in (measure_of(text, table) for text in measures or ())}.values()) or (ROWS,)
    columns = tuple(table.column(name, "what to break down by") for name in by or ())
    per = more.pop("per", None)
    for what, value, kinds in (("The grain", grain, Grain), ("The cycle", cycle, Cycle), ("Per", per, Grain)):
        if value is not None and value not in tuple(kinds):
            raise RequestError(what, value, "one of " + ", ".join(kinds))
    dated = any(value is not None for value in (grain, cycle, period, baseline, per)) or _levels(found)
    line = timeline_for(table, time, grain or per) if dated or time or table.with_role(Role.TIME) else None
    if line is None and any(value is not None for value in (grain, cycle, period, baseline, per)):
        raise PeriodError(f"{table.name} has no dates, so nothing can be told over time. Leave the period out.")
    span = None if period is None or line is None else _inside(parse(period, line), line)
    then = None
    if baseline is not None and line is not None:
        if span is None:
            raise RequestError("The baseline", baseline, "set beside a period")
        span, then = _against(span, baseline, line)
    if more.get("ranked_by", "value") not in RANKED_BY:
        raise RequestError("The ranking", more["ranked_by"], "one of " + ", ".join(RANKED_BY))
    if more.get("order") not in (None, "descending", "ascending"):
        raise RequestError("The order", more["order"], "descending or ascending")
    if more.get("top") is not None and more["top"] < 1:
        raise RequestError("The number of groups", more["top"], "1 or more")
    if per is not None and baseline is not None:
        raise RequestError("An average of totals", "set against a baseline", "one or the other")
    if more.get("running") and (grain is None or found[0].kind != "additive" or found[0].level):
        raise RequestError("A running total", found[0].name, "of a measure that adds up, by a grain")
    if more.get("share") and found[0].kind != "additive":
        raise RequestError("A share", found[0].name, "of a measure that adds up")
    if per is not None and (found[0].kind != "additive" or found[0].level):
        raise RequestError("An average of totals", found[0].name, "a measure that adds up")
    wanted = Wanted(
        measures=found,
        by=columns,
        grain=None if grain is None else Grain(grain),
        cycle=None if cycle is None else Cycle(cycle),
        span=span,
        baseline=then,
        per=None if per is None else Grain(per),
        **more,
    )
    return wanted, line


def parse(period: str, line: Timeline) -> Period:
    """A period as everywhere, or `last 30 days`. Raises PeriodError."""
    rolling = re.fullmatch(r"last (\d{1,5}) days?", period)
    if rolling is None:
        return parse_period(period, line.calendar)
    start = line.last_day - np.timedelta64(max(1, int(rolling[1])) - 1, "D")
    return Period(start=start, end=line.last_day, calendar=line.calendar)


def totals(table: Table, wanted: Wanted, line: Timeline | None) -> Totals:
    """The figures. Raises ExpressionError where groups have a least size that the question would get round."""
    if table.minimum > 1 and (
        wanted.baseline or wanted.share or wanted.running or wanted.per or _levels(wanted.measures)
    ):
        raise ExpressionError(
            wanted.measures[0].name,
            f"would tell of groups of fewer than {table.minimum} rows",
            "Ask for sums, counts or averages of groups.",
        )
    unfinished: bool = False
    if line is not None and wanted.per is not None:
        wanted = replace(wanted, span=_whole_periods(wanted, line))
    if line is not None and wanted.span is not None and wanted.span.end > line.reported_to:
        unfinished = wanted.baseline is None and bool(wanted.span.end > line.last_day)
    statement = _Statement(table, wanted, line)
    sql = statement.made()
    # One group more than is asked for tells what the last of them stands before.
    answer = _run(table, statement.made(further=1))
    heads = tuple(answer.column_names)
    rows = [tuple(map(_plain, row.values())) for row in answer.to_pylist()]
    labels = statement.labels
    groups, runner_up = len(rows), None
    if wanted.top is not None and labels and len(rows) > wanted.top:
        runner_up, rows = rows[wanted.top], rows[: wanted.top]
        if table.minimum < 2:
            groups = _scalar(table, f"SELECT count(*) FROM ({statement.made(cut=False)}) AS groups")
    # A count over no rows at all is nought, and so is a sum.
    counted = int(_scalar(table, f"SELECT count(*) FROM source WHERE {statement.condition(wanted.span)}") or 0)
    made = Totals(
        table=table, wanted=wanted, line=line, heads=heads, labels=labels, rows=tuple(rows), sql=sql,
        counted=counted, groups=int(groups or 0), runner_up=runner_up, unfinished=unfinished,
    )  # fmt: skip
    return _beside(made, statement)


def _beside(made: Totals, statement: _Statement) -> Totals:
    """What a single figure is set against: the year before; the whole, of what adds up and is ranked."""
    wanted, line, table = made.wanted, made.line, made.table
    if wanted.baseline is not None or wanted.share or wanted.running or wanted.per is not None or table.minimum > 1:
        return made
    measure = wanted.measures[0]
    if not made.labels and wanted.span is not None and line is not None and made.counted:
        reached = wanted.span.until(line.last_day) if wanted.span.end > line.last_day else wanted.span
        before = reached.year_ago()
        # A table with a row at the end of each month speaks of its first month too.
        begun = line.first_day if line.partial_first else line.calendar.start(line.grain, line.first)
        if before.start >= begun:
            value = _scalar(table, f"SELECT {measure.sql} FROM source WHERE {statement.rows_of(before)}")
            if value is not None:
                return replace(made, year_before=(before, float(value)))
    if made.labels and not _levels((measure,)) and measure.kind in ("additive", "mean", "ratio"):
        value = _scalar(table, f"SELECT {measure.sql} FROM source WHERE {statement.condition(wanted.span)}")
        return replace(made, whole=None if value is None else float(value))
    return made


class _Statement:
    """The SELECT of a request, in parts."""

    def __init__(self, table: Table, wanted: Wanted, line: Timeline | None) -> None:
        self.table, self.wanted, self.line = table, wanted, line
        self.keys = self._keys()

    @property
    def labels(self) -> int:
        return len(self.keys)

    def _keys(self) -> list[tuple[str, str]]:
        """Name and SQL of each label, dates last."""
        keys = [(column.name, self.table.label_sql(column.name)) for column in self.wanted.by]
        if self.line is not None:
            time = quote_name(self.line.column)
            if self.wanted.grain is not None:
                keys.append(("period", f"CAST({self.line.calendar.sql(self.wanted.grain, time)} AS DATE)"))
            if self.wanted.cycle is not None:
                keys.append((str(self.wanted.cycle), f"{_CYCLE_SQL[self.wanted.cycle]}({time})"))
        return keys

    def condition(self, span: Period | None) -> str:
        terms = [] if self.table.where is None else [f"({self.table.where})"]
        if span is not None and self.line is not None:
            terms.append(between(self.line.column, span))
        if self.line is not None and (self.wanted.grain is not None or self.wanted.cycle is not None):
            terms.append(f"{quote_name(self.line.column)} IS NOT NULL")
        return " AND ".join(terms) or "TRUE"

    def rows_of(self, span: Period | None) -> str:
        """The condition; of levels, the last moment of each period only."""
        condition = self.condition(span)
        if self.line is None or not _levels(self.wanted.measures):
            return condition
        day = f"CAST({quote_name(self.line.column)} AS DATE)"
        grain = (
            ""
            if self.wanted.grain is None
            else (f" GROUP BY {self.line.calendar.sql(self.wanted.grain, quote_name(self.line.column))}")
        )
        return f"{condition} AND {day} IN (SELECT max({day}) FROM source WHERE {condition}{grain})"

    def _shifted(self, name: str, sql: str) -> str:
        """A period of the baseline as the one of the span that it is set against."""
        if name != "period" or self.wanted.span is None or self.wanted.baseline is None:
            return sql
        now, then = self.wanted.span.start, self.wanted.baseline.start
        if self.wanted.grain in (Grain.DAY, Grain.WEEK):
            far, unit = int((now - then).astype(np.int64)), "DAY"
        else:
            far, unit = int((now.astype("datetime64[M]") - then.astype("datetime64[M]")).astype(np.int64)), "MONTH"
        return f"CAST({sql} + INTERVAL {far} {unit} AS DATE)"

    def _grouped(self, span: Period | None, *, shifted: bool = False) -> str:
        figures = [f"{self._figure(measure)} AS {quote_name(measure.name)}" for measure in self.wanted.measures]
        keys = [f"{self._shifted(name, sql) if shifted else sql} AS {quote_name(name)}" for name, sql in self.keys]
        group = f" GROUP BY {', '.join(str(place) for place in range(1, len(keys) + 1))}" if keys else ""
        condition = self.rows_of(span)
        where = "" if condition == "TRUE" else f" WHERE {condition}"
        return f"SELECT {', '.join([*keys, *figures])} FROM source{where}{group}"

    def _figure(self, measure: Measure) -> str:
        if self.wanted.per is None or self.line is None or self.wanted.span is None:
            return measure.sql
        return f"({measure.sql}) / {_number_of(self.wanted.span, self.wanted.per, self.line)}"

    def made(self, *, cut: bool = True, further: int = 0) -> str:
        wanted = self.wanted
        name = quote_name(wanted.measures[0].name)
        keys = [quote_name(key) for key, _ in self.keys]
        ranked = name
        if wanted.baseline is not None:
            sql, ranked = (
                self._compared(name, keys),
                quote_name(wanted.ranked_by) if wanted.ranked_by != "value" else name,
            )
        elif wanted.share and keys:
            sql = f"SELECT *, {name} / sum({name}) OVER () AS share FROM ({self._grouped(wanted.span)}) AS groups"
        elif wanted.running and keys:
            parts = f"PARTITION BY {', '.join(keys[:-1])} " if keys[:-1] else ""
            sql = (
                f"SELECT {', '.join(keys)}, sum({name}) OVER ({parts}ORDER BY period) AS {name} "
                f"FROM ({self._grouped(wanted.span)}) AS groups"
            )
        else:
            sql = self._grouped(wanted.span)
        bounds = [
            f"{name} {sign} {bound!r}"
            for sign, bound in ((">", wanted.above), ("<", wanted.below))
            if bound is not None
        ]
        if bounds and keys:
            sql = f"SELECT * FROM ({sql}) AS figures WHERE {' AND '.join(bounds)}"
        if not keys:
            return sql
        # Labels in their own order where nothing else is asked for; equal figures too.
        ties = ", ".join(keys)
        if wanted.order is not None:
            way = "DESC" if wanted.order == "descending" else "ASC"
            sql = f"{sql} ORDER BY {ranked} {way} NULLS LAST, {ties}"
        else:
            sql = f"{sql} ORDER BY {ties}"
        return f"{sql} LIMIT {wanted.top + further}" if cut and wanted.top is not None else sql

    def _compared(self, name: str, keys: list[str]) -> str:
        """Both spans side by side; of what adds up, a label that is in one of them only is nought in the other."""
        wanted = self.wanted
        now, then = self._grouped(wanted.span), self._grouped(wanted.baseline, shifted=True)
        zero = wanted.measures[0].additive
        new = f"coalesce(n.{name}, 0)" if zero else f"n.{name}"
        old = f"coalesce(b.{name}, 0)" if zero else f"b.{name}"
        shown = [f"coalesce(n.{key}, b.{key}) AS {key}" for key in keys]
        percent = (
            ""
            if wanted.measures[0].share
            else f", CASE WHEN {old} > 0 THEN 100.0 * ({new} / {old} - 1) END AS change_pct"
        )
        columns = ", ".join([*shown, f"{new} AS {name}", f"{old} AS baseline", f"{new} - {old} AS change"])
        matched = " AND ".join(f"n.{key} IS NOT DISTINCT FROM b.{key}" for key in keys) or "TRUE"
        return f"SELECT {columns}{percent} FROM ({now}) AS n FULL JOIN ({then}) AS b ON {matched}"


def _levels(measures: Sequence[Measure]) -> bool:
    return any(measure.level for measure in measures)


def _plain(value: Any) -> Any:
    """Sums of whole numbers, which the engine gives as decimals, as numbers."""
    if isinstance(value, Decimal):
        return int(value) if value == value.to_integral_value() else float(value)
    return value


def _run(table: Table, sql: str) -> Any:
    if table.minimum > 1:
        import pyarrow as pa

        return pa.Table.from_pandas(table.sql(sql), preserve_index=False)
    return table.store.query(sql)


def _scalar(table: Table, sql: str) -> Any:
    answer = _run(table, sql)
    return answer.column(0)[0].as_py() if answer.num_rows else None


def _inside(span: Period, line: Timeline) -> Period:
    if span.end < line.first_day or span.start > line.last_day:
        raise PeriodError(
            f"The period {span.start} to {span.end} lies outside the data, which run from {line.first_day} to "
            f"{line.last_day}. Choose one within."
        )
    return span


def _against(span: Period, baseline: str, line: Timeline) -> tuple[Period, Period]:
    """A span and what it is set against, both of the same length where the first is unfinished. Raises PeriodError."""
    then = {"previous": span.previous, "year-ago": span.year_ago}.get(baseline, lambda: parse(baseline, line))()
    if span.overlaps(then):
        raise PeriodError(
            f"The period {span.start} to {span.end} and its baseline {then.start} to {then.end} overlap. "
            "Choose two that share no day."
        )
    if span.end > line.last_day:
        span = span.until(line.last_day)
        then = span.year_ago() if baseline == "year-ago" else then.cut_like(span)
    if then.end < line.first_day or then.start > line.last_day:
        raise PeriodError(
            f"The baseline {then.start} to {then.end} lies outside the data, which run from {line.first_day} to "
            f"{line.last_day}. Choose one within."
        )
    return span, then


def _whole_periods(wanted: Wanted, line: Timeline) -> Period:
    """The whole periods of the grain inside the span, or inside the data. Raises PeriodError where there is none."""
    assert wanted.per is not None
    calendar, grain = line.calendar, wanted.per
    first, last = line.first_day, line.reported_to
    if wanted.span is not None:
        first, last = max(first, wanted.span.start), min(last, wanted.span.end)
    low, high = (int(number) for number in calendar.number(grain, np.array([first, last])))
    if calendar.start(grain, low) < first:
        low += 1
    if calendar.end(grain, high) > last:
        high -= 1
    if high < low:
        raise PeriodError(f"There is no whole {grain} between {first} and {last}. Ask by a shorter one.")
    start, end = calendar.start(grain, low), calendar.end(grain, high)
    return Period(start=start, end=end, grain=grain, calendar=calendar)


def _number_of(span: Period, grain: Grain, line: Timeline) -> int:
    low, high = (int(number) for number in line.calendar.number(grain, np.array([span.start, span.end])))
    return high - low + 1


#: Rows that are listed unless more are asked for.
MOST_LISTED = 50


@dataclass(frozen=True, slots=True, kw_only=True)
class Listed:
    """Rows as they stand; `matched` of them meet the condition, `frame` holds the first of them with their numbers."""

    table: Table
    columns: tuple[str, ...]
    rows: tuple[tuple[Any, ...], ...]
    matched: int
    order: str | None
    descending: bool
    sql: str


def listed(table: Table, *, columns: Sequence[str] | None, order: str | None, descending: bool, top: int) -> Listed:
    """Rows of a table in the order of a column, or in their own. Raises ColumnError, RequestError, ExpressionError."""
    if table.minimum > 1:
        raise ExpressionError(
            "the rows", f"would be shown one by one, and groups have {table.minimum} rows at least", "Ask for totals."
        )
    if top < 1:
        raise RequestError("The number of rows", top, "1 or more")
    names = [table.column(name).name for name in columns] if columns else table.names
    by = None if order is None else table.column(order, "the order").name
    if by is not None and table.column(by).type == "nested":
        raise ColumnError(by, f"The column {by!r} has no order.", "Name another.")
    shown = ", ".join(quote_name(name) for name in names)
    condition = f" WHERE {table.where}" if table.where is not None else ""
    ties = ", ".join(quote_name(name) for name in _telling(table))
    way = "" if by is None else f"{quote_name(by)} {'DESC' if descending else 'ASC'} NULLS LAST"
    ordered = ", ".join(part for part in (way, ties if by is not None else "") if part)
    sql = f"SELECT {shown} FROM source{condition}" + (f" ORDER BY {ordered}" if ordered else "") + f" LIMIT {top}"
    answer = table.store.query(sql)
    matched = table.rows
    rows = tuple(tuple(row.values()) for row in answer.to_pylist())
    return Listed(
        table=table, columns=tuple(names), rows=rows, matched=matched, order=by, descending=descending, sql=sql
    )


def _telling(table: Table) -> list[str]:
    """Columns that settle the order of equal rows: keys, else dates and labels."""
    keys = [column.name for column in table.with_role(Role.KEY)]
    return keys or [column.name for column in table.columns if column.role in (Role.TIME, Role.DIMENSION)]
