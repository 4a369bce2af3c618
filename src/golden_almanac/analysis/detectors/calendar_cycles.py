"""The cycles of the week and of the month, in days.

Within each week the days are ranked, and the ranks compared over the weeks (Friedman 1937, with the F of Iman &
Davenport 1980), so that neither growth nor a season can pass for a weekday. For the month the four weeks of days 1 to
28 are ranked in the same way: each holds every weekday once. A peak or trough is named where it is surer than chance
that it leads the next (see `blocks`).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from ...aggregation import PERIOD, Survey
from ...aggregation.measures import Measure
from ...findings import Candidate, Check, Slice
from ...findings.checks import one_row, scalar, within
from ...findings.finding_kind import FindingKind
from ...sql.expressions import quote_name
from ...stats.autocorrelated_fits import Floats
from ...stats.friedman import friedman
from ...tables import Period
from ..resampling import by_day
from .block_tests import block_test

_WEEKDAYS = tuple("Mondays Tuesdays Wednesdays Thursdays Fridays Saturdays Sundays".split())
_WEEKS = tuple(f"the {name} week of the month" for name in ("first", "second", "third", "fourth"))
#: Weeks, or months, below which no cycle is told; rows on a usual day.
_LEAST_WEEKS, _LEAST_MONTHS, _LEAST_ROWS = 12, 10, 1.0
#: A weekday with rows in fewer weeks is one on which nothing happens.
_OPEN = 0.2
_SURE = 0.01
#: So many places at most lead a cycle together.
MOST_TOGETHER = 3
_TEST = "ranks within each {} (Friedman, F of Iman and Davenport)"


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Cycle:
    """A cycle's blocks: `values` of shape (blocks, places), with names and SQL of its places and days of a place."""

    name: str
    values: Floats
    names: tuple[str, ...]
    numbers: tuple[int, ...]
    sql: str
    span: Period
    days: int


def short_cycles(survey: Survey, kind: FindingKind, floor_strength: float, floor_pct: float) -> list[Candidate]:
    """A candidate for the week and one for the month, of each measure with daily dates enough."""
    day = by_day(survey)
    if day is None:
        return []
    candidates = []
    for measure in survey.measures:
        if measure.kind not in ("additive", "mean", "ratio"):
            continue
        for make in (_week, _month):
            cycle = make(day, measure)
            if cycle is not None:
                candidates.append(_candidate(day, kind, measure, cycle, floor_strength, floor_pct))
    return candidates


def _days(day: Survey, measure: Measure) -> tuple[npt.NDArray[np.int64], Floats, Floats]:
    """Day numbers since 1970 of all complete days, the measure on each (NaN where there is none), and the rows."""
    line = day.timeline
    assert line is not None
    cells = day.cells(PERIOD)
    numbers = np.arange(line.first, line.last + 1)[line.complete]
    rows = cells.rows[line.complete]
    if measure.additive:
        return numbers, measure.factor * cells.linear(measure.top)[line.complete], rows
    return numbers, cells.value(measure)[line.complete], rows


def _week(day: Survey, measure: Measure) -> _Cycle | None:
    numbers, values, rows = _days(day, measure)
    weekday = (numbers + 3) % 7  # 1970-01-01 was a Thursday
    first = int(np.flatnonzero(weekday == 0)[0]) if (weekday == 0).any() else numbers.size
    weeks = (numbers.size - first) // 7
    if weeks < _LEAST_WEEKS:
        return None
    used = slice(first, first + 7 * weeks)
    by_week, rows_by = values[used].reshape(weeks, 7), rows[used].reshape(weeks, 7)
    open_on = np.flatnonzero((rows_by > 0).mean(axis=0) >= _OPEN)
    if open_on.size < 3 or np.median(rows_by[:, open_on]) < _LEAST_ROWS:
        return None
    return _Cycle(
        name="week",
        values=by_week[:, open_on],
        names=tuple(_WEEKDAYS[place] for place in open_on),
        numbers=tuple(int(place) + 1 for place in open_on),
        sql="isodow(CAST({time} AS DATE))",
        span=_span(day, int(numbers[used][0]), int(numbers[used][-1])),
        days=1,
    )


def _month(day: Survey, measure: Measure) -> _Cycle | None:
    numbers, _, rows = _days(day, measure)
    dates = numbers.astype("datetime64[D]")
    months = dates.astype("datetime64[M]")
    of_month = (dates - months.astype("datetime64[D]")).astype(np.int64)
    full, counts = np.unique(months[of_month < 28], return_counts=True)
    full = full[counts == 28]
    if full.size < _LEAST_MONTHS or np.median(rows) < _LEAST_ROWS:
        return None
    use = np.isin(months, full) & (of_month < 28)
    line = day.timeline
    assert line is not None
    cells = day.cells(PERIOD)

    def weekly(terms: Any) -> Floats:
        return np.asarray(cells.linear(terms)[line.complete][use].reshape(full.size, 4, 7).sum(axis=2))

    top = measure.factor * weekly(measure.top)
    if measure.bottom:
        bottom = weekly(measure.bottom)
        top = np.divide(top, bottom, out=np.full(top.shape, np.nan), where=bottom != 0)
    return _Cycle(
        name="month",
        values=top / (7 if measure.additive else 1),
        names=_WEEKS,
        numbers=(0, 1, 2, 3),
        sql="(CASE WHEN day(CAST({time} AS DATE)) <= 28 THEN (day(CAST({time} AS DATE)) - 1) // 7 END)",
        span=_span(day, int(numbers[use][0]), int(numbers[use][-1])),
        days=7,
    )


def _span(day: Survey, first: int, last: int) -> Period:
    line = day.timeline
    assert line is not None
    return line.span(first - line.first, last - line.first)


def _candidate(
    day: Survey, kind: FindingKind, measure: Measure, cycle: _Cycle, floor_strength: float, floor_pct: float
) -> Candidate:
    whole = cycle.values[np.isfinite(cycle.values).all(axis=1)]
    statistic, p = friedman(whole)
    test = _TEST.format(cycle.name)
    if p > _SURE or whole.shape[0] < (_LEAST_WEEKS if cycle.name == "week" else _LEAST_MONTHS):
        return _nothing(kind, measure, test, statistic, p, cycle)
    line = day.timeline
    assert line is not None
    at = cycle.sql.format(time=quote_name(line.column))
    inside = within(day.table, Slice(), line.column, cycle.span)
    among = f"{inside} AND {at} IN ({', '.join(map(str, cycle.numbers))})"
    blocks = cycle.values.shape[0] * cycle.days if measure.additive else 1
    places = _named(whole)
    columns = {"average": scalar(measure, among, blocks * (len(cycle.names) if measure.additive else 1))}
    for name, place in places.items():
        if place:
            numbers = ", ".join(str(cycle.numbers[one]) for one in place)
            times = blocks * (len(place) if measure.additive else 1)
            columns[f"{name}_value"] = scalar(measure, f"{inside} AND {at} IN ({numbers})", times)
    row = day.table.store.query(one_row(columns))
    # Engines add in another order on every run: the last digits are not to be relied on.
    expect = {name: float(f"{float(row.column(name)[0].as_py()):.11g}") for name in columns}
    means = whole.mean(axis=0)
    between = whole - whole.mean(axis=1, keepdims=True)
    both = float((between**2).sum())
    strength = float(whole.shape[0] * ((means - means.mean()) ** 2).sum()) / both if both else 0.0
    profile = means / means.mean() if means.mean() > 0 else np.ones(means.size)
    stands_out = 100 * float(np.abs(profile - 1).max())
    return Candidate(
        kind=kind,
        measure=measure,
        by=None,
        where=Slice(),
        period=cycle.span,
        baseline=None,
        direction=None,
        figures={
            "cycle": cycle.name,
            **said_places(places, cycle.names),
            "strength": strength,
            "profile": [float(one) for one in profile],
            "blocks": int(whole.shape[0]),
            **expect,
            **against_average(expect, measure),
        },
        test=test,
        statistic=statistic,
        p=p,
        strength=_squashed(strength),
        reach=1.0,
        large=stands_out >= floor_pct and strength >= floor_strength / 6,
        check=Check(sql=one_row(columns), expect=expect),
        series={"time": line.column, "profile": profile, "names": cycle.names, "y": profile},
    )


def against_average(seen: Mapping[str, float], measure: Measure) -> dict[str, float]:
    """Peak and trough against the average, in percent, where that says something."""
    average = seen["average"]
    if not measure.in_percent or average <= 0:
        return {}
    names = [name for name in ("peak", "trough") if f"{name}_value" in seen]
    return {f"{name}_pct": 100 * (seen[f"{name}_value"] / average - 1) for name in names}


def _squashed(strength: float) -> float:
    """Days are noisier than months: a fifth of their variance explained is a strong cycle."""
    return float(min(1.0, np.sqrt(max(0.0, strength))))


def _nothing(kind: FindingKind, measure: Measure, test: str, statistic: float, p: float, cycle: _Cycle) -> Candidate:
    return Candidate(
        kind=kind, measure=measure, by=None, where=Slice(), period=None, baseline=None, direction=None,
        figures={"cycle": cycle.name}, test=test, statistic=statistic, p=p, strength=0.0, reach=0.0, large=False,
        check=None,
    )  # fmt: skip


def _named(values: Floats) -> dict[str, tuple[int, ...]]:
    """Peak and trough: one place, or a few next to each other, where it is surer than chance that the least of them
    leads all others; empty where that is so of none."""
    count = values.shape[1]
    order = np.argsort(-values.mean(axis=0), kind="stable")
    found: dict[str, tuple[int, ...]] = {}
    for name, ranked in (("peak", order), ("trough", order[::-1])):
        sizes = range(1, min(MOST_TOGETHER, (count - 1) // 2) + 1)
        found[name] = next((span for size in sizes if (span := _leading(values, ranked, size))), ())
    return found


def _leading(values: Floats, ranked: npt.NDArray[np.intp], size: int) -> tuple[int, ...]:
    """The first places of a ranking, if they are neighbours and lead the next for certain; the look at several sizes is
    paid for."""
    span = neighbours([int(place) for place in ranked[:size]], values.shape[1])
    gap = values[:, ranked[size - 1]] - values[:, ranked[size]]
    return span if span and size * block_test(gap, np.ones(gap.size))[1] <= _SURE else ()


def said_places(places: Mapping[str, tuple[int, ...]], names: Sequence[str]) -> dict[str, str | list[str] | None]:
    """Peak and trough by name where one place leads, and the places of those where several lead together."""
    told: dict[str, str | list[str] | None] = {}
    for name, found in places.items():
        told[name] = names[found[0]] if len(found) == 1 else None
        told[f"{name}_span"] = [names[place] for place in found] if len(found) > 1 else []
    return told


def neighbours(places: Sequence[int], count: int) -> tuple[int, ...]:
    """Places of a cycle in their order around it, if no other lies between them; else nothing."""
    for first in places:
        run = tuple((first + step) % count for step in range(len(places)))
        if set(run) == set(places):
            return run
    return ()
