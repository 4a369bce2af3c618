"""What the days of a period are worth: February is short, and a month of five Sundays sells less than one of four.

Each day counts as its weekday does, by the average over whole weeks, where the weekdays differ for certain (Friedman's
test); weekdays on which nothing happens count nothing, and public holidays as holidays of that name did (of all names
where one came but once), beside the weeks around them. Amounts that do not come day by day (invoices on the first) are
left as they are.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, field, replace

import numpy as np
import numpy.typing as npt

from ..aggregation import PERIOD, Survey
from ..aggregation.measures import Measure
from ..findings import Slice
from ..findings.checks import within
from ..sql.expressions import quote_name
from ..stats.autocorrelated_fits import Floats
from ..stats.friedman import friedman
from ..tables import Grain, Period
from ..tables.calendar import MONDAY, Calendar
from .resampling import by_day

#: Whole weeks below which days are all worth the same, and the chance from which weekdays do.
_LEAST_WEEKS, _SURE = 12, 0.01
#: A weekday with rows in a smaller share of weeks is closed; open weekdays must have rows on so many days.
_OPEN, _COVERED = 0.2, 0.6
#: Amounts of which the three foremost days of the month make more than so much do not come day by day.
_CLUMPED = 0.3


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class DayWeights:
    """What a day is worth, 1 on average: by weekday from Monday on, shape (7,), over the whole weeks from `first` to
    `last`; and public holidays by themselves."""

    weekdays: Floats
    calendar: Calendar
    first: np.datetime64
    last: np.datetime64
    by_holiday: dict[str, float] = field(default_factory=dict)
    holiday: float = 1.0

    def of(self, first: np.datetime64, last: np.datetime64) -> float:
        """The worth of all days from the first to the last."""
        numbers = np.arange(first.astype(np.int64), last.astype(np.int64) + 1)
        counts = np.bincount((numbers + MONDAY) % 7, minlength=7)
        total = float(counts @ self.weekdays)
        if self.by_holiday:
            for day, name in self.calendar.holiday_names(first, last).items():
                own = float(self.weekdays[(int(day.astype(np.int64)) + MONDAY) % 7])
                total += own * (self.by_holiday.get(name, self.holiday) - 1)
        return total

    @property
    def span(self) -> Period:
        """The whole weeks that the weekdays are taken from."""
        return Period(start=self.first, end=self.last, calendar=self.calendar)

    def open_days(self, period: Period) -> int:
        """The days of a period on which something happens."""
        numbers = np.arange(period.start.astype(np.int64), period.end.astype(np.int64) + 1)
        return int((self.weekdays[(numbers + MONDAY) % 7] > 0).sum())


def day_weights(survey: Survey, measure: Measure) -> DayWeights | None:
    """What the days are worth for a sum or count; None where it does not come day by day. Kept with the survey."""
    key = ("day weights", measure.name)
    if key not in survey._cache:
        survey._cache[key] = _day_weights(survey, measure)
    return survey._cache[key]  # type: ignore[no-any-return]


def period_weights(survey: Survey, measure: Measure) -> Floats | None:
    """What the complete periods are worth, 1 on average; shape (complete periods,). None where all are alike."""
    line = survey.timeline
    if line is None or line.grain is Grain.DAY or (line.grain is Grain.WEEK and line.calendar.holidays is None):
        return None
    weights = day_weights(survey, measure)
    if weights is None:
        return None
    spans = [line.period(place) for place in range(line.count)[line.complete]]
    worth = np.array([weights.of(span.start, span.end) for span in spans])
    return np.asarray(worth / worth.mean()) if worth.size and worth.min() > 0 else None


def _day_weights(survey: Survey, measure: Measure) -> DayWeights | None:
    if not measure.additive or measure.level:
        return None
    day = by_day(survey)
    if day is None or day.timeline is None:
        return None
    line = day.timeline
    cells = day.cells(PERIOD)
    values, rows = measure.factor * cells.linear(measure.top)[line.complete], cells.rows[line.complete]
    numbers = np.arange(line.first, line.last + 1)[line.complete]
    first = int(-(numbers[0] + MONDAY) % 7) if numbers.size else 0
    weeks = (numbers.size - first) // 7
    if weeks < _LEAST_WEEKS:
        return None
    used = slice(first, first + 7 * weeks)
    by_week, rows_by = values[used].reshape(weeks, 7), rows[used].reshape(weeks, 7)
    open_on = (rows_by > 0).mean(axis=0) >= _OPEN
    if not open_on.any() or (rows_by[:, open_on] > 0).mean() < _COVERED or _clumped(numbers, values):
        return None
    means = by_week.mean(axis=0)
    if means[open_on].min() <= 0:
        return None
    weekdays = open_on.astype(np.float64)
    if open_on.sum() > 1 and friedman(by_week[:, open_on])[1] <= _SURE:
        weekdays = np.where(open_on, means, 0.0)
    made = DayWeights(
        weekdays=weekdays * 7 / weekdays.sum(),
        calendar=line.calendar,
        first=numbers[used][0].astype("datetime64[D]"),
        last=numbers[used][-1].astype("datetime64[D]"),
    )
    return made if line.calendar.holidays is None else _with_holidays(made, numbers, values)


def _clumped(numbers: npt.NDArray[np.int64], values: Floats) -> bool:
    """Whether most amounts fall on few days of the month, as those of invoices and payrolls do."""
    days = numbers.astype("datetime64[D]")
    of_month = (days - days.astype("datetime64[M]").astype("datetime64[D]")).astype(np.int64)
    by_place = np.bincount(of_month, weights=np.abs(values), minlength=31)
    return bool(np.sort(by_place)[-3:].sum() > _CLUMPED * by_place.sum())


def _with_holidays(weights: DayWeights, numbers: npt.NDArray[np.int64], values: Floats) -> DayWeights:
    days = numbers.astype("datetime64[D]")
    names = weights.calendar.holiday_names(days[0], days[-1])
    usual = weights.weekdays[(numbers + MONDAY) % 7]
    free = np.isin(days, list(names))
    found = defaultdict(list)
    for day, name in names.items():
        place = int((day - days[0]).astype(np.int64))
        around = np.arange(max(0, place - 14), min(days.size, place + 15))
        around = around[~free[around] & (usual[around] > 0)]
        if around.size < 10 or usual[place] <= 0:
            continue
        found[name].append(float(values[place] / (usual[place] * values[around].sum() / usual[around].sum())))
    if not found:
        return weights
    every = float(np.mean([ratio for ratios in found.values() for ratio in ratios]))
    own = {name: float(np.mean(ratios)) if len(ratios) > 1 else every for name, ratios in sorted(found.items())}
    return replace(weights, by_holiday=own, holiday=every)


@dataclass(frozen=True, slots=True, kw_only=True)
class CalendarEffect:
    """What the calendar alone makes of a change: the days of both periods (those on which something happens), what
    they are worth, and the change in amount and percent that this makes; `daily_pct` is the change day for day.
    `sql` gives the amounts by weekday that the worth of the days comes from."""

    days: int
    days_before: int
    worth: float
    worth_before: float
    change: float
    change_pct: float
    daily_pct: float
    weekdays: tuple[float, ...]
    sql: str


def calendar_effect(
    survey: Survey, measure: Measure, now: Period, then: Period, value: float, before: float
) -> CalendarEffect | None:
    """The calendar's part of a change; None where days do not tell amounts."""
    weights = day_weights(survey, measure)
    if weights is None or not min(value, before) > 0:
        return None
    worth, worth_before = (weights.of(period.start, period.end) for period in (now, then))
    if not min(worth, worth_before) > 0:
        return None
    ratio = worth / worth_before
    return CalendarEffect(
        days=weights.open_days(now),
        days_before=weights.open_days(then),
        worth=worth,
        worth_before=worth_before,
        change=before * (ratio - 1),
        change_pct=100 * (ratio - 1),
        daily_pct=100 * (value / before / ratio - 1),
        weekdays=tuple(float(one) for one in weights.weekdays),
        sql=_by_weekday(survey, measure, weights),
    )


def _by_weekday(survey: Survey, measure: Measure, weights: DayWeights) -> str:
    assert survey.timeline is not None
    day = f"CAST({quote_name(survey.timeline.column)} AS DATE)"
    inside = within(survey.table, Slice(), survey.timeline.column, weights.span)
    return f"SELECT isodow({day}) AS weekday, {measure.sql} AS amount FROM source WHERE {inside} GROUP BY 1 ORDER BY 1"
