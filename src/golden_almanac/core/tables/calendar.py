"""Grains, periods and the timeline of a table.

Dates are numpy `datetime64[D]`; a period is numbered by its place since 1970, so that differences
between numbers are differences in periods.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
import numpy.typing as npt

from ..errors import PeriodError

Days = npt.NDArray[np.datetime64]

#: Periods a scan wants: fewer give no power, more give noise (methods, section 1).
FEWEST_PERIODS, MOST_PERIODS = 12, 400
#: Rows in the median period, below which a finer grain only shows gaps.
FEWEST_ROWS = 5
_MONDAY = 3  # 1970-01-01 was a Thursday: three days after a Monday


class Grain(StrEnum):
    DAY = "day"
    WEEK = "week"
    MONTH = "month"
    QUARTER = "quarter"
    YEAR = "year"

    @property
    def per_year(self) -> int:
        """Periods in a year: the length of the yearly cycle."""
        return {"day": 365, "week": 52, "month": 12, "quarter": 4, "year": 1}[self.value]

    def number(self, days: Days) -> npt.NDArray[np.int64]:
        """Number of the period that each day falls in; days must not be missing."""
        whole = days.astype("datetime64[D]")
        if self is Grain.DAY:
            return whole.astype(np.int64)
        if self is Grain.WEEK:
            return np.asarray((whole.astype(np.int64) + _MONDAY) // 7)
        months = whole.astype("datetime64[M]").astype(np.int64)
        return np.asarray(months // {"month": 1, "quarter": 3, "year": 12}[self.value])

    def start(self, number: int) -> np.datetime64:
        """First day of a numbered period."""
        if self is Grain.DAY:
            return _day(number)
        if self is Grain.WEEK:
            return _day(7 * number - _MONDAY)
        step = {"month": 1, "quarter": 3, "year": 12}[self.value]
        return _day(int(np.array(number * step, "datetime64[M]").astype("datetime64[D]").astype(np.int64)))

    def end(self, number: int) -> np.datetime64:
        """Last day of a numbered period."""
        return _day(int(self.start(number + 1).astype(np.int64)) - 1)

    def sql(self, column: str) -> str:
        """SQL for the first day of the period a quoted column's value falls in."""
        return f"date_trunc('{self.value}', {column})"


@dataclass(frozen=True, slots=True, kw_only=True)
class Period:
    """A span of days, both ends included. `grain` is None when it is no calendar period."""

    start: np.datetime64
    end: np.datetime64
    grain: Grain | None = None

    @property
    def days(self) -> int:
        return int((self.end - self.start).astype(np.int64)) + 1

    def to_dict(self) -> dict[str, str | None]:
        return {
            "start": str(self.start),
            "end": str(self.end),
            "grain": None if self.grain is None else self.grain.value,
        }

    def overlaps(self, other: Period) -> bool:
        return bool(self.start <= other.end and other.start <= self.end)

    def cut_to(self, days: int) -> Period:
        """The first `days` days of this period."""
        if days >= self.days:
            return self
        return Period(start=self.start, end=self.start + np.timedelta64(days - 1, "D"), grain=self.grain)

    def previous(self) -> Period:
        """The period of the same kind just before."""
        if self.grain is not None and self.is_whole():
            return numbered(self.grain, int(self.grain.number(np.array([self.start]))[0]) - 1)
        months = self._whole_months()
        if months:
            first = self.start.astype("datetime64[M]") - np.timedelta64(months, "M")
            return Period(start=first.astype("datetime64[D]"), end=self.start - np.timedelta64(1, "D"))
        length = np.timedelta64(self.days, "D")
        return Period(start=self.start - length, end=self.end - length, grain=None)

    def year_ago(self) -> Period:
        """The same days a year before; weeks and days move by 52 weeks so that weekdays match."""
        if self.grain in (Grain.DAY, Grain.WEEK):
            back = np.timedelta64(364, "D")
            return Period(start=self.start - back, end=self.end - back, grain=self.grain)
        return Period(start=_year_before(self.start), end=_year_before(self.end, last=True), grain=self.grain)

    def is_whole(self) -> bool:
        """True when it is exactly one calendar period of its grain."""
        if self.grain is None:
            return False
        whole = numbered(self.grain, int(self.grain.number(np.array([self.start]))[0]))
        return bool(whole.start == self.start and whole.end == self.end)

    def _whole_months(self) -> int:
        """Number of whole calendar months it spans, or 0."""
        following = self.end + np.timedelta64(1, "D")
        first, after = self.start.astype("datetime64[M]"), following.astype("datetime64[M]")
        if first.astype("datetime64[D]") != self.start or after.astype("datetime64[D]") != following:
            return 0
        return int((after - first).astype(np.int64))


def numbered(grain: Grain, number: int) -> Period:
    """The whole calendar period with that number."""
    return Period(start=grain.start(number), end=grain.end(number), grain=grain)


def parse_period(text: str) -> Period:
    """A period from ISO 8601 (`2025`, `2025-08`, `2025-08-14`, `2025-W07`, `A/B`) or `2025-Q3`.

    Raises PeriodError.
    """
    wanted = text.strip().upper()
    try:
        if "/" in wanted:
            first, last = (parse_period(part) for part in wanted.split("/", 1))
            if last.end < first.start:
                raise PeriodError(f"The period {text!r} ends before it starts. Put the earlier date first.")
            return Period(start=first.start, end=last.end)
        if match := re.fullmatch(r"(\d{4})-?Q([1-4])", wanted):
            return numbered(Grain.QUARTER, (int(match[1]) - 1970) * 4 + int(match[2]) - 1)
        if match := re.fullmatch(r"(\d{4})-?W(\d{2})", wanted):
            fourth = np.datetime64(f"{match[1]}-01-04")  # always in ISO week 1
            number = int(Grain.WEEK.number(np.array([fourth]))[0]) + int(match[2]) - 1
            week = numbered(Grain.WEEK, number)
            if not 1 <= int(match[2]) <= 53 or str(week.start + np.timedelta64(3, "D"))[:4] != match[1]:
                raise ValueError(wanted)
            return week
        if re.fullmatch(r"\d{4}", wanted):
            return numbered(Grain.YEAR, int(wanted) - 1970)
        if re.fullmatch(r"\d{4}-\d{2}", wanted):
            return numbered(Grain.MONTH, int(np.datetime64(wanted, "M").astype(np.int64)))
        if re.fullmatch(r"\d{4}-\d{2}-\d{2}", wanted):
            return numbered(Grain.DAY, int(np.datetime64(wanted, "D").astype(np.int64)))
        raise ValueError(wanted)
    except ValueError as problem:
        raise PeriodError(
            f"The period {text!r} cannot be read. Write it as 2025, 2025-08, 2025-08-14, 2025-W07, "
            "2025-Q3 or 2025-07-01/2025-09-30."
        ) from problem


@dataclass(frozen=True, slots=True, kw_only=True)
class Timeline:
    """The periods of a table: which there are, and which of them are unfinished.

    `first` and `last` are period numbers of the grain; partial ends are counted in.
    """

    column: str
    grain: Grain
    first: int
    last: int
    first_day: np.datetime64
    last_day: np.datetime64
    partial_first: bool
    partial_last: bool

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

    def period(self, place: int) -> Period:
        """The period at a place; an unfinished one ends (starts) where the data do."""
        whole = numbered(self.grain, self.first + place)
        start, end = whole.start, whole.end
        if place == 0 and self.partial_first:
            start = self.first_day
        if place == self.count - 1 and self.partial_last:
            end = self.last_day
        return Period(start=start, end=end, grain=self.grain)

    def span(self, first: int, last: int) -> Period:
        """From the period at one place to the end of that at another."""
        return Period(start=self.period(first).start, end=self.period(last).end, grain=self.grain)


def timeline(column: str, days: Days, grain: Grain | None = None) -> Timeline | None:
    """The timeline of a date column (missing dates are left out), or None if it holds no date."""
    present = days[~np.isnat(days)].astype("datetime64[D]")
    if present.size == 0:
        return None
    chosen = grain or choose_grain(present)
    first_day, last_day = present.min(), present.max()
    numbers = chosen.number(np.array([first_day, last_day]))
    distinct = np.unique(present)
    first, last = int(numbers[0]), int(numbers[1])
    last_partial = last_day + _usual_gap(distinct, last_day, forward=True) <= chosen.end(last)
    first_partial = first_day - _usual_gap(distinct, first_day, forward=False) >= chosen.start(first)
    return Timeline(
        column=column,
        grain=chosen,
        first=first,
        last=last,
        first_day=first_day,
        last_day=last_day,
        partial_first=bool(first_partial),
        partial_last=bool(last_partial),
    )


def choose_grain(days: Days) -> Grain:
    """The grain to report at.

    The finest that leaves 12 to 400 periods with at least five rows in the median one, never finer
    than the usual spacing of the dates; but months once they span two years: their yearly cycle can
    then be told from a trend, which that of 52 weeks cannot, and people report by month.
    """
    distinct = np.unique(days)
    spacing = int(np.median(np.diff(distinct).astype(np.int64))) if distinct.size > 1 else 1
    least = {Grain.DAY: 0, Grain.WEEK: 5, Grain.MONTH: 25, Grain.QUARTER: 80, Grain.YEAR: 300}
    if spacing <= 40:
        months = Grain.MONTH.number(distinct)
        if months[-1] - months[0] >= 24 and _rows_in_median(Grain.MONTH, days) >= FEWEST_ROWS:
            return Grain.MONTH
    possible = []
    for grain in Grain:
        numbers = grain.number(distinct)
        periods = int(numbers[-1] - numbers[0]) + 1
        finer_than_dates = any(spacing >= least[other] for other in Grain if least[other] > least[grain])
        if finer_than_dates or periods > MOST_PERIODS:
            continue
        if periods >= FEWEST_PERIODS and _rows_in_median(grain, days) >= FEWEST_ROWS:
            return grain
        possible.append((periods, grain))
    # Nothing fits well: the coarsest with a few periods, else the finest that the dates bear.
    return next(
        (grain for periods, grain in reversed(possible) if periods >= 4), possible[0][1] if possible else Grain.YEAR
    )


def _rows_in_median(grain: Grain, days: Days) -> float:
    numbers = grain.number(days)
    counts = np.bincount(numbers - numbers.min())
    return float(np.median(counts))


def _usual_gap(distinct: Days, edge: np.datetime64, *, forward: bool) -> np.timedelta64:
    """The days usually passed between a date at this place of the week and the next (previous) one."""
    if distinct.size < 3:
        return np.timedelta64(1, "D")
    gaps = np.diff(distinct).astype(np.int64)
    origin = distinct[:-1] if forward else distinct[1:]
    weekday = (origin.astype(np.int64) + _MONDAY) % 7
    alike = gaps[weekday == (int(edge.astype(np.int64)) + _MONDAY) % 7]
    # Dates that come daily or weekly keep their place of the week; those that come by the month do not.
    pool = alike if alike.size >= 8 and np.median(gaps) <= 7 else gaps
    return np.timedelta64(int(np.quantile(pool, 0.9, method="higher")), "D")


def _day(number: int) -> np.datetime64:
    """The day so many days after 1 January 1970."""
    return np.datetime64(number, "D")


def _year_before(day: np.datetime64, *, last: bool = False) -> np.datetime64:
    month = day.astype("datetime64[M]")
    within = (day - month.astype("datetime64[D]")).astype(np.int64)
    back = month - np.timedelta64(12, "M")
    length = ((back + np.timedelta64(1, "M")).astype("datetime64[D]") - back.astype("datetime64[D]")).astype(np.int64)
    whole = (month + np.timedelta64(1, "M")).astype("datetime64[D]") - np.timedelta64(1, "D") == day
    place = length - 1 if (last and whole) or within >= length else within
    return np.datetime64(back.astype("datetime64[D]") + np.timedelta64(int(place), "D"), "D")
