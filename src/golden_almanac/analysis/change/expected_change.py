"""What is usual: how the same comparison turned out in earlier times, and what was to be expected beforehand."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from ...aggregation import PERIOD, Only, Survey, period_holes
from ...aggregation.measures import Measure
from ...findings import Slice
from ...stats import seasonal_terms
from ...stats.autocorrelated_fits import Floats, bic, left_over, ols
from ...stats.series_holes import filled, mostly_holes
from ...support.phrasing import phrased
from ...tables import Grain, Period
from ...tables.timeline import timeline_of
from ..trading_days import day_weights
from .finer_history import spread_of_moves
from .past_steps import tamed, without_steps, without_wild

#: Fewest earlier comparisons than this say nothing of what is usual.
LEAST_HISTORY = 3
#: Fewest periods before the one reported on of which a forecast is made.
_LEAST_FORECAST = 12
#: Earlier slices from which the usual one tells the dispersion (of fewer their mean square does), the comparisons and
#: Degrees of freedom of a single month's surprise never count for more: one month has no
#: central limit to lean on, and business months have long tails.
_MOST_DF = 4
#: Nor do months of the one year before count for more.
_MONTHS_DF = 3
#: The share of the usual amount of late from which earlier periods count as history.
_OF_SIZE = 0.02
#: The share of a span's days that may be holes beyond those of the two compared.
_UNKNOWN = 0.1
#: Values of the smoothing constant tried.
_SMOOTHING = (0.05, 0.1, 0.2, 0.3, 0.5, 0.7, 1.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Expected:
    """What was to be expected of a comparison, in the measure's unit; 95% range. `season` is true where it is the
    season, not chance, that makes most of it."""

    change: float
    low: float
    high: float
    basis: str
    p: float
    season: bool = False

    @property
    def usual(self) -> bool:
        """True when the change lies within its usual movement."""
        return self.p > 0.05

    def within(self, low: float, high: float) -> Expected:
        """The same, its range kept to what is possible."""
        return replace(self, low=min(max(self.low, low), high), high=max(min(self.high, high), low))


class _Series(NamedTuple):
    """Values of the whole periods before the one reported on, NaN in holes, the logarithms of what their days are
    worth, their numbers, the places between the two compared, and which periods are holes."""

    values: Floats
    worth: Floats
    numbers: npt.NDArray[np.int64]
    grain: Grain
    lag: int
    holes: npt.NDArray[np.bool_]


def possible(by: Expected | None, measure: Measure, before: float, *, positive: bool) -> Expected | None:
    """A range kept to what can be: a share lies between nought and one, an amount that is `positive` never falls below
    nought."""
    if by is None:
        return None
    if measure.share:
        return by.within(-before, 1.0 - before)
    return by.within(-before, np.inf) if positive and before >= 0 else by


def expected_change(
    survey: Survey, measure: Measure, where: Slice, now: Period, then: Period, value0: float, value1: float
) -> Expected | None:
    """What the comparison was in earlier times, or None when there were too few.

    Whole periods a year apart are set against the same in earlier years; others against earlier steps of the same
    length, the season taken off and put on again where the series has one; spans of days against earlier spans.
    """
    if measure.kind == "other":
        return None
    series = _before(survey, measure, where, now, then)
    if series is not None and series.values.size - series.lag < LEAST_HISTORY:
        return _by_months(survey, measure, where, now, then, value0, value1)
    if series is None:
        moves = _windows(survey, measure, where, now, then, value0, value1)
        return _judged(moves, 0.0, value0, value1, phrased("earlier spans of as many days"), moves.log)
    values, lag = series.values, series.lag
    known = np.isfinite(values)
    log = measure.additive and bool(known.any()) and min(float(np.min(values[known])), value0, value1) > 0
    y = np.log(values) - series.worth if log else values
    if not known[~series.holes].all():
        return None
    days = _more_days(survey, measure, now, then) if log else 0.0
    if mostly_holes(series.holes):
        moves = _Moves(y[lag:] - y[:-lag], log, 0)
        return _judged(moves, 0.0, value0, value1, phrased("earlier steps of the same length"), log, days=days)
    season, columns = _season(series, filled(series.grain, series.numbers, y, series.holes))
    # Steps already taken are no measure of what is usual.
    y = y + (without_steps(whole := filled(series.grain, series.numbers, y, series.holes) - season[:-1]) - whole)
    if lag % series.grain.per_year == 0:
        moves = _Moves(y[lag:] - y[:-lag], log, 0)
        return _judged(moves, 0.0, value0, value1, phrased("the same comparison in earlier years"), log, days=days)
    calm = y - season[:-1]
    seasonal = float(season[-1] - season[-1 - lag])
    moves = _Moves(calm[lag:] - calm[:-lag], log, columns)
    years = series.numbers.size // series.grain.per_year
    basis = phrased("earlier steps of the same length")
    if columns and years > 1:
        basis = phrased("the season, from {years} earlier years", years=years)
    return _judged(moves, seasonal, value0, value1, basis, log, days=days)


def forecast_change(
    survey: Survey, measure: Measure, where: Slice, now: Period, then: Period, value0: float, value1: float
) -> Expected | None:
    """What a forecast made just before the period led one to expect; None where there is too little to make one of.

    The series before it, its season taken off, smoothed exponentially (Brown 1959) with the constant that had the
    smallest errors one step ahead; the mean of those errors is its drift, their spread its range.
    """
    series = None if measure.kind == "other" else _before(survey, measure, where, now, then)
    if series is None or series.values.size < _LEAST_FORECAST or mostly_holes(series.holes):
        return None
    known = np.isfinite(series.values)
    log = measure.additive and bool(known.any()) and min(float(np.min(series.values[known])), value0, value1) > 0
    y = np.log(series.values) - series.worth if log else series.values
    if not known[~series.holes].all():
        return None
    y = filled(series.grain, series.numbers, y, series.holes)
    season, _ = _season(series, y)
    # A period that went wild is no level to go on from, nor a season to come again.
    y = season[:-1] + without_wild(y - season[:-1])
    season, columns = _season(series, y)
    calm = y - season[:-1]
    tried = [_smoothed(calm, constant) for constant in _SMOOTHING]
    level, errors = min(tried, key=lambda one: float(np.mean((one[1] - one[1].mean()) ** 2)))
    ahead = level + float(errors.mean()) + float(season[-1])
    start = value0
    if log:
        ahead += float(_worth(survey, measure, [now])[0])
        start = float(np.log(value0))
    moves = _Moves(errors - errors.mean() + (ahead - start), log, columns)
    return _judged(moves, 0.0, value0, value1, "the forecast made before the period", log, most_df=10)


class _Moves(NamedTuple):
    """Earlier moves of the same kind, logarithms where `log`; `spent` columns were fitted to them."""

    moves: Floats
    log: bool
    spent: int


def _judged(
    found: _Moves,
    seasonal: float,
    value0: float,
    value1: float,
    basis: str,
    log: bool,
    most_df: int = _MOST_DF,
    days: float = 0.0,
) -> Expected | None:
    """The move beside earlier ones: Student's t for one new value, with few degrees of freedom. `seasonal` is what the
    season and `days` what the days of the periods add to it."""
    moves = found.moves[np.isfinite(found.moves)]
    n = moves.size
    if n < LEAST_HISTORY:
        return None
    moves = tamed(moves)
    middle = float(np.mean(moves)) + seasonal + days
    spread = float(np.std(moves, ddof=1)) * np.sqrt((1 + 1 / n) * n / max(n - found.spent, 1))
    season = abs(seasonal) > 0.5 * abs(middle) and seasonal != 0
    return _placed(middle, spread, min(most_df, n - 1), value0, value1, log, basis, season=season)


def _placed(
    middle: float, error: float, df: int, value0: float, value1: float, log: bool, basis: str, *, season: bool = False
) -> Expected:
    """A move beside what was to be expected of it and its standard error, by Student's t; logarithms where `log`."""
    from scipy.special import stdtr, stdtrit

    move = float(np.log(value1 / value0)) if log else value1 - value0
    reach = float(stdtrit(df, 0.975)) * error
    p = float(2 * stdtr(df, -abs(move - middle) / error)) if error > 0 else (1.0 if move == middle else 0.0)

    def amount(step: float) -> float:
        return value0 * float(np.expm1(step)) if log else step

    ends = (amount(middle - reach), amount(middle + reach))
    return Expected(change=amount(middle), low=ends[0], high=ends[1], p=p, basis=basis, season=season)


def _by_months(
    survey: Survey, measure: Measure, where: Slice, now: Period, then: Period, value0: float, value1: float
) -> Expected | None:
    """The same comparison by months, for quarters and years that were hardly compared before; None where months do not
    tell."""
    if now.grain not in (Grain.QUARTER, Grain.YEAR):
        return None
    monthly = by_grain(survey, measure, Grain.MONTH)
    if monthly is None or monthly.timeline is None:
        return None
    line = monthly.timeline
    after, before = (int(place) for place in line.places(np.array([now.start, then.start])))
    first, months = line.complete.start, 12 // now.grain.per_year
    values = monthly.kept(Only(where.conditions)).cells(PERIOD).value(measure)[first:after]
    values = np.where(period_holes(monthly)[: after - first], np.nan, values)
    if measure.additive:
        values = values[_begun(np.nan_to_num(values)) :]
    log = measure.additive and bool(np.isfinite(values).any()) and min(float(np.nanmin(values)), value0, value1) > 0
    y = np.log(values) if log else values
    found = spread_of_moves(y[after - before :] - y[: before - after], months) if y.size > after - before > 0 else None
    if found is None or not found.error > 0:
        return None
    # Of months that add up, a difference is told of the sum.
    times = months if measure.additive and not log else 1
    basis = phrased("the same comparison by months")
    return _placed(times * found.middle, times * found.error, _MONTHS_DF, value0, value1, log, basis)


def _season(series: _Series, y: Floats) -> tuple[Floats, int]:
    """The seasonal part of each period and of the one after them, by the columns that pay for themselves (BIC)."""
    n = y.size
    numbers = np.append(series.numbers, series.numbers[-1] + 1)
    time = np.arange(n, dtype=np.float64)
    base = np.column_stack([np.ones(n), time])
    best, score = np.empty((n + 1, 0)), bic(*left_over(base, y), 2)
    for design in seasonal_terms.candidates(series.grain, numbers):
        again = bic(*left_over(np.hstack([base, design[:n]]), y), 2 + design.shape[1])
        if again < score and n > design.shape[1] + 3:
            best, score = design, again
    if not best.shape[1]:
        return np.zeros(n + 1), 0
    beta = ols(np.hstack([base, best[:n]]), y).beta[2:]
    return np.asarray(best @ beta), int(best.shape[1])


def _smoothed(y: Floats, constant: float) -> tuple[float, Floats]:
    """The level after the last value and the errors one step ahead, from the third value on."""
    level, errors = float(y[:2].mean()), []
    for value in y[2:]:
        errors.append(float(value) - level)
        level += constant * errors[-1]
    return level, np.array(errors)


def _before(survey: Survey, measure: Measure, where: Slice, now: Period, then: Period) -> _Series | None:
    found = regrained(survey, measure, now, then)
    if found is None:
        return None
    own, place, lag = found
    line = own.timeline
    assert line is not None
    first = line.complete.start
    values = own.kept(Only(where.conditions)).cells(PERIOD).value(measure)[first:place]
    holes = period_holes(own)[: place - first]
    if measure.additive:
        values = np.where(holes, np.nan, np.nan_to_num(values))
        begun = _begun(values)
        values, holes, first = values[begun:], holes[begun:], first + begun
    assert now.grain is not None
    worth = _worth(survey, measure, [line.period(at) for at in range(first, place)])
    return _Series(values, worth, np.arange(line.first + first, line.first + place), now.grain, lag, holes)


def _begun(values: Floats) -> int:
    """The place from which amounts are of the size that they are of late: a few stray rows of earlier years are no
    history."""
    known = values[np.isfinite(values)]
    late = float(np.median(known[-max(LEAST_HISTORY, known.size // 4) :])) if known.size else 0.0
    there = np.abs(np.nan_to_num(values, nan=np.inf)) >= _OF_SIZE * abs(late)
    return int(np.argmax(there)) if there.any() else 0


def _worth(survey: Survey, measure: Measure, periods: Sequence[Period]) -> Floats:
    """The logarithm of what the days of each period are worth; nought where days do not tell amounts."""
    weights = day_weights(survey, measure)
    worth = np.array([1.0 if weights is None else weights.of(one.start, one.end) for one in periods])
    return np.log(worth) if (worth > 0).all() else np.zeros(worth.size)


def _more_days(survey: Survey, measure: Measure, now: Period, then: Period) -> float:
    after, before = _worth(survey, measure, [now, then])
    return float(after - before)


def _windows(
    survey: Survey, measure: Measure, where: Slice, now: Period, then: Period, value0: float, value1: float
) -> _Moves:
    """Moves between earlier spans of as many days as far apart, those that share no day with each other."""
    nothing = _Moves(np.empty(0), False, 0)
    line = survey.timeline
    assert line is not None
    if now.days != then.days or now.start <= then.start:
        return nothing
    daily = by_grain(survey, measure, Grain.DAY)
    if daily is None or daily.timeline is None:
        return nothing
    cells = daily.kept(Only(where.conditions)).cells(PERIOD)
    top = np.append(0.0, np.cumsum(measure.factor * cells.linear(measure.top)))
    bottom = np.append(0.0, np.cumsum(cells.linear(measure.bottom))) if measure.bottom else None
    shut = np.append(0, np.cumsum(np.append(np.zeros(daily.timeline.complete.start), period_holes(daily))))

    def unknown(start: int) -> float:
        """How many days of a span are holes."""
        return float(np.diff(shut.take([start, start + now.days], mode="clip"))[0])

    ends = [int((one.start - daily.timeline.first_day).astype(np.int64)) for one in (then, now)]
    # A span of which much is not known says nothing of what is usual.
    most = max(map(unknown, ends)) + _UNKNOWN * now.days
    length, before, after = now.days, [], []
    for back in range(1, ends[0] // length + 1):
        pair = []
        for start in ends:
            low = start - back * length
            part = top[low + length] - top[low] if unknown(low) <= most else np.nan
            if bottom is not None:
                below = bottom[low + length] - bottom[low]
                part = part / below if below else np.nan
            pair.append(part)
        before.append(pair[0])
        after.append(pair[1])
    then_values, now_values = np.array(before, dtype=float), np.array(after, dtype=float)
    use = np.isfinite(then_values) & np.isfinite(now_values)
    then_values, now_values = then_values[use], now_values[use]
    if not then_values.size:
        return nothing
    log = measure.additive and min(float(then_values.min()), float(now_values.min()), value0, value1) > 0
    return _Moves(np.log(now_values / then_values) if log else now_values - then_values, log, 0)


def regrained(survey: Survey, measure: Measure, now: Period, then: Period) -> tuple[Survey, int, int] | None:
    """The survey at the grain of the two periods, the place of the later one, and the places between the
    two; None unless both are whole periods of one grain, the baseline first."""
    if now.grain is None or then.grain is not now.grain or not (now.is_whole() and then.is_whole()):
        return None
    own = by_grain(survey, measure, now.grain)
    if own is None or own.timeline is None:
        return None
    line = own.timeline
    places = line.places(np.array([then.start, now.start]))
    lag = int(places[1] - places[0])
    return (own, int(places[1]), lag) if lag > 0 else None


def by_grain(survey: Survey, measure: Measure, grain: Grain) -> Survey | None:
    """The survey by another grain; kept with it."""
    assert survey.timeline is not None
    key = ("regrained", measure.name, grain)
    if key not in survey._cache:
        column, calendar = survey.timeline.column, survey.timeline.calendar
        line = timeline_of(column, survey.table.day_counts(column), grain, calendar)
        survey._cache[key] = Survey(
            table=survey.table,
            measures=(measure,),
            dimensions=survey.dimensions,
            timeline=line,
            finer=survey if measure in survey.measures and grain is not Grain.DAY else None,
        )
    made: Survey = survey._cache[key]
    return made if made.timeline is not None else None
