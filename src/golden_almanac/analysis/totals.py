"""Measures added up as asked: over labels, periods and spans, ranked, set against another span, in one statement.

What comes back is figures and the SELECT that gave them: anyone may run it over the rows again.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Any

import numpy as np

from ..aggregation.measure_names import spoken
from ..aggregation.measures import ROWS, Measure, Part, parse_measure
from ..support.errors import ExpressionError, PeriodError, RequestError
from ..tables import Grain, Period, Role, Table, Timeline
from .change.compared_periods import check_apart, check_inside, is_unfinished, span_of
from .scan_pipeline import timeline_for
from .settled_figures import settled
from .total_statement import Cycle, Statement, Wanted, of_levels

#: How groups may be ranked: by the figure, by its change since the baseline, or by that in percent.
RANKED_BY = ("value", "change", "change_pct")
#: What stands for a figure with any number of decimals.
_ANY = Measure(name="share", sql="", label="share", kind="other", top=())
_MEDIAN = re.compile(r"\s*median\s*\((.+)\)\s*", re.IGNORECASE | re.DOTALL)


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
    dated = any(value is not None for value in (grain, cycle, period, baseline, per)) or of_levels(found)
    line = timeline_for(table, time, grain or per) if dated or time or table.with_role(Role.TIME) else None
    if line is None and any(value is not None for value in (grain, cycle, period, baseline, per)):
        raise PeriodError(f"{table.name} has no dates, so nothing can be told over time. Leave the period out.")
    span = None if period is None or line is None else span_of(period, line)
    if span is not None and line is not None:
        check_inside("period", span, line)
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


def totals(table: Table, wanted: Wanted, line: Timeline | None) -> Totals:
    """The figures. Raises ExpressionError where groups have a least size that the question would get round."""
    if table.minimum > 1 and (
        wanted.baseline or wanted.share or wanted.running or wanted.per or of_levels(wanted.measures)
    ):
        raise ExpressionError(
            wanted.measures[0].name,
            f"would tell of groups of fewer than {table.minimum} rows",
            "Ask for sums, counts or averages of groups.",
        )
    if line is not None and wanted.per is not None:
        wanted = replace(wanted, span=_whole_periods(wanted, line))
    unfinished = line is not None and wanted.span is not None and is_unfinished(wanted.span, line)
    statement = Statement(table, wanted, line)
    sql = statement.made()
    # One group more than is asked for tells what the last of them stands before.
    answer = _run(table, statement.made(further=1))
    heads = tuple(answer.column_names)
    rows = [tuple(map(_plain, row.values())) for row in answer.to_pylist()]
    labels = statement.labels
    rows = _settled(table, wanted, heads, labels, rows)
    groups, runner_up = len(rows), None
    if wanted.top is not None and labels and len(rows) > wanted.top:
        runner_up, rows = rows[wanted.top], rows[: wanted.top]
        if table.minimum < 2:
            groups = _scalar(table, f"SELECT count(*) FROM ({statement.made(cut=False)}) AS groups")
    # A count over no rows at all is nought, and so is a sum.
    spans = [wanted.span] if wanted.baseline is None else [wanted.span, wanted.baseline]
    counts = [_scalar(table, f"SELECT count(*) FROM source WHERE {statement.condition(span)}") for span in spans]
    counted = sum(int(count or 0) for count in counts)
    made = Totals(
        table=table, wanted=wanted, line=line, heads=heads, labels=labels, rows=tuple(rows), sql=sql,
        counted=counted, groups=int(groups or 0), runner_up=runner_up, unfinished=unfinished,
    )  # fmt: skip
    return _beside(made, statement)


def _beside(made: Totals, statement: Statement) -> Totals:
    """What a single figure is set against: the year before; the whole, of what adds up and is ranked."""
    wanted, line, table = made.wanted, made.line, made.table
    if wanted.baseline is not None or wanted.share or wanted.running or wanted.per is not None or table.minimum > 1:
        return made
    measure = wanted.measures[0]
    if not made.labels and wanted.span is not None and line is not None and made.counted:
        reached = wanted.span.until(line.reported_to) if is_unfinished(wanted.span, line) else wanted.span
        before = reached.year_ago()
        # A table with a row at the end of each month speaks of its first month too.
        begun = line.first_day if line.partial_first else line.calendar.start(line.grain, line.first)
        if before.start >= begun:
            value = _scalar(table, f"SELECT {measure.sql} FROM source WHERE {statement.rows_of(before)}")
            if value is not None:
                return replace(made, year_before=(before, _one(table, measure, value)))
    if made.labels and not of_levels((measure,)) and measure.kind in ("additive", "mean", "ratio"):
        value = _scalar(table, f"SELECT {measure.sql} FROM source WHERE {statement.condition(wanted.span)}")
        return replace(made, whole=None if value is None else _one(table, measure, value))
    return made


def _settled(
    table: Table, wanted: Wanted, heads: Sequence[str], labels: int, rows: list[tuple[Any, ...]]
) -> list[tuple[Any, ...]]:
    """The rows with figures that do not hang on the order in which the engine added them."""
    named = {measure.name: measure for measure in wanted.measures}
    columns: list[Sequence[Any]] = list(zip(*rows, strict=True))
    for place, head in enumerate(heads[labels:] if columns else (), start=labels):
        kept = [at for at, value in enumerate(columns[place]) if isinstance(value, float)]
        if not kept:
            continue
        # A baseline and a change have the decimals of their measure; a share, a percentage, an average have not.
        measure = named.get(head) or (named[heads[labels]] if head in ("baseline", "change") else _ANY)
        if wanted.per is not None:
            measure = _ANY
        told = settled(table, measure, np.array([columns[place][at] for at in kept]))
        column = list(columns[place])
        for at, value in zip(kept, told.tolist(), strict=True):
            column[at] = value
        columns[place] = column
    return list(zip(*columns, strict=True)) if columns else rows


def _one(table: Table, measure: Measure, value: Any) -> float:
    return float(settled(table, measure, np.array([float(value)]))[0])


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


def _against(span: Period, baseline: str, line: Timeline) -> tuple[Period, Period]:
    """A span and what it is set against, both of the same length where the first is unfinished. Raises PeriodError."""
    then = {"previous": span.previous, "year-ago": span.year_ago}.get(baseline, lambda: span_of(baseline, line))()
    check_apart(span, then)
    if is_unfinished(span, line):
        span = span.until(line.reported_to)
        then = span.year_ago() if baseline == "year-ago" else then.cut_like(span)
    check_inside("baseline", then, line)
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
