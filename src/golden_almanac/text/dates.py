"""Days, months and periods as they are said: by themselves, as a time, as what began or went on."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from typing import Any

import numpy as np

from ..aggregation.measures import Measure
from ..tables import Grain, Period
from ..tables.calendar import DAY
from .languages import mark, say, voice

MONTHS = ("January February March April May June July August September October November December").split()
DAYS = "Monday Tuesday Wednesday Thursday Friday Saturday Sunday".split()


def day(value: np.datetime64) -> str:
    """ "19 October 2025"."""
    year, month_, number = str(value).split("-")
    if voice().locale == "en":
        return f"{int(number)} {MONTHS[int(month_) - 1]} {year}"
    return _formatted(value, "long")


def month(value: np.datetime64) -> str:
    year, number, _ = str(value).split("-")
    if voice().english:
        return f"{MONTHS[int(number) - 1]} {year}"
    return _by_skeleton(value, "yMMMM")


def day_short(value: np.datetime64 | str) -> str:
    """ "6 Jan", for an axis."""
    if voice().locale == "en":
        return f"{int(str(value)[8:10])} {MONTHS[int(str(value)[5:7]) - 1][:3]}"
    return _by_skeleton(value, "MMMd")


def month_short(value: np.datetime64 | str) -> str:
    """ "Mar 2025", for an axis."""
    if voice().english:
        return f"{MONTHS[int(str(value)[5:7]) - 1][:3]} {str(value)[:4]}"
    return _by_skeleton(value, "yMMM")


def _date(value: Any) -> Any:
    from datetime import date

    return date.fromisoformat(str(value)[:10])


def _formatted(value: Any, form: str) -> str:
    from babel.dates import format_date

    return str(format_date(_date(value), form, locale=voice().locale))


def _by_skeleton(value: Any, skeleton: str) -> str:
    from babel.dates import format_skeleton

    return str(format_skeleton(skeleton, _date(value), locale=voice().locale))


@lru_cache(maxsize=8)
def _calendar(locale: str) -> dict[str, str]:
    """English names of months and weekdays → those of a locale."""
    from babel import Locale

    found = Locale.parse(locale)
    months, days = found.months["stand-alone"]["wide"], found.days["stand-alone"]["wide"]
    return {name: months[place + 1] for place, name in enumerate(MONTHS)} | {
        name: days[place] for place, name in enumerate(DAYS)
    }


def calendar_name(name: str) -> str:
    """The English name of a month, weekday or part of a cycle, as the figures have it, in the current language."""
    if voice().english:
        return name
    found = _calendar(voice().locale).get(name.removesuffix("s") if name.endswith("days") else name)
    if found is not None:
        return found + "s" if _several_days(name, found) else found
    return say(name) if name in _PARTS else name


def _several_days(name: str, found: str) -> bool:
    """Whether a weekday is said in the plural, with an s: los sábados."""
    return voice().language == "es" and name.endswith("days") and not found.endswith("s")


def in_cycle(places: Sequence[str], cycle: str) -> str:
    """When in a cycle: "on Saturdays", "in October", "in the first quarter", "in July and August"."""
    from .names import listed

    name, said = places[0], listed([calendar_name(place) for place in places])
    if cycle == "week":
        return say("on {weekday}", weekday=said)
    if name in MONTHS:
        return say("in {month}", "every year", month=said)
    inside = f"in {name}"
    return say(inside) if inside in _PARTS else inside


#: The parts of cycles, as the figures name them, by themselves and as a time.
_PARTS = (
    mark("the first quarter"),
    mark("the second quarter"),
    mark("the third quarter"),
    mark("the fourth quarter"),
    mark("the first fiscal quarter"),
    mark("the second fiscal quarter"),
    mark("the third fiscal quarter"),
    mark("the fourth fiscal quarter"),
    mark("the first week of the month"),
    mark("the second week of the month"),
    mark("the third week of the month"),
    mark("the fourth week of the month"),
    mark("in the first quarter"),
    mark("in the second quarter"),
    mark("in the third quarter"),
    mark("in the fourth quarter"),
    mark("in the first fiscal quarter"),
    mark("in the second fiscal quarter"),
    mark("in the third fiscal quarter"),
    mark("in the fourth fiscal quarter"),
    mark("in the first week of the month"),
    mark("in the second week of the month"),
    mark("in the third week of the month"),
    mark("in the fourth week of the month"),
)
_QUARTERS = (
    mark("the first quarter of {year}"),
    mark("the second quarter of {year}"),
    mark("the third quarter of {year}"),
    mark("the fourth quarter of {year}"),
)
_IN_QUARTERS = (
    mark("in the first quarter of {year}"),
    mark("in the second quarter of {year}"),
    mark("in the third quarter of {year}"),
    mark("in the fourth quarter of {year}"),
)


def _quarter(span: Period) -> int:
    return (int(str(span.start)[5:7]) - span.calendar.fiscal_start) % 12 // 3


def period(span: Period) -> str:
    """A period as said: "September 2025", "the third quarter of 2025", "1 to 19 October 2025"."""
    if span.name:
        return span.name
    if span.foretold:
        return say("the forecast made before")
    if span.is_whole():
        if span.grain is Grain.MONTH:
            return month(span.start)
        if span.grain is Grain.YEAR:
            return year(span)
        if span.grain is Grain.QUARTER:
            return say(_QUARTERS[_quarter(span)], year=year(span))
        if span.grain is Grain.WEEK:
            return say("the week of {day}", day=day(span.start))
        return day(span.start)
    if _same_month(span):
        return say("{first} to {day}", first=int(str(span.start)[8:]), day=day(span.end))
    return span_of(span)


def head(span: Period) -> str:
    """A period as the head of a column: "Q3 2024", "Aug 2025"; else as in a sentence."""
    short = {Grain.MONTH: "yMMM", Grain.QUARTER: "yQQQ"}.get(span.grain) if span.grain is not None else None
    if short is None or span.name or span.foretold or span.calendar.fiscal or not span.is_whole():
        return period(span)
    return _by_skeleton(span.start, short)


def place_in_year(place: int, *, quarters: bool) -> str:
    """The month or quarter of any year, from 1 on: "August", "Q3"."""
    month = 3 * place if quarters else place
    return _formatted(np.datetime64(f"2001-{month:02d}-01"), "QQQ" if quarters else "LLLL")


def year(span: Period) -> str:
    """The year a period lies in: "2025", "fiscal 2025"."""
    name = span.calendar.year_name(span.start)
    return say("fiscal {year}", year=name) if span.calendar.fiscal else str(name)


def when(span: Period, measure: Measure | None) -> str:
    """When something was so: "in September 2025"; of a level, which is that of a moment, "at the end of September
    2025"."""
    if measure is None or not measure.level or span.start == span.end:
        return within(span)
    return say("at the end of {period}", period=period(span))


def within(span: Period) -> str:
    """ "in September 2025", "from 1 to 19 October 2025"."""
    if span.name:
        return say("in {period}", "scenario", period=span.name)
    if span.foretold:
        return say("in the forecast made before")
    if span.is_whole():
        if span.grain is Grain.MONTH:
            return say("in {month}", month=month(span.start))
        if span.grain is Grain.YEAR:
            return say("in {year}", "year", year=year(span))
        if span.grain is Grain.QUARTER:
            return say(_IN_QUARTERS[_quarter(span)], year=year(span))
        if span.grain is Grain.WEEK:
            return say("in the week of {day}", day=day(span.start))
        return say("on {day}", day=day(span.start))
    if _same_month(span):
        return say("from {first} to {day}", "days of a month", first=int(str(span.start)[8:]), day=day(span.end))
    return during(span)


def during(span: Period) -> str:
    """ "from September 2022 to September 2025", "in October 2025"."""
    return _between(span, whole=True)


def from_to(first: str, last: str) -> str:
    """ "from 2022 to 2024"."""
    return say("from {first} to {last}", "months", first=first, last=last)


def span_of(span: Period) -> str:
    """ "September 2022 to September 2025", or in days when it does not run over whole months."""
    return _between(span, whole=False)


def _between(span: Period, *, whole: bool) -> str:
    if span.grain is Grain.YEAR and str(span.start).endswith("-01-01") and str(span.end).endswith("-12-31"):
        # What is told by the year is told in years.
        first, last = str(span.start)[:4], str(span.end)[:4]
        if first == last:
            return say("in {year}", "year", year=first) if whole else first
        return from_to(first, last) if whole else say("{first} to {last}", "months", first=first, last=last)
    following = span.end + DAY
    if str(span.start).endswith("-01") and str(following).endswith("-01"):
        if month(span.start) == month(span.end):
            return say("in {month}", month=month(span.start)) if whole else month(span.start)
        last = month(span.end)
        same_year = str(span.start)[:4] == str(span.end)[:4]
        first = calendar_name(MONTHS[int(str(span.start)[5:7]) - 1]) if same_year else month(span.start)
        return (
            say("from {first} to {last}", "months", first=first, last=last)
            if whole
            else say("{first} to {last}", "months", first=first, last=last)
        )
    first, last = day(span.start), day(span.end)
    return (
        say("from {first} to {last}", "days", first=first, last=last)
        if whole
        else say("{first} to {last}", "days", first=first, last=last)
    )


def _same_month(span: Period) -> bool:
    return str(span.start)[:7] == str(span.end)[:7]


def start(span: Period) -> str:
    """When something began: "August 2024", "1 March 2024"."""
    if span.grain in (Grain.MONTH, Grain.QUARTER, Grain.YEAR):
        return month(span.start) if span.grain is not Grain.YEAR else year(span)
    return day(span.start)


def since(span: Period) -> str:
    """ "since August 2024"."""
    return _at_start(span, "since")


def at(span: Period) -> str:
    """When something happened, told by its start: "in August 2024"."""
    return _at_start(span, "in")


def _at_start(span: Period, word: str) -> str:
    if span.grain in (Grain.MONTH, Grain.QUARTER):
        name = month(span.start)
        return say("since {month}", month=name) if word == "since" else say("in {month}", month=name)
    if span.grain is Grain.YEAR:
        name = year(span)
        return say("since {year}", "year", year=name) if word == "since" else say("in {year}", "year", year=name)
    name = day(span.start)
    return say("since {day}", "day", day=name) if word == "since" else say("on {day}", day=name)
