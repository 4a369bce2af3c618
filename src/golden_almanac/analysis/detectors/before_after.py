"""Windows of a series that a sentence and a plain SQL query can both speak of: before and after."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from ...aggregation import PERIOD, Survey
from ...aggregation.measures import Measure
from ...findings import Slice
from ...findings.checks import one_row, scalar, within
from ...findings.finding import Check
from ...stats.autocorrelated_fits import Floats
from ...tables import Grain, Period
from ..known_series import recorded, recorded_places
from ..like_for_like import like_for_like

#: Periods averaged where nothing else limits the window, and the share of a leg that each of its two ends is.
_MOST, _FIFTH = 12, 0.2


@dataclass(frozen=True, slots=True, kw_only=True)
class Windows:
    """Two spans of equally many complete periods, `length` each. `same_months` tells that they cover the
    same time of year; where the data do not reach back far enough they do not, and no sentence may say so."""

    before: Period
    after: Period
    length: int
    same_months: bool


def around_leg(survey: Survey, first: int, last: int, seasonal: bool) -> Windows:
    """The start and end of a leg that runs over places `first` … `last` of the timeline."""
    line = survey.timeline
    assert line is not None
    cycle = line.grain.per_year
    count = last - first + 1
    yearly = seasonal and line.grain is not Grain.YEAR
    start = first
    if line.grain is not Grain.YEAR and count >= 2 * cycle:
        # The first year and the last, as people set them against each other.
        length = cycle
        same_months = (last + 1 - length - start) % cycle == 0
    elif yearly and last + 1 - min(count, cycle) - cycle >= line.complete.start:
        length = min(count, cycle)
        start = last + 1 - length - cycle
        same_months = True
    else:
        length = max(2, min(_MOST, round(_FIFTH * count))) if count >= 6 else max(1, count // 2)
        same_months = False
    # Twelve months hold every month, wherever they begin.
    return Windows(
        before=line.span(start, start + length - 1),
        after=line.span(last + 1 - length, last),
        length=length,
        same_months=same_months or (yearly and length == cycle),
    )


def around_stretch(survey: Survey, first: int, last: int, seasonal: bool) -> Windows:
    """The year before a stretch that runs over places `first` … `last` of the timeline and the year after it, where
    there are both; else its start and end."""
    line = survey.timeline
    assert line is not None
    cycle = line.grain.per_year
    if first - cycle < line.complete.start or last + cycle >= line.complete.stop:
        return around_leg(survey, first, last, seasonal)
    return Windows(
        before=line.span(first - cycle, first - 1),
        after=line.span(last + 1, last + cycle),
        length=cycle,
        same_months=cycle > 1,
    )


def around_step(survey: Survey, place: int, first: int, last: int, seasonal: bool) -> Windows:
    """Before and after a step at `place`: the same months a year before where the series is seasonal."""
    line = survey.timeline
    assert line is not None
    cycle = line.grain.per_year
    room_after = last + 1 - place
    same_months = seasonal and place - cycle >= first
    if same_months:
        length = min(room_after, cycle)
        start = place - cycle
    else:
        length = min(room_after, place - first, _MOST)
        start = place - length
    return Windows(
        before=line.span(start, start + length - 1),
        after=line.span(place, place + length - 1),
        length=length,
        same_months=same_months,
    )


def moved(seen: dict[str, float], names: tuple[str, str], in_proportion: bool) -> float:
    """The observed movement from the first to the second of `names`, against the rest where there is one.

    What is compared in proportion is so as ratios to the rest, else by its difference: its sign must be the claim's.
    """
    before, after = (seen[name] for name in names)
    if "rest_" + names[0] not in seen:
        return after - before
    rest_before, rest_after = (seen["rest_" + name] for name in names)
    if not in_proportion:
        return (after - before) - (rest_after - rest_before)
    return (after / rest_after if rest_after else 0.0) - (before / rest_before if rest_before else 0.0)


def observed(
    survey: Survey,
    measure: Measure,
    where: Slice,
    windows: Windows,
    names: tuple[str, str],
    parent: Slice | None = None,
    besides: tuple[Slice, ...] = (),
) -> tuple[dict[str, float], Check]:
    """The measure per period in both windows, of the slice and of the rest, and the SQL that checks it.

    Slices in `besides` are left out of the rest.

    Sums are per period of the grain; averages and ratios are those of all rows in the window.
    """
    line = survey.timeline
    assert line is not None
    columns: dict[str, str] = {}
    for name, period in zip(names, (windows.before, windows.after), strict=True):
        divide, known = _divided(survey, measure, period), recorded(survey, period)
        columns[name] = scalar(measure, within(survey.table, where, line.column, known), divide)
        if parent is not None:
            columns["rest_" + name] = scalar(
                measure, within(survey.table, parent, line.column, known, outside=(where, *besides)), divide
            )
    figures = {
        name: value_over(survey, measure, where, period, _divided(survey, measure, period))
        for name, period in zip(names, (windows.before, windows.after), strict=True)
    }
    if parent is not None:
        for name, period in zip(names, (windows.before, windows.after), strict=True):
            divide = _divided(survey, measure, period)
            figures["rest_" + name] = value_over(survey, measure, parent, period, divide, leave_out=(where, *besides))
    return figures, Check(sql=one_row(columns), expect=figures)


def _divided(survey: Survey, measure: Measure, period: Period) -> int:
    """By how much a sum over a span is divided to be that of a period: those that are no holes."""
    return known_in(survey, period) if measure.additive else 1


def known_in(survey: Survey, period: Period) -> int:
    """How many of the periods of a span are no holes; at least one."""
    return max(1, recorded_places(survey, period).size)


def value_over(
    survey: Survey, measure: Measure, where: Slice, period: Period, divide: int, leave_out: tuple[Slice, ...] = ()
) -> float:
    """The measure of a slice over a span of complete periods, read off the cells; holes are left out."""
    span = recorded_places(survey, period)
    top = float(_terms(survey, measure.top, where, leave_out)[span].sum())
    if not measure.bottom:
        return measure.factor * top / divide
    bottom = float(_terms(survey, measure.bottom, where, leave_out)[span].sum())
    return measure.factor * top / bottom / divide if bottom else float("nan")


def series_of_others(
    survey: Survey, measure: Measure, where: Slice, parent: Slice, besides: tuple[Slice, ...] = ()
) -> Floats:
    """The measure of all other rows of the parent, period by period: what is said and drawn of "the others" is what
    whoever adds them up will find, those that begin or end on the way among them. NaN where there is none."""
    line = survey.timeline
    assert line is not None
    top, bottom = (
        _terms(survey, terms, parent, (where, *besides))[line.complete] if terms else None
        for terms in (measure.top, measure.bottom)
    )
    assert top is not None
    if bottom is None:
        return measure.factor * top
    others: Floats = measure.factor * np.divide(top, bottom, out=np.full(top.shape, np.nan), where=bottom != 0)
    return others


def _terms(
    survey: Survey, terms: tuple[tuple[float, object], ...], where: Slice, leave_out: tuple[Slice, ...]
) -> Floats:
    """The sum of terms in each period, over the rows of a slice that are in none of those left out."""

    def of(part: Slice) -> Floats:
        if not part.conditions:
            return np.asarray(survey.cells(PERIOD).linear(terms), dtype=float)  # type: ignore[arg-type]
        ((column, label),) = part.conditions
        code = survey.labels(column).index(label)
        return np.asarray(survey.cells(column, PERIOD).linear(terms)[code], dtype=float)  # type: ignore[arg-type]

    whole = of(where)
    for part in leave_out:
        whole = whole - of(part)
    return whole


def growth_of_whole(
    survey: Survey, measure: Measure, where: Slice, windows: Windows, check: Check
) -> tuple[dict[str, Any] | None, Check]:
    """What the whole did like for like, since its growth may be that of new parts alone, with the check that gives it
    too; None for a slice, and where nothing came or ended."""
    line = survey.timeline
    assert line is not None
    same = known_in(survey, windows.before) == known_in(survey, windows.after)
    told = same and not where.conditions
    alike = like_for_like(survey, measure, where, windows.before, windows.after) if told else None
    if alike is None:
        return None, check
    expect, stayed = {"stayed_start": alike.before, "stayed_end": alike.now}, alike.condition(survey.table)
    columns = ", ".join(
        f"{scalar(measure, f'{within(survey.table, where, line.column, span)} AND {stayed}')} AS {name}"
        for name, span in zip(expect, (windows.before, windows.after), strict=True)
    )
    return alike.to_dict(survey.table), Check(sql=f"{check.sql}, {columns}", expect={**check.expect, **expect})
