"""What is usual: how the same comparison turned out in earlier times."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..cells import PERIOD, Survey
from ..findings import Slice
from ..measures import Measure
from ..series.regression import Floats
from ..tables import Period
from ..tables.timeline import timeline_of

#: Fewer earlier comparisons than this say nothing of what is usual.
LEAST_HISTORY = 3
#: Degrees of freedom of a single month's surprise never count for more: one month has no
#: central limit to lean on, and business months have long tails.
_MOST_DF = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class Expected:
    """What earlier years lead one to expect of this comparison, in the measure's unit; 95% range."""

    change: float
    low: float
    high: float
    basis: str
    p: float

    @property
    def usual(self) -> bool:
        """True when the change lies within its usual movement."""
        return self.p > 0.05


def expected_change(
    survey: Survey, measure: Measure, where: Slice, now: Period, then: Period, value0: float, value1: float
) -> Expected | None:
    """What the comparison was in earlier times, or None when there were too few.

    Student's t for one new value, with few degrees of freedom.
    """
    from scipy.special import stdtr, stdtrit

    before, after, whole_year = _history(survey, measure, where, now, then)
    log = measure.additive and before.size > 0 and min(before.min(), after.min(), value0, value1) > 0
    moves = np.log(after / before) if log else after - before
    moves = moves[np.isfinite(moves)]
    if moves.size < LEAST_HISTORY:
        return None
    middle = float(np.mean(moves))
    spread = float(np.std(moves, ddof=1)) * np.sqrt(1 + 1 / moves.size)
    df = min(_MOST_DF, moves.size - 1)
    reach = float(stdtrit(df, 0.975)) * spread
    move = float(np.log(value1 / value0)) if log else value1 - value0
    p = float(2 * stdtr(df, -abs(move - middle) / spread)) if spread > 0 else (1.0 if move == middle else 0.0)

    def amount(step: float) -> float:
        return value0 * float(np.expm1(step)) if log else step

    return Expected(
        change=amount(middle),
        low=amount(middle - reach),
        high=amount(middle + reach),
        p=p,
        basis="the same comparison in earlier years" if whole_year else "earlier steps of the same length",
    )


def usual_excess(
    survey: Survey, measure: Measure, where: Slice, by: str, label: str | None, now: Period, then: Period
) -> float | None:
    """Standard deviation of a label's excess over a proportional change in earlier comparisons."""
    if not measure.additive or where.conditions:
        return None
    found = _regrained(survey, measure, now, then)
    if found is None:
        return None
    regrained, earlier, lag = found
    if earlier.size < LEAST_HISTORY:
        return None
    series = regrained.cells(by, PERIOD).linear(measure.top)
    own = series[survey.labels(by).index(label)]
    whole = series.sum(axis=0)
    with np.errstate(divide="ignore", invalid="ignore"):
        excess = (own[earlier] - own[earlier - lag]) - own[earlier - lag] * (whole[earlier] / whole[earlier - lag] - 1)
    known = excess[np.isfinite(excess)]
    return float(np.std(known, ddof=1)) if known.size >= LEAST_HISTORY else None


def _history(survey: Survey, measure: Measure, where: Slice, now: Period, then: Period) -> tuple[Floats, Floats, bool]:
    """Earlier pairs (baseline, value) of the same distance, and whether both lie a whole year apart."""
    found = None if measure.kind == "other" else _regrained(survey, measure, now, then)
    if found is None:
        return np.empty(0), np.empty(0), False
    regrained, earlier, lag = found
    if where.conditions:
        ((column, label),) = where.conditions[:1]
        values = regrained.cells(column, PERIOD).value(measure)[survey.labels(column).index(label)]
    else:
        values = regrained.cells(PERIOD).value(measure)
    assert now.grain is not None
    return values[earlier - lag], values[earlier], lag % now.grain.per_year == 0


def _regrained(
    survey: Survey, measure: Measure, now: Period, then: Period
) -> tuple[Survey, np.ndarray[tuple[int], np.dtype[np.int64]], int] | None:
    """The survey at the grain of the two periods, the places of earlier periods of the kind, and the places between
    the two; None unless both are whole periods of one grain, the baseline first."""
    assert survey.timeline is not None
    if now.grain is None or then.grain is not now.grain or not (now.is_whole() and then.is_whole()):
        return None
    key = ("regrained", measure.name, now.grain)
    if key not in survey._cache:
        column, calendar = survey.timeline.column, survey.timeline.calendar
        line = timeline_of(column, survey.table.day_counts(column), now.grain, calendar)
        survey._cache[key] = Survey(
            table=survey.table,
            measures=(measure,),
            dimensions=survey.dimensions,
            timeline=line,
            finer=survey if measure in survey.measures else None,
        )
    regrained: Survey = survey._cache[key]
    line = regrained.timeline
    if line is None:
        return None
    places = line.places(np.array([then.start, now.start]))
    lag = int(places[1] - places[0])
    return (regrained, np.arange(line.complete.start + lag, int(places[1])), lag) if lag > 0 else None
