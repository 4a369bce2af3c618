"""Periods of which a table knows nothing, or not all: no row where there are some in every usual period, or none for a
good part of its days.

Nothing was sold in a month without sales of this or that; but where a whole table has no rows the month was not
recorded, or the office was shut. Such a period is not nought: it takes no part in what is said of levels and movements
(that rows are missing is said by itself). Where rows are few, a period without any is chance, and nought.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from ..stats.series_holes import MOST_HOLES
from ..tables import Period, Timeline
from ..tables.calendar import DAY, Days
from .row_codes import PERIOD
from .survey import Survey

#: Rows in the usual period from which one without any is no chance.
_USUAL = 10
#: The share of the rows that may lie years before all others.
_STRAY = 0.02
#: The share of periods with equally many rows in a table of totals.
_STEADY = 0.9
#: Rows of periods whose variance is so much of their mean, that of events being all of it, come by a calendar.
_SCHEDULED = 0.25
#: Days with rows tell what was recorded where so many of the periods have nearly as many as the usual one: a period
#: with fewer than a good part of them was cut.
_LEAST_DATES, _MOSTLY, _NEARLY, _GOOD_PART = 4, 0.8, 0.85, 0.7
#: A run without rows is so many times as long as the usual gap between days, and this share of a span.
_RUN, _TENTH = 4, 0.1

Mask = npt.NDArray[np.bool_]


def period_holes(survey: Survey) -> Mask:
    """Which complete periods are holes; shape (complete periods,), the same for every slice of a table."""
    whole = survey.whole or survey
    key = "period holes"
    if key not in whole._cache:
        whole._cache[key] = _holes(whole)
    found: Mask = whole._cache[key]
    return found


def _holes(survey: Survey) -> Mask:
    line = survey.timeline
    if line is None or not line.complete_count:
        return np.zeros(0, dtype=bool)
    rows = survey.cells(PERIOD).rows[line.complete]
    empty = rows == 0
    there = rows[~empty]
    if not there.size:
        return np.zeros(rows.size, dtype=bool)
    if empty.mean() > MOST_HOLES:
        # Elections, censuses: nothing was nought in the years between. Of few rows anything may be.
        begun = int(np.searchsorted(np.cumsum(rows), _STRAY * rows.sum(), side="right"))
        sparse = np.median(there) >= _USUAL and empty[begun:].mean() > MOST_HOLES
        return empty if sparse else np.zeros(rows.size, dtype=bool)
    # Dates that come by a calendar (a month has four weeks or five) spread far less than those that come by chance.
    steady = np.mean(there == np.median(there)) >= _STEADY or np.var(there) <= _SCHEDULED * there.mean()
    if not steady and np.median(rows) < _USUAL:
        return np.zeros(rows.size, dtype=bool)
    holes: Mask = empty | _cut(survey, line)
    return holes if float(holes.mean()) <= MOST_HOLES else empty


def _cut(survey: Survey, line: Timeline) -> Mask:
    """Which periods have no rows on a good part of the days that usually have some; not where that comes every year."""
    days, _ = survey.table.day_counts(line.column)
    dates = np.bincount(line.places(days), minlength=line.count)[line.complete].astype(np.float64)
    usual = float(np.median(dates))
    even = np.mean(dates >= _NEARLY * usual) >= _MOSTLY
    if usual < _LEAST_DATES or not even:
        return np.zeros(dates.size, dtype=bool)
    # By chance a month has few days, too; what was not recorded lacks them in one run.
    long = np.flatnonzero(_long_gaps(days))
    run = np.zeros(line.count, dtype=bool)
    for first, last in zip(line.places(days[long] + DAY), line.places(days[long + 1] - DAY), strict=True):
        run[first : last + 1] = True
    cut = (dates < _GOOD_PART * usual) & run[line.complete]
    cycle = line.grain.per_year
    if cycle > 1:
        phase = np.arange(cut.size) % cycle
        every_year = np.array([2 * cut[phase == place].sum() > np.sum(phase == place) > 1 for place in range(cycle)])
        cut &= ~every_year[phase]
    return np.asarray(cut)


def _long_gaps(days: Days) -> Mask:
    """Which of the gaps between days with rows are far longer than usual; shape (days - 1,)."""
    gaps = np.diff(days).astype(np.int64)
    return np.asarray(gaps > max(_RUN * int(np.quantile(gaps, 0.9, method="higher")), 2))


def unrecorded(survey: Survey, span: Period) -> Period | None:
    """The longest run of days without rows in a span where days usually have some; None where it is no more than a
    tenth of the span."""
    line = survey.timeline
    if line is None:
        return None
    days, _ = survey.table.day_counts(line.column)
    if days.size < _LEAST_DATES:
        return None
    ends = np.maximum(days[:-1] + DAY, span.start), np.minimum(days[1:] - DAY, span.end)
    inside = np.where(_long_gaps(days), (ends[1] - ends[0]).astype(np.int64) + 1, 0)
    at = int(np.argmax(inside))
    if inside[at] <= _TENTH * span.days:
        return None
    return Period(start=ends[0][at], end=ends[1][at], grain=None, calendar=line.calendar)
