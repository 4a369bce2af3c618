"""Whether rows stand alone: sales of one day do not know those of the day before, totals and readings do.

How much of a series' ups and downs the spread of its rows makes can be told only where they do. It is seen at the
finest grain there is: of days, what is left of each beside its weekday and the fortnight around it, against the day
before. Tables with one date a period have no finer grain, and rows that are always as many are totals of something.
"""

from __future__ import annotations

import numpy as np

from ..aggregation import PERIOD, Survey, period_holes
from ..aggregation.measures import Measure
from ..stats.autocorrelated_fits import Floats
from ..tables.calendar import MONDAY
from .resampling import by_day

#: Days around one that it is set against, on each side; autocorrelation of days from which they remember.
_AROUND, _REMEMBERS = 7, 0.15
#: Days of which the memory is believed, and dates a period that make a finer grain.
_LEAST_DAYS, _LEAST_DATES = 60, 4
#: Events without a finer grain vary in number as chance has it (variance and mean alike), or more.
_EVENTS = 0.5


def rows_stand_alone(survey: Survey, measure: Measure) -> bool:
    """Whether the rows behind a measure are events that do not know of each other; kept with the survey."""
    key = ("rows stand alone", measure.name)
    if key not in survey._cache:
        survey._cache[key] = _stand_alone(survey, measure)
    return bool(survey._cache[key])


def _stand_alone(survey: Survey, measure: Measure) -> bool:
    line = survey.timeline
    assert line is not None
    dates, _ = survey.table.day_counts(line.column)
    if dates.size < _LEAST_DATES * line.count:
        return False
    day = by_day(survey)
    if day is None or day.timeline is None or day.timeline.complete_count < _LEAST_DAYS:
        rows = survey.cells(PERIOD).rows[line.complete][~period_holes(survey)]
        return bool(np.var(rows) >= _EVENTS * np.mean(rows))
    cells, span = day.cells(PERIOD), day.timeline.complete
    values = cells.linear(measure.top)[span] if measure.additive else cells.value(measure)[span]
    values = np.where(period_holes(day), np.nan, values)
    numbers = np.arange(day.timeline.first, day.timeline.last + 1)[span]
    return _leaning(values, (numbers + MONDAY) % 7) < _REMEMBERS


def _leaning(values: Floats, weekday: np.ndarray) -> float:
    """The autocorrelation of days beside their weekday and the fortnight around them; days without a value left out."""
    known = np.isfinite(values)
    filled = np.where(known, values, 0.0)
    left = values.astype(np.float64, copy=True)
    for place in range(7):
        own = (weekday == place) & known
        if own.any():
            left[own] -= filled[own].mean()
    filled = np.where(known, left, 0.0)
    window = np.ones(2 * _AROUND + 1)
    held = np.maximum(np.convolve(known.astype(np.float64), window, "same"), 1.0)
    left = left - np.convolve(filled, window, "same") / held
    both = known[1:] & known[:-1]
    spread = float(np.nanmean(left**2))
    if both.sum() < _LEAST_DAYS / 2 or not spread > 0:
        return 0.0
    return float(np.mean((left[1:] * left[:-1])[both])) / spread
