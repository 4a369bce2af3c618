"""Key figures: a handful of measures over a span, each against the span before and against what is usual for it.

What is usual comes from the spans before: a straight line through them, the season of the year where there are two
years of it, and the spread of their ups and downs from one to the next (individuals and moving range, Shewhart's chart
for single values; the median moving range, so that one wild span does not widen it). A figure three standard errors
away is worth a look.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..aggregation import PERIOD, Survey
from ..aggregation.measures import Measure, lead_measure, parse_measure
from ..support.better_directions import better_way
from ..support.errors import AlmanacError, PeriodError
from ..tables import Grain, Period, Timeline
from .change.compared_periods import span_of
from .resampling import by_day

Floats = npt.NDArray[np.float64]
#: Figures at most, spans looked back at, and spans from which what is usual is told.
MOST_FIGURES, _BACK, _LEAST = 12, 36, 8
#: Standard errors beyond which a figure is worth a look; spans that the level is taken from; the median moving range
#: of normal values in standard deviations.
_LOOK, _LEVEL, _MEDIAN_RANGE = 3.0, 6, 0.954
#: Values whose spread is so many times that of their moves wander.
_WANDERS = 1.35
#: Figures that are told where none are named; periods in a year whose place in it can be told.
_CHOSEN = 8
_IN_A_YEAR = {Grain.MONTH: 12, Grain.QUARTER: 4}


@dataclass(frozen=True, slots=True, kw_only=True)
class JudgedFigure:
    """A measure over a span: its `value`, that of the span `before`, the usual range (`low`, `high`; None where the
    past is too short), the values of the spans up to it, a `target`; `better` which way is better, where known."""

    measure: Measure
    value: float
    before: float | None
    low: float | None
    high: float | None
    series: tuple[tuple[Period, float], ...]
    target: float | None = None
    better: str | None = None

    @property
    def outside(self) -> int:
        """Above its usual range (1), below (-1), or within (0)."""
        if self.low is None or self.high is None:
            return 0
        return int(self.value > self.high) - int(self.value < self.low)


@dataclass(frozen=True, slots=True, kw_only=True)
class KeyFigures:
    """Figures of one span, those worth a look first; `before` is the span before."""

    survey: Survey
    period: Period
    before: Period
    figures: tuple[JudgedFigure, ...]


def key_figures_of(
    survey: Survey,
    measures: Sequence[str] | None,
    period: str | None,
    targets: Mapping[str, float],
    better: Mapping[str, str],
) -> KeyFigures:
    """The figures of a span. Raises PeriodError, ExpressionError."""
    line = survey.timeline
    if line is None:
        raise PeriodError(f"{survey.table.name} has no dates, so no span can be told. Name the column of dates.")
    spans, places, own = _spans(survey, period)
    chosen = list(survey.measures)[:MOST_FIGURES] if measures else _choice(survey)
    aims = {parse_measure(sql, survey.table).name: value for sql, value in targets.items()}
    ways = {parse_measure(sql, survey.table).name: way for sql, way in better.items()}
    made = []
    for measure in chosen:
        values = _told(own, places, _values(own, measure, places))
        if not np.isfinite(values[-1]):
            continue
        low, high = _usual(values, measure, spans)
        known = [(span, float(value)) for span, value in zip(spans, values, strict=True) if np.isfinite(value)]
        made.append(
            JudgedFigure(
                measure=measure,
                value=float(values[-1]),
                before=float(values[-2]) if values.size > 1 and np.isfinite(values[-2]) else None,
                low=low,
                high=high,
                series=tuple(known),
                target=aims.get(measure.name),
                better=ways.get(measure.name) or _way(measure),
            )
        )
    if not made:
        raise PeriodError("There are no rows in the span that is asked for. Choose another.")
    # What is worth a look stands first; else as they were named.
    made.sort(key=lambda one: one.outside == 0)
    return KeyFigures(survey=survey, period=spans[-1], before=spans[-2], figures=tuple(made))


def _way(measure: Measure) -> str | None:
    return better_way([measure.name, *(part.column for _, part in measure.top)])


def _choice(survey: Survey) -> list[Measure]:
    """The leading amount, what it comes to by what is counted, rates that people worry about, the rest."""
    lead = lead_measure(survey.measures)
    others = [one for one in survey.measures if one != lead]
    others.sort(key=lambda one: (one.additive, _way(one) != "down", _way(one) is None))
    made = [lead, *others][: _CHOSEN - 1]
    counted = [one for one in survey.measures if one.additive and one != lead and _counts(survey, one)]
    if lead.additive and counted:
        below = max(counted, key=lambda one: _together(survey, lead, one))
        try:
            made.insert(1, parse_measure(f"{lead.sql} / {below.sql}", survey.table))
        except AlmanacError:
            return made
    return made


def _together(survey: Survey, one: Measure, other: Measure) -> float:
    """How closely two measures go up and down together from period to period."""
    cells = survey.cells(PERIOD)
    moves = [np.diff(cells.value(measure)) for measure in (one, other)]
    known = np.isfinite(moves[0]) & np.isfinite(moves[1])
    if known.sum() < 3 or any(np.ptp(move[known]) == 0 for move in moves):
        return -1.0
    return float(np.corrcoef(moves[0][known], moves[1][known])[0, 1])


def _counts(survey: Survey, measure: Measure) -> bool:
    column = measure.top[0][1].column
    return bool(column) and survey.table.column(column).nature == "count"


def _spans(survey: Survey, period: str | None) -> tuple[list[Period], npt.NDArray[np.int64], Survey]:
    """The spans, the last the one that is asked for, and the places of their first and past their last period in a
    survey by periods or by days, shape (spans, 2)."""
    line = survey.timeline
    assert line is not None
    if period is not None and period.startswith("last ") and period.endswith(("day", "days")):
        now, daily = span_of(period, line), by_day(survey)
        if daily is None or daily.timeline is None:
            raise PeriodError(f"The dates of {line.column} do not tell days, so {period!r} cannot be told.")
        days, end = now.days, daily.timeline.count
        count = min(_BACK, end // days)
        if count < 2:
            raise PeriodError(f"There are {end} days, too few to set {period!r} beside the days before.")
        places = np.array([[end - (back + 1) * days, end - back * days] for back in range(count)])[::-1]
        spans = [_days(daily.timeline, int(first), int(past)) for first, past in places]
        return spans, places, daily
    last = line.complete.stop - 1
    if period is not None and period not in ("last", "last complete period"):
        wanted = span_of(period, line)
        number = int(line.calendar.number(line.grain, np.array([wanted.start]))[0]) - line.first
        whole = line.calendar.period(line.grain, line.first + number)
        if (whole.start, whole.end) != (wanted.start, wanted.end):
            raise PeriodError(f"{period} is no {line.grain.value}. Ask by --grain, or for the last so many days.")
        last = number
    if not line.complete.start < last < line.complete.stop:
        raise PeriodError(f"There is no complete {line.grain.value} of that name with one before it. Choose another.")
    first = max(line.complete.start, last - _BACK + 1)
    places = np.array([[place, place + 1] for place in range(first, last + 1)])
    return [line.period(place) for place in range(first, last + 1)], places, survey


def _days(line: Timeline, first: int, past: int) -> Period:
    return Period(start=line.period(first).start, end=line.period(past - 1).end, calendar=line.calendar)


def _values(survey: Survey, measure: Measure, places: npt.NDArray[np.int64]) -> Floats:
    """The measure over each span: tops over bottoms, added up apart."""
    cells = (survey if measure in survey.measures else _with(survey, measure)).cells(PERIOD)
    if measure.kind not in ("additive", "mean", "ratio") or measure.level:
        values = cells.value(measure)
        return np.array([values[past - 1] for _, past in places], dtype=float)
    top = [float(np.nansum(cells.linear(measure.top)[first:past])) for first, past in places]
    if not measure.bottom:
        rows = [float(cells.rows[first:past].sum()) for first, past in places]
        return measure.factor * np.where(np.array(rows) > 0, np.array(top), np.nan)
    bottom = np.array([float(np.nansum(cells.linear(measure.bottom)[first:past])) for first, past in places])
    with np.errstate(divide="ignore", invalid="ignore"):
        return measure.factor * np.where(bottom != 0, np.array(top) / bottom, np.nan)


def _told(survey: Survey, places: npt.NDArray[np.int64], values: Floats) -> Floats:
    """Values of spans that have rows enough to be told of."""
    rows = survey.cells(PERIOD).rows
    enough = [rows[first:past].sum() >= survey.table.minimum for first, past in places]
    return np.where(enough, values, np.nan)


def _with(survey: Survey, measure: Measure) -> Survey:
    from dataclasses import replace

    return replace(survey, measures=(*survey.measures, measure), finer=None, _cache={})


def _usual(values: Floats, measure: Measure, spans: Sequence[Period]) -> tuple[float | None, float | None]:
    """The usual range of the last of some values, by those before it; None where they are too few."""
    past = values[:-1]
    known = np.isfinite(past)
    if known.sum() < _LEAST:
        return None, None
    logs = measure.additive and bool((past[known] > 0).all())
    y = np.log(np.where(known, past, 1.0)) if logs else np.where(known, past, 0.0)
    along = np.arange(values.size, dtype=float)
    slope, base = np.polyfit(along[:-1][known], y[known], 1)
    left = y - (base + slope * along[:-1])
    length = 1 if spans[-1].grain is None else _IN_A_YEAR.get(spans[-1].grain, 1)
    season, years, taken = np.zeros(values.size), 0.0, 2
    if length > 1 and known.sum() >= 2 * length:
        place = (np.arange(values.size) - (values.size - 1)) % length
        for one in range(length):
            own = known & (place[:-1] == one)
            season[place == one] = left[own].mean() if own.any() else 0.0
        years, taken = float((known & (place[:-1] == 0)).sum()), length + 1
        left = left - season[:-1]
    rest = left[known]
    sigma = float(np.median(np.abs(np.diff(rest)))) / _MEDIAN_RANGE
    # What was fitted to the values lies nearer to them than to the next one.
    sigma *= np.sqrt(rest.size / max(rest.size - taken, 1))
    if float(rest.std()) > _WANDERS * sigma:
        # Values that wander go on from the last one; what moves them in one step is what moves them in the next.
        middle = float(y[known][-1] - season[:-1][known][-1] + season[-1])
        half = _LOOK * sigma * np.sqrt(2 + (1 / years if years else 0.0))
    else:
        middle = base + slope * along[-1] + season[-1] + float(rest[-_LEVEL:].mean())
        half = _LOOK * sigma * np.sqrt(1 + 1 / _LEVEL + (1 / years if years else 0.0))
    low, high = middle - half, middle + half
    if logs:
        return float(np.exp(low)), float(np.exp(high))
    if measure.share:
        return max(0.0, float(low)), min(1.0, float(high))
    return float(low), float(high)
