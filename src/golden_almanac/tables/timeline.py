"""The timeline of a table: which periods there are, and which of them are unfinished."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from ..engine.arrow_arrays import day_counts
from .calendar import DAY, MONDAY, STANDARD, Calendar, Days, Grain, Period

#: Periods a scan wants: fewer give no power, more give noise (methods, section 1).
FEWEST_PERIODS, MOST_PERIODS = 12, 400
#: Rows in the median period, below which a finer grain only shows gaps.
FEWEST_ROWS = 5
#: The share of the rows that may lie years before all others without deciding on the grain.
_STRAY = 0.005
#: The share of weekly dates that must lie a week apart.
_STEADY = 0.9
#: A last period looks unfinished with less than this part of the fewest rows in so many before it, each with so many.
_THIN, _BEFORE_THIN, _LEAST_BEFORE = 0.5, 5, 20


@dataclass(frozen=True, slots=True, kw_only=True)
class Timeline:
    """The periods of a table: which there are, and which of them are unfinished.

    `first` and `last` are period numbers of the grain; partial ends are counted in. `next_day` is when the next rows
    would come, by the usual gap between days. `thin_last` are the rows of the last period, the fewest in one before it
    and how many of those were looked at, where it looks unfinished by its rows alone.
    """

    column: str
    grain: Grain
    first: int
    last: int
    first_day: np.datetime64
    last_day: np.datetime64
    next_day: np.datetime64
    partial_first: bool
    partial_last: bool
    calendar: Calendar = STANDARD
    thin_last: tuple[int, int, int] | None = None

    @property
    def count(self) -> int:
        return self.last - self.first + 1

    @property
    def complete(self) -> slice:
        """Places (not numbers) of the complete periods."""
        return slice(int(self.partial_first), self.count - int(self.partial_last))

    @property
    def complete_count(self) -> int:
        return max(0, self.count - int(self.partial_first) - int(self.partial_last))

    @property
    def reported_to(self) -> np.datetime64:
        """The last day that the data speak of: of a finished period its end, though no row falls on that day."""
        open_ended = self.partial_last and self.thin_last is None
        return self.last_day if open_ended else self.calendar.end(self.grain, self.last)

    def period(self, place: int) -> Period:
        """The period at a place; an unfinished one ends (starts) where the data do."""
        whole = _whole_period(self.calendar, self.grain, self.first + place)
        if 0 < place < self.count - 1:
            return whole
        start, end = whole.start, whole.end
        if place == 0 and self.partial_first:
            start = self.first_day
        if place == self.count - 1 and self.partial_last and self.thin_last is None:
            end = self.last_day
        return replace(whole, start=start, end=end)

    def places(self, days: Days) -> npt.NDArray[np.int64]:
        """The place of the period that each day falls in; days must not be missing."""
        return self.calendar.number(self.grain, days) - self.first

    def span(self, first: int, last: int) -> Period:
        """From the period at one place to the end of that at another."""
        return replace(self.period(first), end=self.period(last).end)


@lru_cache(maxsize=8192)
def _whole_period(calendar: Calendar, grain: Grain, number: int) -> Period:
    """A period of a calendar; a scan asks for each some hundred times."""
    return calendar.period(grain, number)


def timeline(column: str, days: Days, grain: Grain | None = None, calendar: Calendar = STANDARD) -> Timeline | None:
    """The timeline of a date column (missing dates are left out), or None if it holds no date."""
    return timeline_of(column, day_counts(days), grain, calendar)


def timeline_of(
    column: str,
    counted: tuple[Days, npt.NDArray[np.int64]],
    grain: Grain | None,
    calendar: Calendar,
    *,
    least_rows: int = FEWEST_ROWS,
) -> Timeline | None:
    """The timeline of days that occur and the rows on each (see `day_counts`); `least_rows` is that of
    `choose_grain`."""
    distinct, counts = counted
    if distinct.size == 0:
        return None
    chosen = grain or choose_grain(distinct, counts, least_rows)
    first_day, last_day = distinct[0], distinct[-1]
    numbers = calendar.number(chosen, np.array([first_day, last_day]))
    first, last = int(numbers[0]), int(numbers[1])
    next_day = last_day + _usual_gap(distinct, last_day, forward=True)
    first_partial = first_day - _usual_gap(distinct, first_day, forward=False) >= calendar.start(chosen, first)
    if _at_ends(distinct, chosen, calendar):
        # One date a period, its last day: each stands for all of it, the first like the others.
        first_partial = False
    end = calendar.end(chosen, last)
    thin = None if calendar.as_of is not None and calendar.as_of > end else _thin(distinct, counts, chosen, calendar)
    return Timeline(
        column=column,
        grain=chosen,
        first=first,
        last=last,
        first_day=first_day,
        last_day=last_day,
        next_day=next_day,
        partial_first=bool(first_partial),
        partial_last=bool(next_day <= end) or thin is not None,
        calendar=calendar,
        thin_last=thin,
    )


def _thin(
    distinct: Days, counts: npt.NDArray[np.int64], grain: Grain, calendar: Calendar
) -> tuple[int, int, int] | None:
    """The rows of a last period that looks unfinished by them, the fewest in one of those before it, and how many those
    are. Only where each period has but one date, from which nobody sees how far it got: 2005, of a column of years. A
    day of few rows may be a Sunday."""
    if (
        grain is Grain.DAY
        or distinct.size <= _BEFORE_THIN
        or np.unique(calendar.number(grain, distinct)).size < distinct.size
    ):
        return None
    before = counts[-1 - _BEFORE_THIN : -1]
    rows, least = int(counts[-1]), int(before.min())
    return (rows, least, _BEFORE_THIN) if least >= _LEAST_BEFORE and rows < _THIN * least else None


def _at_ends(distinct: Days, grain: Grain, calendar: Calendar) -> bool:
    """Whether all dates are the last days of their months, quarters or years, two at least."""
    if distinct.size < 2 or grain in (Grain.DAY, Grain.WEEK):
        return False
    numbers = calendar.number(grain, distinct)
    own = np.unique(numbers).size == distinct.size
    return own and all(day == calendar.end(grain, int(number)) for day, number in zip(distinct, numbers, strict=True))


def choose_grain(distinct: Days, counts: npt.NDArray[np.int64], least_rows: int = FEWEST_ROWS) -> Grain:
    """The grain to report at, from the days there are and the rows on each.

    The finest that leaves 12 to 400 periods with at least `least_rows` rows in the median one, never finer
    than the usual spacing of the dates; but months once they span two years: their yearly cycle can
    then be told from a trend, which that of 52 weeks cannot, and people report by month. A table of periods (one date a
    month, quarter or year) is told by those, however few its rows: five a period are asked of events only.
    """
    distinct, counts = _bulk(distinct, counts)
    spacing = int(np.median(np.diff(distinct).astype(np.int64))) if distinct.size > 1 else 1
    least = {Grain.DAY: 0, Grain.WEEK: 5, Grain.MONTH: 25, Grain.QUARTER: 80, Grain.YEAR: 300}
    if spacing >= least[Grain.WEEK] and distinct.size <= MOST_PERIODS:
        own = next(grain for grain in reversed(Grain) if spacing >= least[grain])
        # Dates that come by the week do so to the day; months and quarters are not of one length.
        steady = own is not Grain.WEEK or np.mean(np.diff(distinct).astype(np.int64) == spacing) >= _STEADY
        if steady and np.unique(STANDARD.number(own, distinct)).size == distinct.size:
            return own
    if spacing <= 40:
        months = STANDARD.number(Grain.MONTH, distinct)
        if months[-1] - months[0] >= 24 and _rows_in_median(Grain.MONTH, distinct, counts) >= least_rows:
            return Grain.MONTH
    possible = []
    for grain in Grain:
        numbers = STANDARD.number(grain, distinct)
        periods = int(numbers[-1] - numbers[0]) + 1
        finer_than_dates = any(spacing >= least[other] for other in Grain if least[other] > least[grain])
        if finer_than_dates or periods > MOST_PERIODS:
            continue
        if periods >= FEWEST_PERIODS and _rows_in_median(grain, distinct, counts) >= least_rows:
            return grain
        possible.append((periods, grain))
    # Nothing fits well: the coarsest with a few periods, else the finest that the dates bear.
    return next(
        (grain for periods, grain in reversed(possible) if periods >= 4), possible[0][1] if possible else Grain.YEAR
    )


def _bulk(distinct: Days, counts: npt.NDArray[np.int64]) -> tuple[Days, npt.NDArray[np.int64]]:
    """The days without the few rows that lie years before all others, where those make most of the span."""
    early = int(np.searchsorted(np.cumsum(counts), _STRAY * counts.sum(), side="right"))
    if not 0 < early < distinct.size - 1:
        return distinct, counts
    spans = (distinct[-1] - distinct[early]).astype(np.int64), (distinct[-1] - distinct[0]).astype(np.int64)
    return (distinct[early:], counts[early:]) if spans[0] < spans[1] / 2 else (distinct, counts)


def _rows_in_median(grain: Grain, distinct: Days, counts: npt.NDArray[np.int64]) -> float:
    numbers = STANDARD.number(grain, distinct)
    rows = np.bincount(numbers - numbers[0], weights=counts)
    return float(np.median(rows))


def _usual_gap(distinct: Days, edge: np.datetime64, *, forward: bool) -> np.timedelta64:
    """The days usually passed between a date at this place of the week and the next (previous) one."""
    if distinct.size < 3:
        # Two years, or months, of which each stands for all of itself, tell no more than how far they are apart.
        return DAY if distinct.size < 2 else np.timedelta64(int((distinct[1] - distinct[0]).astype(np.int64)), "D")
    gaps = np.diff(distinct).astype(np.int64)
    origin = distinct[:-1] if forward else distinct[1:]
    weekday = (origin.astype(np.int64) + MONDAY) % 7
    alike = gaps[weekday == (int(edge.astype(np.int64)) + MONDAY) % 7]
    # Dates that come daily or weekly keep their place of the week; those that come by the month do not.
    pool = alike if alike.size >= 8 and np.median(gaps) <= 7 else gaps
    return np.timedelta64(int(np.quantile(pool, 0.9, method="higher")), "D")
