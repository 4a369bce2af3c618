"""Dates and spans as people say them, by the table's calendar: "last year" counts from the last day of the data."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cache
from importlib.resources import files
from typing import Any

import numpy as np

from ..tables import Grain, Period, Timeline
from ..tables.calendar import DAY, Calendar
from .words import Token, fold


@dataclass(frozen=True, slots=True, kw_only=True)
class Span:
    """Words `first` to `end` (not included) are a span of time: a `period`, or what comes again every year or week as
    `sql` over the column of dates. Of two (`from` A `to` B) `pair` has both, in their order as said. `relative` ones
    count from the last day of the data, `open` ones reach to an end of them; `note` says what was decided."""

    first: int
    end: int
    period: Period | None = None
    sql: str = ""
    pair: tuple[Period, Period] | None = None
    words: str = ""
    relative: bool = False
    note: str = ""


@cache
def words_of(language: str = "english") -> dict[str, Any]:
    """The words of the calendar in a language."""
    found = files(__package__) / language / "calendar.toml"
    return tomllib.loads(found.read_text(encoding="utf-8"))


@dataclass(frozen=True, slots=True)
class _Point:
    """One date or period, its end among the words; `month`, `quarter` or `months` where the year was not said."""

    end: int
    period: Period | None = None
    months: tuple[int, int] | None = None
    relative: bool = False


class Clock:
    """Reads spans among words, for one timeline."""

    def __init__(self, said: Sequence[Token], line: Timeline, language: str = "english") -> None:
        self.said, self.line, self.words = said, line, words_of(language)
        self.low = [token.low for token in said]
        self.calendar: Calendar = line.calendar
        self.now = line.last_day

    def spans(self) -> list[Span]:
        """All spans, none over another, from the left."""
        found: list[Span] = []
        place = 0
        while place < len(self.low):
            one = None if self.said[place].quoted else self._at(place)
            if one is None:
                place += 1
                continue
            found.append(one)
            place = one.end
        return self._of_one_year(found)

    def _of_one_year(self, found: list[Span]) -> list[Span]:
        """ "July and August 2024": the year behind the last month is that of those before it."""
        for place in range(len(found) - 2, -1, -1):
            one, behind = found[place], found[place + 1]
            joined = self.low[one.end : behind.first]
            month = re.fullmatch(r"month\(\{time\}\) = (\d+)", one.sql)
            if (
                month is None
                or behind.period is None
                or joined not in (["and"], ["or"], [","], ["&"], ["vs"], ["versus"], ["with"])
            ):
                continue
            number, year = int(month[1]), int(str(behind.period.start)[:4])
            period = self._months((number, number), year)
            if period.start > behind.period.start:
                period = self._months((number, number), year - 1)
            found[place] = replace(one, period=period, sql="", note="")
        return found

    # --- phrases ----------------------------------------------------------------------------------

    def _at(self, place: int) -> Span | None:
        for read in (self._to_date, self._range, self._rolling, self._open, self._weekly, self._one):
            found = read(place)
            if found is not None:
                words = " ".join(token.text for token in self.said[found.first : found.end])
                return replace(found, words=words)
        return None

    def _phrase(self, place: int, name: str) -> int:
        """The end of one of the phrases of a list at a place, or 0."""
        for text in sorted(self.words[name], key=lambda one: -len(one.split())):
            parts = [fold(part) for part in text.split()]
            if self.low[place : place + len(parts)] == parts:
                return place + len(parts)
        return 0

    def _to_date(self, place: int) -> Span | None:
        for name, grain in (
            ("to_date", Grain.YEAR),
            ("month_to_date", Grain.MONTH),
            ("quarter_to_date", Grain.QUARTER),
        ):
            end = self._phrase(place, name)
            if end:
                whole = self.calendar.holding(grain, self.now)
                return Span(first=place, end=end, period=whole.until(self.now), relative=True)
        return None

    def _range(self, place: int) -> Span | None:
        """ "from A to B", "between A and B", "A to B", "A – B"."""
        opened = self._phrase(place, "between")
        start = self._point(opened or place, quiet=not opened)
        if start is None:
            return None
        middle = self._phrase(start.end, "range")
        joined = self.low[start.end : start.end + 1]
        if not middle or (joined == ["and"] and not (opened and self.low[place] != "from")):
            dashed = self._touching(start.end)
            if not dashed:
                return None
            middle = start.end
        stop = self._point(middle, quiet=False)
        if stop is None:
            return None
        return self._both(place, start, stop)

    def _touching(self, place: int) -> bool:
        """Whether nothing but a dash stands between two years: 2019-2021."""
        if not 0 < place < len(self.said):
            return False
        gap = self.said[place].start - self.said[place - 1].end
        return gap == 1 and _is_year(self.low[place]) and _is_year(self.low[place - 1])

    def _both(self, place: int, start: _Point, stop: _Point) -> Span | None:
        if start.period is None and stop.period is None:
            if start.months is None or stop.months is None:
                return None
            return self._again(place, stop.end, (start.months[0], stop.months[1]))
        if start.period is None and start.months is not None and stop.period is not None:
            # "between February and March 2023": the first has the year of the second, or the one before.
            year = int(str(stop.period.start)[:4])
            first = self._months(start.months, year)
            start = replace_point(
                start, first if first.start <= stop.period.start else self._months(start.months, year - 1)
            )
        if stop.period is None and stop.months is not None and start.period is not None:
            year = int(str(start.period.start)[:4])
            last = self._months(stop.months, year)
            stop = replace_point(
                stop, last if last.start >= start.period.start else self._months(stop.months, year + 1)
            )
        if start.period is None or stop.period is None:
            return None
        pair = (start.period, stop.period)
        low, high = sorted(pair, key=lambda one: str(one.start))
        whole = Period(start=low.start, end=max(low.end, high.end), calendar=self.calendar)
        return Span(
            first=place, end=stop.end, period=_named(whole), pair=pair, relative=start.relative or stop.relative
        )

    def _rolling(self, place: int) -> Span | None:
        """ "last 90 days", "past three months", "the last two years"."""
        at = self._phrase(place, "last")
        if not at or at >= len(self.low):
            return None
        number = self._number(at)
        if number is None:
            return None
        grain = self._grain(at + 1)
        if grain is None or number < 1 or number > 5_000:
            return None
        end = at + 2
        if grain is Grain.DAY:
            start = self.now - np.timedelta64(number - 1, "D")
            return Span(
                first=place, end=end, period=Period(start=start, end=self.now, calendar=self.calendar), relative=True
            )
        # Whole ones: the last of them is the one that ends with the data, or the one before.
        last = int(self.calendar.number(grain, np.array([self.now]))[0])
        if self.calendar.end(grain, last) > max(self.now, self.line.reported_to):
            last -= 1
        span = Period(
            start=self.calendar.start(grain, last - number + 1),
            end=self.calendar.end(grain, last),
            calendar=self.calendar,
        )
        return Span(first=place, end=end, period=_named(span), relative=True)

    def _open(self, place: int) -> Span | None:
        """ "since May", "until 2023", "before March 2024", "after 2023"."""
        first, last = self.line.first_day, self.line.last_day
        for name in ("since", "until", "before", "after"):
            at = self._phrase(place, name)
            if not at:
                continue
            point = self._point(at, quiet=False)
            if point is None:
                continue
            span = point.period or (None if point.months is None else self._latest(point.months))
            if span is None:
                continue
            if name == "since":
                made = Period(start=span.start, end=max(last, span.start), calendar=self.calendar)
            elif name == "after":
                made = Period(start=span.end + DAY, end=max(last, span.end + DAY), calendar=self.calendar)
            elif name == "until":
                made = Period(start=min(first, span.end), end=span.end, calendar=self.calendar)
            else:
                made = Period(start=min(first, span.start - DAY), end=span.start - DAY, calendar=self.calendar)
            return Span(first=place, end=point.end, period=made, relative=point.relative or point.period is None)
        return None

    def _weekly(self, place: int) -> Span | None:
        """ "on Fridays", "at weekends", "working days"."""
        for name, days in (("weekend", (6, 7)), ("working", (1, 2, 3, 4, 5))):
            end = self._phrase(place, name)
            if end and not (name == "working" and place and self.low[place - 1] in ("by", "per", "each")):
                return Span(first=place, end=end, sql=f"isodow({{time}}) IN ({', '.join(map(str, days))})")
        day = self._weekday(place)
        if day is None:
            return None
        days_, end = [day], place + 1
        while end + 1 < len(self.low) and self.low[end] in ("and", "or", ",", "&"):
            more = self._weekday(end + 1)
            if more is None:
                break
            days_.append(more)
            end += 2
        listed = ", ".join(map(str, sorted(days_)))
        return Span(
            first=place,
            end=end,
            sql=f"isodow({{time}}) = {days_[0]}" if len(days_) == 1 else f"isodow({{time}}) IN ({listed})",
        )

    def _one(self, place: int) -> Span | None:
        point = self._point(place, quiet=True)
        if point is None:
            return None
        if point.period is not None:
            return Span(first=place, end=point.end, period=point.period, relative=point.relative)
        assert point.months is not None
        return self._again(place, point.end, point.months)

    def _again(self, place: int, end: int, months: tuple[int, int]) -> Span:
        """Months that come again every year."""
        low, high = months
        listed = [
            month for month in range(1, 13) if (low <= month <= high if low <= high else month >= low or month <= high)
        ]
        sql = f"month({{time}}) = {low}" if low == high else f"month({{time}}) IN ({', '.join(map(str, listed))})"
        return Span(first=place, end=end, sql=sql, note="every year")

    # --- points -------------------------------------------------------------------------------------

    def _point(self, place: int, *, quiet: bool) -> _Point | None:
        """A date or period at a place; `quiet` where nothing before it says that one is to come."""
        while (
            place < len(self.low) and not quiet and self.low[place] in ("the", "in", "end", "of", "start", "beginning")
        ):
            place += 1
        named = self.low[place : place + 1]
        if named in (["year"], ["month"], ["quarter"], ["date"], ["day"]) and place + 1 < len(self.low):
            # "the year 2024", "the month of May 2024"
            behind = place + 1 + (self.low[place + 1] == "of")
            inner = self._point(behind, quiet=True) if behind < len(self.low) else None
            if inner is not None and inner.period is not None and inner.period.grain == named[0]:
                return inner
        if place >= len(self.low) or self.said[place].quoted:
            return None
        for read in (self._relative, self._dated, self._quarter, self._half, self._season, self._month, self._year):
            found = read(place, quiet)
            if found is not None:
                return found
        return None

    def _relative(self, place: int, quiet: bool) -> _Point | None:
        which = 0
        at = self._phrase(place, "last")
        if at:
            which = -1
        else:
            at = self._phrase(place, "this")
        if not at:
            return None
        if at < len(self.low) and which == -1 and (month := self._month_number(at)) is not None:
            return _Point(at + 1, self._latest((month, month), whole=True), relative=True)
        grain = self._grain(at)
        if grain is None or (grain is Grain.DAY and which == 0):
            return None
        number = int(self.calendar.number(grain, np.array([self.now]))[0]) + which
        return _Point(at + 1, self.calendar.period(grain, number), relative=True)

    def _dated(self, place: int, quiet: bool) -> _Point | None:
        """A day, a month or a week written in figures; a day with its month in words."""
        word = self.low[place]
        try:
            if re.fullmatch(r"\d{4}-\d{2}-\d{2}", word):
                return _Point(place + 1, self._day(np.datetime64(word, "D")))
            if re.fullmatch(r"\d{4}-\d{2}", word):
                return _Point(place + 1, self.calendar.holding(Grain.MONTH, np.datetime64(f"{word}-01", "D")))
            if match := re.fullmatch(r"(\d{4})-q([1-4])", word):
                return _Point(place + 1, self._quarters(int(match[2]), int(match[1])))
            if match := re.fullmatch(r"(\d{1,2})[./](\d{1,2})[./](\d{4}|\d{2})", word):
                day, month, year = (int(part) for part in match.groups())
                if month > 12 >= day:
                    day, month = month, day
                year += 2_000 if year < 100 else 0
                return _Point(place + 1, self._day(np.datetime64(f"{year:04}-{month:02}-{day:02}", "D")))
        except ValueError:
            return None
        # "14 August 2025", "14th of August", "August 14, 2025".
        end, day_ = place, self._ordinal(word)
        if day_ is not None:
            end = place + 1
            if end < len(self.low) and self.low[end] == "of":
                end += 1
            month_ = self._month_number(end) if end < len(self.low) else None
            if month_ is None:
                return None
            end += 1
        else:
            month_ = self._month_number(place)
            day_ = self._ordinal(self.low[place + 1]) if month_ is not None and place + 1 < len(self.low) else None
            if month_ is None or day_ is None:
                return None
            end = place + 2
        if end < len(self.low) and self.low[end] == "," and end + 1 < len(self.low) and _is_year(self.low[end + 1]):
            end += 1
        if end < len(self.low) and _is_year(self.low[end]):
            year, end = int(self.low[end]), end + 1
        else:
            year = int(str(self._latest((month_, month_)).start)[:4])
        try:
            return _Point(end, self._day(np.datetime64(f"{year:04}-{month_:02}-{day_:02}", "D")))
        except ValueError:
            return None

    def _quarter(self, place: int, quiet: bool) -> _Point | None:
        match = re.fullmatch(r"q([1-4])", self.low[place])
        end = place + 1
        number = int(match[1]) if match else None
        if number is None:
            number = self._ordinals(place)
            if number is None or end >= len(self.low) or self.low[end] not in ("quarter", "quarters"):
                return None
            end += 1
        year, end_ = self._with_year(end)
        if year is None:
            return _Point(end, months=(3 * number - 2, 3 * number))
        return _Point(end_, self._quarters(number, year), relative=self._is_relative(end, end_))

    def _half(self, place: int, quiet: bool) -> _Point | None:
        match = re.fullmatch(r"h([12])", self.low[place])
        number, end = (int(match[1]), place + 1) if match else (None, place)
        if number is None:
            number = self._ordinals(place)
            if number not in (1, 2) or self.low[place + 1 : place + 2] != ["half"]:
                return None
            end = place + 2
        year, end_ = self._with_year(end)
        months = (6 * number - 5, 6 * number)
        return _Point(end, months=months) if year is None else _Point(end_, self._months(months, year))

    def _season(self, place: int, quiet: bool) -> _Point | None:
        word = self.low[place].removesuffix("s") if self.low[place] != "s" else ""
        months = self.words["seasons"].get(word)
        if word in self.words["doubtful"] and {"did", "do", "does", "why"} & set(self.low[:place]):
            # "why did bookings fall in 2025"
            return None
        if months is None:
            return None
        year, end = self._with_year(place + 1)
        if year is None:
            doubtful = word in self.words["doubtful"]
            return None if doubtful else _Point(place + 1, months=(months[0], months[1]))
        return _Point(end, self._months((months[0], months[1]), year))

    def _month(self, place: int, quiet: bool) -> _Point | None:
        month = self._month_number(place)
        if month is None:
            return None
        year, end = self._with_year(place + 1)
        if year is None:
            return _Point(place + 1, months=(month, month))
        return _Point(end, self._months((month, month), year), relative=self._is_relative(place + 1, end))

    def _year(self, place: int, quiet: bool) -> _Point | None:
        word = self.low[place]
        fiscal = word == "fy" and self.calendar.fiscal
        if fiscal and place + 1 < len(self.low) and _is_year(self.low[place + 1]):
            return _Point(place + 2, self._whole_year(int(self.low[place + 1])))
        if not _is_year(word):
            return None
        return _Point(place + 1, self._whole_year(int(word)))

    # --- parts --------------------------------------------------------------------------------------

    def _with_year(self, place: int) -> tuple[int | None, int]:
        """The year said at a place ("2024", "of 2024", "last year"), and where it ends."""
        at = place
        while at < len(self.low) and self.low[at] in ("of", "in", ","):
            at += 1
        if at < len(self.low) and _is_year(self.low[at]):
            return int(self.low[at]), at + 1
        this = self.calendar.year_name(self.now)
        for name, back in (("last", 1), ("this", 0)):
            end = self._phrase(at, name) if at < len(self.low) else 0
            if end and self.low[end : end + 1] == ["year"]:
                return this - back, end + 1
        return None, place

    def _is_relative(self, start: int, end: int) -> bool:
        return "year" in self.low[start:end]

    def _ordinals(self, place: int) -> int | None:
        word = self.low[place]
        listed = self.words["ordinals"]
        return listed.index(word) % 4 + 1 if word in listed else None

    def _ordinal(self, word: str) -> int | None:
        match = re.fullmatch(r"(\d{1,2})(?:st|nd|rd|th)?", word)
        return int(match[1]) if match and 1 <= int(match[1]) <= 31 else None

    def _number(self, place: int) -> int | None:
        word = self.low[place]
        if word.isdecimal():
            return int(word)
        listed = self.words["numbers"]["words"]
        return listed.index(word) if word in listed else None

    def _grain(self, place: int) -> Grain | None:
        if place >= len(self.low):
            return None
        word = self.low[place]
        return next(
            (Grain(name) for name in ("day", "week", "month", "quarter", "year") if word in (name, name + "s")), None
        )

    def _month_number(self, place: int) -> int | None:
        if place >= len(self.low):
            return None
        word = self.low[place]
        for listed in (self.words["months"], self.words["short_months"]):
            if word in listed:
                if word in self.words["doubtful"] and not self._is_time(place):
                    return None
                return int(listed.index(word)) + 1
        return None

    def _weekday(self, place: int) -> int | None:
        word = self.low[place]
        for listed in (self.words["weekdays"], self.words["short_weekdays"]):
            for number, name in enumerate(listed, start=1):
                if word in (name, name + "s"):
                    return None if word in self.words["doubtful"] and not self._is_time(place) else number
        return None

    def _is_time(self, place: int) -> bool:
        """Whether a doubtful word is one of the calendar here."""
        before = self.low[place - 1] if place else ""
        behind = self.low[place + 1] if place + 1 < len(self.low) else ""
        capital = bool(place) and self.said[place].text[:1].isupper()
        return before in self.words["before_times"] or _is_year(behind) or capital or before.isdecimal()

    def _day(self, day: np.datetime64) -> Period:
        return Period(start=day, end=day, grain=Grain.DAY, calendar=self.calendar)

    def _whole_year(self, year: int) -> Period:
        from ..tables.calendar import parse_period

        return parse_period(str(year), self.calendar)

    def _quarters(self, number: int, year: int) -> Period:
        from ..tables.calendar import parse_period

        return parse_period(f"{year}-Q{number}", self.calendar)

    def _months(self, months: tuple[int, int], year: int) -> Period:
        low, high = months
        start = np.datetime64(f"{year:04}-{low:02}-01", "D")
        end_year = year + (1 if high < low else 0)
        after = np.datetime64(f"{end_year:04}-{high:02}", "M") + np.timedelta64(1, "M")
        end = after.astype("datetime64[D]") - DAY
        return _named(Period(start=start, end=end, calendar=self.calendar))

    def _latest(self, months: tuple[int, int], *, whole: bool = False) -> Period:
        """The last time of these months that begins (or, whole, ends) with the data."""
        year = int(str(self.now)[:4])
        span = self._months(months, year)
        reached = max(self.now, self.line.reported_to)
        return span if (span.end <= reached if whole else span.start <= self.now) else self._months(months, year - 1)


def replace_point(point: _Point, period: Period) -> _Point:
    return replace(point, period=period, months=None)


def _is_year(word: str) -> bool:
    return word.isdecimal() and len(word) == 4 and 1900 <= int(word) <= 2100


def _named(span: Period) -> Period:
    """The span as a month, quarter or year where it is one."""
    finer = (replace(span, grain=grain) for grain in (Grain.YEAR, Grain.QUARTER, Grain.MONTH))
    return next((one for one in finer if one.is_whole()), span)


def iso(span: Period) -> str:
    """A period as it is written: 2024, 2024-Q3, 2024-08, 2024-08-14, 2024-06-01/2024-08-31."""
    named = _named(span)
    start = str(named.start)
    if named.start == named.end:
        return start
    if named.grain is Grain.YEAR and named.is_whole():
        return str(named.calendar.year_name(named.start))
    if named.grain is Grain.QUARTER and named.is_whole():
        year = named.calendar.year_name(named.start)
        quarter = (int(start[5:7]) - named.calendar.fiscal_start) % 12 // 3 + 1
        return f"{year}-Q{quarter}"
    if named.grain is Grain.MONTH and named.is_whole():
        return start[:7]
    return f"{start}/{named.end}"
