"""Calendars, grains and periods.

Dates are numpy `datetime64[D]`; a period is numbered by its place since 1970, so that differences
between numbers are differences in periods.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field, replace
from enum import StrEnum
from functools import lru_cache

import numpy as np
import numpy.typing as npt

from ..support.errors import PeriodError, RequestError, join_or, nearest

Days = npt.NDArray[np.datetime64]
#: One day: NumPy no longer takes a bare number for it.
DAY = np.timedelta64(1, "D")

#: 1970-01-01 was a Thursday: three days after a Monday.
MONDAY = 3


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


_WEEKDAYS = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
_MONTHS_IN = {Grain.MONTH: 1, Grain.QUARTER: 3, Grain.YEAR: 12}


@dataclass(frozen=True, slots=True, kw_only=True)
class Calendar:
    """By which calendar a table is told.

    `fiscal_start` is the month in which years (and so quarters) begin; a year that does not begin in January is
    named by the one it ends in. `week_start` is a weekday. `zone` is the time zone that moments are turned to.
    `holidays` names a country, or a country and region ("DE", "DE-BY"), whose public holidays are known. `as_of` is
    the day of the report (a date, or text such as "2025-08-14"), beyond which dates lie in the future.
    """

    fiscal_start: int = 1
    week_start: str = "monday"
    zone: str | None = None
    holidays: str | None = None
    as_of: np.datetime64 | None = None

    def __post_init__(self) -> None:
        object.__setattr__(self, "week_start", self.week_start.casefold())
        try:
            day = None if self.as_of is None else np.datetime64(str(self.as_of), "D")
        except ValueError:
            raise RequestError("The day of the report", self.as_of, "a date such as 2025-08-14") from None
        object.__setattr__(self, "as_of", day)
        if self.fiscal_start not in range(1, 13):
            raise RequestError("The month in which the fiscal year starts", self.fiscal_start, "1 to 12")
        if self.week_start not in _WEEKDAYS:
            raise RequestError("The first day of the week", self.week_start, "one of " + ", ".join(_WEEKDAYS))
        if self.zone is not None:
            _check_zone(self.zone)
        if self.holidays is not None:
            _check_holidays(self.holidays)

    @property
    def fiscal(self) -> bool:
        return self.fiscal_start != 1

    def number(self, grain: Grain, days: Days) -> npt.NDArray[np.int64]:
        """Number of the period that each day falls in; days must not be missing."""
        whole = days.astype("datetime64[D]")
        if grain is Grain.DAY:
            return whole.astype(np.int64)
        if grain is Grain.WEEK:
            return np.asarray((whole.astype(np.int64) + self._to_week) // 7)
        months = whole.astype("datetime64[M]").astype(np.int64) - self._months_late(grain)
        return np.asarray(months // _MONTHS_IN[grain])

    def start(self, grain: Grain, number: int) -> np.datetime64:
        """First day of a numbered period."""
        if grain is Grain.DAY:
            return _day(number)
        if grain is Grain.WEEK:
            return _day(7 * number - self._to_week)
        month = np.array(number * _MONTHS_IN[grain] + self._months_late(grain), "datetime64[M]")
        return _day(int(month.astype("datetime64[D]").astype(np.int64)))

    def end(self, grain: Grain, number: int) -> np.datetime64:
        """Last day of a numbered period."""
        return _day(int(self.start(grain, number + 1).astype(np.int64)) - 1)

    def period(self, grain: Grain, number: int) -> Period:
        """The whole period with that number."""
        return Period(start=self.start(grain, number), end=self.end(grain, number), grain=grain, calendar=self)

    def holding(self, grain: Grain, day: np.datetime64) -> Period:
        """The period that a day falls in."""
        return self.period(grain, int(self.number(grain, np.array([day]))[0]))

    def sql(self, grain: Grain, column: str) -> str:
        """SQL for the first day of the period that a quoted column of dates falls in."""
        if grain is Grain.WEEK and self.week_start != "monday":
            ahead = 7 - _WEEKDAYS.index(self.week_start)
            return f"date_trunc('week', {column} + INTERVAL {ahead} DAY) - INTERVAL {ahead} DAY"
        late = self._months_late(grain)
        if late:
            return f"date_trunc('{grain.value}', {column} - INTERVAL {late} MONTH) + INTERVAL {late} MONTH"
        return f"date_trunc('{grain.value}', {column})"

    def year_name(self, day: np.datetime64) -> int:
        """The name of the (fiscal) year that a day lies in: the calendar year in which it ends."""
        return int(str(self.holding(Grain.YEAR, day).end)[:4])

    def holiday_names(self, first: np.datetime64, last: np.datetime64) -> dict[np.datetime64, str]:
        """The public holidays between two days, with their names; empty when no country is set."""
        if self.holidays is None:
            return {}
        years = range(int(str(first)[:4]), int(str(last)[:4]) + 1)
        days = [pair for year in years for pair in _holidays_of(self.holidays, year)]
        return {day: name for day, name in days if first <= day <= last}

    @property
    def _to_week(self) -> int:
        """Days from the first day of the week before 1970 to 1 January 1970."""
        return (MONDAY - _WEEKDAYS.index(self.week_start)) % 7

    def _months_late(self, grain: Grain) -> int:
        """Months by which the periods of a grain start later than those of the calendar year."""
        return (self.fiscal_start - 1) % _MONTHS_IN.get(grain, 1)


STANDARD = Calendar()


def _check_zone(zone: str) -> None:
    from zoneinfo import ZoneInfo, available_timezones

    try:
        ZoneInfo(zone)
    except (ValueError, OSError, KeyError):
        near = nearest(zone, sorted(available_timezones()))
        hint = f" (did you mean {join_or(near)}?)" if near else ""
        raise RequestError("The time zone", zone, f"a name such as Europe/Lisbon{hint}") from None


@lru_cache(maxsize=512)
def _holidays_of(name: str, year: int) -> tuple[tuple[np.datetime64, str], ...]:
    """The public holidays of a country, or a region of one, in a year; a report asks for them period by period."""
    import holidays

    country, _, region = name.partition("-")
    known = holidays.country_holidays(country, subdiv=region or None, years=year)
    return tuple((np.datetime64(day, "D"), str(told)) for day, told in sorted(known.items()))


def _check_holidays(name: str) -> None:
    import holidays

    country, _, region = name.partition("-")
    known = holidays.list_supported_countries()
    if country not in known:
        raise RequestError("The country of the holidays", country, "a two-letter code such as DE, ES or NO")
    if region and region not in known[country]:
        raise RequestError(
            f"The region of {country}",
            region,
            "one of " + (", ".join(known[country][:20]) or "none, it has no regions"),
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Period:
    """A span of days, both ends included. `grain` is None when it is no period of the `calendar`. Where it
    stands for a scenario (a budget), `name` says so, `sql` which rows of the source it is, `stands_on` on which
    days they are, and `stands_in` that one column stands in the source for another. `foretold` says that it stands
    for what was forecast of these days, which no rows give."""

    start: np.datetime64
    end: np.datetime64
    grain: Grain | None = None
    calendar: Calendar = field(default_factory=Calendar, compare=False, repr=False)
    name: str = ""
    sql: str = ""
    stands_on: tuple[np.datetime64, np.datetime64] | None = None
    stands_in: tuple[str, str] | None = None
    foretold: bool = False

    @property
    def days(self) -> int:
        return int((self.end - self.start).astype(np.int64)) + 1

    def to_dict(self) -> dict[str, str | None]:
        start, end = self.stands_on or (self.start, self.end)
        return {
            "start": str(start),
            "end": str(end),
            "grain": None if self.grain is None else self.grain.value,
            **({"scenario": self.name} if self.name else {}),
            **({"scenario": "forecast made before"} if self.foretold else {}),
        }

    def overlaps(self, other: Period) -> bool:
        return bool(self.start <= other.end and other.start <= self.end)

    def cut_like(self, other: Period) -> Period:
        """As much of this period as `other` is: so many whole months where both begin with one, else so many days."""
        end = self.start + np.timedelta64(other.days - 1, "D")
        months = other.whole_months()
        if months and str(self.start).endswith("-01"):
            end = (self.start.astype("datetime64[M]") + np.timedelta64(months, "M")).astype("datetime64[D]") - DAY
        return self if end >= self.end else self.until(end)

    def until(self, end: np.datetime64) -> Period:
        """This period up to a day; of a quarter of which one month is left, that month."""
        cut = replace(self, end=end)
        finer = (replace(cut, grain=grain) for grain in (Grain.QUARTER, Grain.MONTH))
        return next((one for one in finer if one.is_whole()), cut)

    def previous(self) -> Period:
        """The period of the same kind just before."""
        if self.grain is not None and self.is_whole():
            return self.calendar.period(self.grain, self._number() - 1)
        months = self.whole_months()
        if months:
            first = self.start.astype("datetime64[M]") - np.timedelta64(months, "M")
            end = self.start - DAY
            return replace(self, start=first.astype("datetime64[D]"), end=end, grain=None)
        length = np.timedelta64(self.days, "D")
        return replace(self, start=self.start - length, end=self.end - length, grain=None)

    def year_ago(self) -> Period:
        """The same days a year before; weeks and days move by 52 weeks so that weekdays match."""
        if self.grain in (Grain.DAY, Grain.WEEK):
            back = np.timedelta64(364, "D")
            return replace(self, start=self.start - back, end=self.end - back)
        return replace(self, start=_year_before(self.start), end=_year_before(self.end, last=True))

    def is_whole(self) -> bool:
        """True when it is exactly one calendar period of its grain."""
        if self.grain is None:
            return False
        whole = self.calendar.period(self.grain, self._number())
        return bool(whole.start == self.start and whole.end == self.end)

    def _number(self) -> int:
        assert self.grain is not None
        return int(self.calendar.number(self.grain, np.array([self.start]))[0])

    def whole_months(self) -> int:
        """Number of whole calendar months it spans, or 0."""
        following = self.end + DAY
        first, after = self.start.astype("datetime64[M]"), following.astype("datetime64[M]")
        if first.astype("datetime64[D]") != self.start or after.astype("datetime64[D]") != following:
            return 0
        return int((after - first).astype(np.int64))


def parse_period(text: str, calendar: Calendar = STANDARD) -> Period:
    """A period from ISO 8601 (`2025`, `2025-08`, `2025-08-14`, `2025-W07`, `A/B`) or `2025-Q3`.

    Years and quarters are those of the calendar; ISO weeks start on its first day of the week. Raises PeriodError.
    """
    wanted = text.strip().upper()
    try:
        if "/" in wanted:
            first, last = (parse_period(part, calendar) for part in wanted.split("/", 1))
            if last.end < first.start:
                raise PeriodError(f"The period {text!r} ends before it starts. Put the earlier date first.")
            return Period(start=first.start, end=last.end, calendar=calendar)
        if match := re.fullmatch(r"(\d{4})-?Q([1-4])", wanted):
            year = _named_year(int(match[1]), calendar)
            quarter = int(calendar.number(Grain.QUARTER, np.array([year.start]))[0]) + int(match[2]) - 1
            return calendar.period(Grain.QUARTER, quarter)
        if match := re.fullmatch(r"(\d{4})-?W(\d{2})", wanted):
            thursday = np.datetime64(f"{match[1]}-01-04") + np.timedelta64(7 * (int(match[2]) - 1), "D")
            monday = thursday - np.timedelta64((int(thursday.astype(np.int64)) + MONDAY) % 7, "D")
            if not 1 <= int(match[2]) <= 53 or str(monday + np.timedelta64(3, "D"))[:4] != match[1]:
                raise ValueError(wanted)
            # The week, however it starts, that holds most days of the ISO week.
            middle = monday + np.timedelta64(3, "D")
            return calendar.holding(Grain.WEEK, middle)
        if re.fullmatch(r"\d{4}", wanted):
            return _named_year(int(wanted), calendar)
        if re.fullmatch(r"\d{4}-\d{2}", wanted):
            return calendar.period(Grain.MONTH, int(np.datetime64(wanted, "M").astype(np.int64)))
        if re.fullmatch(r"\d{4}-\d{2}-\d{2}", wanted):
            return calendar.period(Grain.DAY, int(np.datetime64(wanted, "D").astype(np.int64)))
        raise ValueError(wanted)
    except ValueError as problem:
        raise PeriodError(
            f"The period {text!r} cannot be read. Write it as 2025, 2025-08, 2025-08-14, 2025-W07, "
            "2025-Q3 or 2025-07-01/2025-09-30."
        ) from problem


def _named_year(year: int, calendar: Calendar) -> Period:
    last = np.datetime64(f"{year:04}-{calendar.fiscal_start:02}-01") - DAY if calendar.fiscal else None
    day = np.datetime64(f"{year:04}-01-01") if last is None else last
    return calendar.holding(Grain.YEAR, day)


def _day(number: int) -> np.datetime64:
    """The day so many days after 1 January 1970."""
    return np.datetime64(number, "D")


def _year_before(day: np.datetime64, *, last: bool = False) -> np.datetime64:
    month = day.astype("datetime64[M]")
    within = (day - month.astype("datetime64[D]")).astype(np.int64)
    back = month - np.timedelta64(12, "M")
    length = ((back + np.timedelta64(1, "M")).astype("datetime64[D]") - back.astype("datetime64[D]")).astype(np.int64)
    whole = (month + np.timedelta64(1, "M")).astype("datetime64[D]") - DAY == day
    place = length - 1 if (last and whole) or within >= length else within
    return np.datetime64(back.astype("datetime64[D]") + np.timedelta64(int(place), "D"), "D")
