"""What things are called in a sentence: measures, slices, dimensions, periods."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from contextvars import ContextVar
from functools import lru_cache
from typing import Any

import numpy as np

from ..core.findings import Finding, Slice
from ..core.measures import Measure, spoken
from ..core.tables import Grain, Period
from .languages import Noun, mark, pronoun, say, voice
from .languages import noun as noun
from .languages.nouns import known, plain, written

_MONTHS = ("January February March April May June July August September October November December").split()
_DAYS = "Monday Tuesday Wednesday Thursday Friday Saturday Sunday".split()


def capital(text: str) -> str:
    """The first letter upper case, the rest as it is."""
    return text[:1].upper() + text[1:]


def measure_name(measure: Measure | None) -> Noun:
    """A measure as a noun: "revenue", "average delay", "revenue per passengers"."""
    if measure is None:
        return noun("the value")
    if voice().english or known(measure.label):
        return noun(measure.label)
    return _composed(measure)


def _composed(measure: Measure) -> Noun:
    """The name of a measure from what it is made of, in a language other than English."""
    if len(measure.top) != 1 or len(measure.bottom) > 1 or not measure.top[0][1].column:
        return noun(measure.label)
    part = measure.top[0][1]
    base = noun(spoken(part.column, measure.unit if measure.kind != "ratio" else None))
    language = voice().language
    gender = base.gender + ("p" if base.number == "many" else "")
    if measure.kind == "mean":
        if measure.share and spoken(part.column).endswith("rate"):
            return base
        return written(
            say("{name} rate", name=base, gender=gender)
            if measure.share
            else say("average {name}", name=base, gender=gender),
            language,
        )
    if measure.kind == "ratio":
        below = measure.bottom[0][1]
        per_one = noun(spoken(below.column)) if below.column else noun("rows")
        return base.with_tail(say(" per {unit}", unit=per_one))
    if part.kind == "count":
        return noun("rows").with_tail(say(" with {name}", name=base))
    if part.kind == "sum":
        return base
    if part.kind == "distinct":
        return written(say("distinct {name}", name=base, gender=gender), language)
    return written(
        say("lowest {name}", name=base, gender=gender)
        if part.kind == "min"
        else say("highest {name}", name=base, gender=gender),
        language,
    )


def column(name: str, unit: str | None = None) -> Noun:
    """A column as a noun: "fuel cost"."""
    return noun(spoken(name, unit))


def many(measure: Measure | None) -> bool:
    """Whether a measure is spoken of as many: passengers, sales."""
    name = measure_name(measure)
    if not voice().english or name.number == "many":
        return name.number == "many"
    return measure is not None and measure.additive and name.endswith("s") and name[-2:] != "ss"


def subject(measure: Measure | None, where: Slice | None = None) -> Noun:
    """The measure of a slice as the subject of a sentence, with which verbs agree."""
    before = _told_of.get()
    made = measure_name(measure) if where is None else of(measure, where)
    if before is not None and before == (measure, Slice() if where is None else where):
        if many(measure) and made.number == "one":
            made = made.with_tail("")
            made.number = "many"
        return pronoun(made)
    if many(measure) and made.number == "one":
        made = made.with_tail("")
        made.number = "many"
    return made


def weights(measure: Measure | None) -> Noun:
    """What the weights of an average or ratio are shares of: "rows", "passengers"."""
    below = [part.column for _, part in measure.bottom if part.kind == "sum"] if measure is not None else []
    return noun(spoken(below[0]) if below and below[0] else "rows")


#: The measure and slice that the sentence before was about.
_told_of: ContextVar[tuple[Measure | None, Slice] | None] = ContextVar("told_of", default=None)


@contextmanager
def told_of(measure: Measure | None, where: Slice) -> Iterator[None]:
    """Inside, what the sentence before was about is not named again: the same measure of the same slice is "it",
    another measure of the same slice is "passengers there"."""
    token = _told_of.set((measure, where))
    try:
        yield
    finally:
        _told_of.reset(token)


def of(measure: Measure | None, where: Slice) -> Noun:
    """ "revenue of Outer Bar", or "revenue" for the whole; "revenue there" of what was told of just before."""
    name = measure_name(measure)
    before = _told_of.get()
    if where.conditions and before is not None and where == before[1]:
        return name.with_tail(say(" there"))
    return name.with_tail(say(" of {label}", label=where_label(where))) if where.conditions else name


def where_label(where: Slice) -> str:
    """The labels of a slice as said: "Outer Bar", "Outer Bar, Peak"; "" for the whole."""
    return ", ".join(label(text) for _, text in where.conditions)


def slice_(where: Slice) -> str:
    """ "Outer Bar", "Outer Bar with Peak", "Outer Bar with Peak and Web": labels that belong together."""
    first, *more = (label(text) for _, text in where.conditions)
    return say("{label} with {others}", label=first, others=listed(more)) if more else first


def label(text: str | None) -> str:
    """A label as the reader's names have it, or what is said where it is missing."""
    if text is None:
        return say("(no value)")
    own = dict(voice().names).get(text)
    return text if own is None else own.split(",")[0].strip()


def grain(finding: Finding) -> str | None:
    """The grain of a finding's period: "month"."""
    span = finding.period
    return None if span is None or span.grain is None else span.grain.value


def grain_noun(grain: str | None) -> Noun:
    """A grain as a noun: "month", "Monat"."""
    return noun(grain or "period")


def one_of(units: Noun) -> Noun:
    """One of what is counted: "passenger" of "passengers"."""
    if units.number == "many" or not voice().english:
        return plain(units.form("other")) if units.number == "many" else units
    return plain(units[:-1]) if units.endswith("s") and not units.endswith("ss") else units


def dimension(by: str | None) -> Noun:
    return noun(spoken(by or "group"))


def plural(by: str | None) -> Noun:
    """ "routes", "fare classes", "cities"."""
    word = dimension(by)
    if word.number == "many":
        return word
    if known(spoken(by or "group")):
        return written(f"{word.form('other')}, {word.gender.removesuffix('p')}p, {word}", voice().language)
    if not voice().english:
        made = word.with_tail("")
        made.number = "many"
        return made
    made = plain(_english_plural(word))
    made.number = "many"
    return made


def _english_plural(word: str) -> str:
    if word.endswith(("s", "x", "ch", "sh")) and not word.endswith(("us",)):
        return word + "es" if not word.endswith("ies") else word
    if word.endswith("y") and word[-2:-1] not in "aeiou":
        return word[:-1] + "ies"
    return word + "s"


def the_others(by: str | None, parent: Slice | None, besides: Sequence[str] = ()) -> Noun:
    """ "the other routes", "the other routes of Outer Isles", "the other routes but Tern Rock"."""
    tail = say(" of {label}", label=where_label(parent)) if parent is not None and parent.conditions else ""
    if 0 < len(besides) <= 2:
        tail += say(" but {labels}", labels=listed([label(text) for text in besides]))
    elif besides:
        tail += say(" that held course")
    parts = plural(by)
    told = say("the other {parts}", parts=parts)
    if not voice().english:
        return written(told, voice().language).with_tail(tail)
    made = plain(told + tail)
    made.number = "many"
    return made


def day(value: np.datetime64) -> str:
    """ "19 October 2025"."""
    year, month_, number = str(value).split("-")
    if voice().locale == "en":
        return f"{int(number)} {_MONTHS[int(month_) - 1]} {year}"
    return _formatted(value, "long")


def month(value: np.datetime64) -> str:
    year, number, _ = str(value).split("-")
    if voice().english:
        return f"{_MONTHS[int(number) - 1]} {year}"
    return _by_skeleton(value, "yMMMM")


def day_short(value: np.datetime64 | str) -> str:
    """ "6 Jan", for an axis."""
    if voice().locale == "en":
        return f"{int(str(value)[8:10])} {_MONTHS[int(str(value)[5:7]) - 1][:3]}"
    return _by_skeleton(value, "MMMd")


def month_short(value: np.datetime64 | str) -> str:
    """ "Mar 2025", for an axis."""
    if voice().english:
        return f"{_MONTHS[int(str(value)[5:7]) - 1][:3]} {str(value)[:4]}"
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
    return {name: months[place + 1] for place, name in enumerate(_MONTHS)} | {
        name: days[place] for place, name in enumerate(_DAYS)
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


def in_cycle(name: str, cycle: str) -> str:
    """When in a cycle: "on Saturday", "in October", "in the first quarter"."""
    said = calendar_name(name)
    if cycle == "week":
        return say("on {weekday}", weekday=said)
    if name in _MONTHS:
        return say("in {month}", "every year", month=said)
    inside = f"in {name}"
    return say(inside) if inside in _PARTS else inside


def listed_clauses(parts: Sequence[str]) -> str:
    """Clauses behind one subject: "peak in July, and are lowest in January"."""
    return parts[0] if len(parts) == 1 else say("{first}, and {second}", first=parts[0], second=parts[1])


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


def year(span: Period) -> str:
    """The year a period lies in: "2025", "fiscal 2025"."""
    name = span.calendar.year_name(span.start)
    return say("fiscal {year}", year=name) if span.calendar.fiscal else str(name)


def within(span: Period) -> str:
    """ "in September 2025", "from 1 to 19 October 2025"."""
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


def span_of(span: Period) -> str:
    """ "September 2022 to September 2025", or in days when it does not run over whole months."""
    return _between(span, whole=False)


def _between(span: Period, *, whole: bool) -> str:
    following = span.end + np.timedelta64(1, "D")
    if str(span.start).endswith("-01") and str(following).endswith("-01"):
        if month(span.start) == month(span.end):
            return say("in {month}", month=month(span.start)) if whole else month(span.start)
        last = month(span.end)
        same_year = str(span.start)[:4] == str(span.end)[:4]
        first = calendar_name(_MONTHS[int(str(span.start)[5:7]) - 1]) if same_year else month(span.start)
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


def per(grain: str | None) -> str:
    return say("a {grain}", grain=grain_noun(grain)) if grain else say("in all")


def each(measure: Measure | None, grain: str | None) -> str:
    """ " a month" behind an amount that adds up over periods; nothing behind others."""
    return f" {per(grain)}" if measure is not None and measure.additive else ""


def listed(items: Sequence[str]) -> str:
    """ "a", "a and b", "a, b and c"."""
    if len(items) < 2:
        return items[0] if items else ""
    most, last = ", ".join(items[:-1]), items[-1]
    return say("{most} and {last}", most=most, last=last)
