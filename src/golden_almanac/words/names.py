"""What things are called in a sentence: measures, slices, dimensions, periods."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..core.findings import Finding, Slice
from ..core.measures import Measure, spoken
from ..core.tables import Grain, Period

_MONTHS = ("January February March April May June July August September October November December").split()


def capital(text: str) -> str:
    """The first letter upper case, the rest as it is."""
    return text[:1].upper() + text[1:]


def measure_name(measure: Measure | None) -> str:
    return "the value" if measure is None else measure.label


def many(measure: Measure | None) -> bool:
    """Whether a measure is spoken of as many: passengers, sales."""
    name = measure_name(measure)
    return measure is not None and measure.additive and name.endswith("s") and name[-2:] != "ss"


def was(measure: Measure | None) -> str:
    """ "was", or "were" after a measure that is counted."""
    return "were" if many(measure) else "was"


def it(measure: Measure | None) -> str:
    """ "It", or "They" for a measure that is counted."""
    return "They" if many(measure) else "It"


def weights(measure: Measure | None) -> str:
    """What the weights of an average or ratio are shares of: "rows", "passengers"."""
    below = [part.column for _, part in measure.bottom if part.kind == "sum"] if measure is not None else []
    return spoken(below[0]) if below and below[0] else "rows"


def of(measure: Measure | None, where: Slice) -> str:
    """ "revenue of Outer Bar", or "revenue" for the whole."""
    name = measure_name(measure)
    return f"{name} of {where.label}" if where.conditions else name


def slice_(where: Slice) -> str:
    """ "Outer Bar", "Outer Bar with Peak", "Outer Bar with Peak and Web": labels that belong together."""
    first, *more = (label(text) for _, text in where.conditions)
    return f"{first} with {listed(more)}" if more else first


def label(text: str | None) -> str:
    """A label, or what is said where it is missing."""
    return "(no value)" if text is None else text


def grain(finding: Finding) -> str | None:
    """The grain of a finding's period: "month"."""
    span = finding.period
    return None if span is None or span.grain is None else span.grain.value


def dimension(by: str | None) -> str:
    return spoken(by or "group")


def plural(by: str | None) -> str:
    """ "routes", "fare classes", "cities"."""
    word = dimension(by)
    if word.endswith(("s", "x", "ch", "sh")) and not word.endswith(("us",)):
        return word + "es" if not word.endswith("ies") else word
    if word.endswith("y") and word[-2:-1] not in "aeiou":
        return word[:-1] + "ies"
    return word + "s"


def the_others(by: str | None, parent: Slice | None, besides: Sequence[str] = ()) -> str:
    """ "the other routes", "the other routes of Outer Isles", "the other routes but Tern Rock"."""
    inside = f" of {parent.label}" if parent is not None and parent.conditions else ""
    but = f" but {listed(list(besides))}" if 0 < len(besides) <= 2 else " that held course" if besides else ""
    return f"the other {plural(by)}{inside}{but}"


def day(value: np.datetime64) -> str:
    """ "19 October 2025"."""
    year, month, number = str(value).split("-")
    return f"{int(number)} {_MONTHS[int(month) - 1]} {year}"


def month(value: np.datetime64) -> str:
    year, number, _ = str(value).split("-")
    return f"{_MONTHS[int(number) - 1]} {year}"


def period(span: Period) -> str:
    """A period as said: "September 2025", "the third quarter of 2025", "1 to 19 October 2025"."""
    if span.is_whole():
        if span.grain is Grain.MONTH:
            return month(span.start)
        if span.grain is Grain.YEAR:
            return year(span)
        if span.grain is Grain.QUARTER:
            place = (int(str(span.start)[5:7]) - span.calendar.fiscal_start) % 12 // 3
            return f"the {('first', 'second', 'third', 'fourth')[place]} quarter of {year(span)}"
        if span.grain is Grain.WEEK:
            return f"the week of {day(span.start)}"
        return day(span.start)
    same_month = str(span.start)[:7] == str(span.end)[:7]
    if same_month:
        return f"{int(str(span.start)[8:])} to {day(span.end)}"
    return span_of(span)


def year(span: Period) -> str:
    """The year a period lies in: "2025", "fiscal 2025"."""
    return f"{'fiscal ' if span.calendar.fiscal else ''}{span.calendar.year_name(span.start)}"


def within(span: Period) -> str:
    """ "in September 2025", "from 1 to 19 October 2025"."""
    return f"{'in' if span.is_whole() or ' to ' not in period(span) else 'from'} {period(span)}"


def span_of(span: Period) -> str:
    """ "September 2022 to September 2025", or in days when it does not run over whole months."""
    following = span.end + np.timedelta64(1, "D")
    whole = str(span.start).endswith("-01") and str(following).endswith("-01")
    if whole:
        if month(span.start) == month(span.end):
            return month(span.start)
        same_year = str(span.start)[:4] == str(span.end)[:4]
        first = month(span.start).split(" ")[0] if same_year else month(span.start)
        return f"{first} to {month(span.end)}"
    return f"{day(span.start)} to {day(span.end)}"


def start(span: Period) -> str:
    """When something began: "August 2024", "1 March 2024"."""
    if span.grain in (Grain.MONTH, Grain.QUARTER, Grain.YEAR):
        return month(span.start) if span.grain is not Grain.YEAR else year(span)
    return day(span.start)


def per(grain: str | None) -> str:
    return f"a {grain}" if grain else "in all"


def listed(items: list[str]) -> str:
    """ "a", "a and b", "a, b and c"."""
    return items[0] if len(items) == 1 else f"{', '.join(items[:-1])} and {items[-1]}" if items else ""
