"""A change between two periods, set against its usual movement and taken apart.

Periods of unequal length are compared like with like: when the period reported on is unfinished, the
baseline is cut to the same number of days.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..cells import PERIOD, Only, Survey
from ..errors import PeriodError
from ..findings import Candidate, Check, Slice
from ..findings.checks import one_row, scalar, within
from ..findings.scoring import squash
from ..measures import Measure
from ..tables import Period
from ..tables.calendar import parse_period
from .contributions import Contribution, additive, captured, factors, ratio
from .usual import Expected, expected_change, usual_excess

#: Labels whose excess is beyond so many of their usual movements explain a change.
_BEYOND = 3.0


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Breakdown:
    """A dimension's contributions, largest first, and how far they stray from a proportional change."""

    by: str
    captured: float
    contributions: tuple[Contribution, ...]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Explanation:
    """A change and what it is made of. `cut_days` is set when the baseline was cut to so many days."""

    survey: Survey
    measure: Measure
    where: Slice
    period: Period
    baseline: Period
    cut_days: int | None
    value: float
    before: float
    rows: int
    rows_before: int
    breakdowns: tuple[Breakdown, ...]
    volume_rate: tuple[tuple[str, float], ...]
    expected: Expected | None
    named: tuple[tuple[str, Contribution, float], ...]

    @property
    def change(self) -> float:
        return self.value - self.before

    @property
    def change_pct(self) -> float | None:
        """Change in percent; None on a zero, negative or tiny base, and for shares (use points)."""
        return percent(self.value, self.before) if not self.measure.share else None


def percent(value: float, base: float) -> float | None:
    """The change in percent, or None where a percentage would mislead: a base that is not positive,
    or tiny against the value."""
    if not base > 0 or value < 0 or base < 0.001 * abs(value):
        return None
    return 100 * (value / base - 1)


def resolve_periods(survey: Survey, period: str | None, baseline: str | None) -> tuple[Period, Period, int | None]:
    """The two periods meant, and the days the baseline was cut to when the period is unfinished.

    Without a period the last complete one is taken; without a baseline, a year ago if the data reach
    back so far, else the period before. Raises PeriodError.
    """
    line = survey.timeline
    if line is None:
        raise PeriodError(
            f"{survey.table.name} has no column of dates, so nothing can be compared over time. "
            "Name one with --time, or check that the dates were read as dates."
        )
    if period is None:
        if line.complete_count == 0:
            raise PeriodError(
                f"{survey.table.name} holds no complete {line.grain.value} to report on. Name the period."
            )
        now = line.period(line.complete.stop - 1)
    elif period == "last":
        now = line.period(line.complete.stop - 1)
    else:
        now = parse_period(period, line.calendar)
    if now.start > line.last_day or now.end < line.first_day:
        raise PeriodError(
            f"The period {now.start} to {now.end} lies outside the data, which run from {line.first_day} "
            f"to {line.last_day}. Choose one within."
        )
    word = baseline or ("year-ago" if now.year_ago().start >= line.first_day else "previous")
    if word == "previous":
        then = now.previous()
    elif word == "year-ago":
        then = now.year_ago()
    else:
        then = parse_period(word, line.calendar)
    if now.overlaps(then):
        raise PeriodError(
            f"The period {now.start} to {now.end} and its baseline {then.start} to {then.end} overlap. "
            "Choose two that share no day."
        )
    cut = None
    unfinished = line.partial_last and now.start <= line.last_day < now.end
    if unfinished:
        cut = int((line.last_day - now.start).astype(np.int64)) + 1
        now = replace(now, end=line.last_day)
        then = then.cut_to(cut)
    if then.end < line.first_day or then.start > line.last_day:
        raise PeriodError(
            f"The baseline {then.start} to {then.end} lies outside the data, which run from "
            f"{line.first_day} to {line.last_day}. Choose one within."
        )
    return now, then, cut


def explain(
    survey: Survey, measure: Measure, now: Period, then: Period, cut: int | None = None, where: Slice | None = None
) -> Explanation:
    """Take the change of a measure between two periods apart. Raises PeriodError when one holds no rows."""
    where = where or Slice()
    both = [survey.kept(Only(where.conditions, (span.start, span.end))) for span in (then, now)]
    counts = [int(part.cells().rows) for part in both]
    for count, span in zip(counts, (then, now), strict=True):
        if count == 0:
            raise PeriodError(
                f"There are no rows from {span.start} to {span.end}"
                + (f" for {where.label}" if where.conditions else "")
                + ". Choose a period that has some."
            )
    value0, value1 = (float(part.cells().value(measure)) for part in both)
    for value, span in zip((value0, value1), (then, now), strict=True):
        if not np.isfinite(value):
            raise PeriodError(
                f"{measure.name} has no value from {span.start} to {span.end}: every row there lacks it. "
                "Choose another period or measure."
            )
    skip = {column for column, _ in where.conditions}
    breakdowns = []
    for column in survey.dimensions:
        if column.name in skip or measure.kind == "other":
            continue
        one = _breakdown(measure, column.name, both)
        if one is not None:
            breakdowns.append(one)
    breakdowns.sort(key=lambda one: (-one.captured, one.by))
    expected = None if cut else expected_change(survey, measure, where, now, then, value0, value1)
    named = (
        () if expected is not None and expected.usual else _named(survey, measure, where, breakdowns, now, then, cut)
    )
    return Explanation(
        survey=survey,
        measure=measure,
        where=where,
        period=now,
        baseline=then,
        cut_days=cut,
        value=value1,
        before=value0,
        rows=counts[1],
        rows_before=counts[0],
        breakdowns=tuple(breakdowns),
        volume_rate=_volume_rate(measure, value0, value1, counts),
        expected=expected,
        named=named,
    )


def unusual(survey: Survey) -> list[Candidate]:
    """Candidates: the last complete period against a year ago (or the one before), for each measure."""
    line = survey.timeline
    if line is None or line.complete_count < 2:
        return []
    try:
        now, then, cut = resolve_periods(survey, None, None)
        found = []
        for measure in survey.measures:
            values = survey.cells(PERIOD).value(measure)
            if not np.isfinite(values[line.complete]).all():
                continue
            found.append(candidate(explain(survey, measure, now, then, cut)))
    except PeriodError:
        return []
    return found


def candidate(one: Explanation) -> Candidate:
    """The change as a candidate finding; its p-value is that of its surprise."""
    table, line = one.survey.table, one.survey.timeline
    assert line is not None
    expected = one.expected
    check = Check(
        sql=one_row(
            {
                "value": scalar(one.measure, within(table, one.where, line.column, one.period)),
                "baseline": scalar(one.measure, within(table, one.where, line.column, one.baseline)),
            }
        ),
        expect={"value": one.value, "baseline": one.before},
    )
    best = one.breakdowns[0] if one.breakdowns else None
    figures: dict[str, Any] = {
        "value": one.value,
        "baseline": one.before,
        "change": one.change,
        "change_pct": one.change_pct,
        "expected_change": None if expected is None else expected.change,
        "expected_low": None if expected is None else expected.low,
        "expected_high": None if expected is None else expected.high,
        "rows": one.rows,
        "rows_baseline": one.rows_before,
        "cut_days": one.cut_days,
        "contributions": []
        if best is None
        else [
            {"by": best.by, "where": {best.by: [part.label]}, "change": part.change, "share": part.share}
            for part in best.contributions
        ]
        + [{"by": None, "factor": name, "change": part, "share": None} for name, part in one.volume_rate],
    }
    surprise = one.change - (0.0 if expected is None else expected.change)
    half = abs(expected.high - expected.low) / 2 if expected is not None else abs(one.change) or 1.0
    return Candidate(
        kind="change",
        measure=one.measure,
        by=None,
        where=one.where,
        period=one.period,
        baseline=one.baseline,
        direction="flat" if one.change == 0 else "up" if one.change > 0 else "down",
        figures=figures,
        test="surprise against earlier comparisons of the same kind",
        statistic=None,
        p=1.0 if expected is None else expected.p,
        strength=squash(surprise / (half or 1.0), 1.5),
        reach=1.0,
        large=expected is not None,
        check=check,
        series={"time": line.column, "explanation": one},
    )


def _breakdown(measure: Measure, by: str, both: list[Survey]) -> Breakdown | None:
    cells0, cells1 = (part.cells(by) for part in both)
    (labels,) = cells0.labels
    top0, top1 = (cells.linear(measure.top) for cells in (cells0, cells1))
    if measure.additive:
        parts = additive(labels, measure.factor * top0, measure.factor * top1, cells0.rows, cells1.rows)
        weight = measure.factor * top0
    else:
        bottom0, bottom1 = (cells.linear(measure.bottom) for cells in (cells0, cells1))
        if not bottom0.sum() or not bottom1.sum():
            return None
        parts = ratio(labels, measure.factor * top0, bottom0, measure.factor * top1, bottom1)
        weight = bottom0
    if len(parts) < 2:
        return None
    present = np.array([labels.index(part.label) for part in parts])
    share = captured(np.array([part.change for part in parts]), weight[present], float(weight[present].sum()))
    parts.sort(key=lambda part: (-abs(part.change), part.label or ""))
    return Breakdown(by=by, captured=share, contributions=tuple(parts))


def _volume_rate(measure: Measure, value0: float, value1: float, counts: list[int]) -> tuple[tuple[str, float], ...]:
    """A sum as rows times amount per row: how much of the change is more rows, how much is more per row."""
    if not measure.additive or len(measure.top) != 1 or measure.top[0][1].kind != "sum":
        return ()
    n0, n1 = (float(count) for count in counts)
    split = factors(value0, value1, (n0, value0 / n0), (n1, value1 / n1))
    return () if split is None else (("volume", split[0]), ("rate", split[1]))


def _named(
    survey: Survey,
    measure: Measure,
    where: Slice,
    breakdowns: list[Breakdown],
    now: Period,
    then: Period,
    cut: int | None,
) -> tuple[tuple[str, Contribution, float], ...]:
    """The labels of the most telling dimension whose excess over a proportional change is beyond what
    is usual for them, largest first, with that excess."""
    for breakdown in breakdowns:
        found = []
        change = sum(part.change for part in breakdown.contributions)
        weights = {part.label: part.baseline or 0.0 for part in breakdown.contributions} if measure.additive else {}
        total = sum(weights.values())
        for part in breakdown.contributions:
            proportional = change * weights.get(part.label, 0.0) / total if total else 0.0
            excess = part.change - proportional
            usual = None if cut else usual_excess(survey, measure, where, breakdown.by, part.label, now, then)
            enough = 0.25 * max(abs(change), 1e-300) if usual is None else _BEYOND * usual
            telling = abs(excess) > enough
            if telling and (not change or excess * change > 0 or abs(excess) > 0.5 * abs(change)):
                found.append((breakdown.by, part, excess))
        if found:
            return tuple(sorted(found, key=lambda one: (-abs(one[2]), one[1].label or "")))[:3]
    return ()
