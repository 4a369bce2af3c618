"""Dates as people write them, decided from the whole column."""

from __future__ import annotations

import re
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from functools import lru_cache
from itertools import pairwise
from typing import Any

from ...support.phrasing import phrased
from ..meaning.calendar_words import weekdays
from ..meaning.name_words import folded
from ..reading_guide import Guide
from .interpretation import NO_GUIDE, Reading

#: Answers to questions about dates.
_ORDERS = ("day first", "month first")
_SEVERAL = "in several ways"
#: The forms of dates, as they are said.
FORMS = {
    str(form): form
    for form in (
        phrased("day first"),
        phrased("month first"),
        phrased("year, month, day"),
        phrased("with weekdays"),
        phrased("with named months"),
        phrased("written as quarters, by their first day"),
        phrased("written as half years, by their first day"),
        phrased("written as fiscal years, by the first day of the year they name first"),
        phrased("written as ISO weeks, by their Monday"),
        phrased("written as fiscal weeks, taken for those of the year they name"),
        phrased("written as fiscal periods, taken for the months of the year they name"),
        phrased("written as months, by their first day"),
        phrased("written without separators"),
    )
}
UNNAMED_UTC = "those without a zone are UTC"
#: Months with a point before the year: no numbers, whatever their noughts.
_POINTED_MONTH = re.compile(r"(?:0?[1-9]|1[0-2])\.(?:19|20)\d{2}")
#: Languages whose month names are known.
LANGUAGES = ("en", "de", "fr", "es", "it", "nl")
_TIME = (
    r"(?:[T ]\s*(?P<h>\d{1,2}):(?P<mi>\d{2})(?::(?P<s>\d{2})(?:[.,]\d{1,9})?)?\s*(?P<ap>[AaPp]\.?[Mm]\.?)?"
    r"\s*(?:Z|UTC|[+-]\d{2}:?\d{2})?)?"
)
_OFFSET = re.compile(r":\d{2}(?:[.,]\d+)?\s*(?:Z|UTC|(?P<sign>[+-])(?P<h>\d{2}):?(?P<m>\d{2}))$")
_YEAR_FIRST = re.compile(rf"^(?P<y>\d{{4}})[-/.](?P<m>\d{{1,2}})[-/.](?P<d>\d{{1,2}}){_TIME}$")
_SHORT = re.compile(rf"^(?P<a>\d{{1,2}})(?P<sep>[-/.])(?P<b>\d{{1,2}})(?P=sep)(?P<y>\d{{4}}|\d{{2}}){_TIME}$")
_NAMED = re.compile(
    rf"^(?:(?P<d1>\d{{1,2}})(?:\.|st|nd|rd|th)?[\s-]*(?:de\s+)?)?(?P<name>[^\W\d_]{{3,}})\.?[\s-]*(?:(?P<d2>\d{{1,2}})(?:st|nd|rd|th)?(?:,\s*|\s+))?"
    rf"(?:de\s+)?['’]?(?P<y>\d{{4}}|\d{{2}}){_TIME}$"
)
_YEAR_NAMED = re.compile(r"^(?P<y>\d{4})[\s/-]*(?P<name>[^\W\d_]{3,})\.?(?:[\s/-]+(?P<d>\d{1,2}))?$")
_FISCAL = r"(?:FY|GJ|EF|AF)?\s*['’]?"
_QUARTER = re.compile(
    rf"^(?:{_FISCAL}(?P<y>\d{{4}}|\d{{2}})[-\s/]*[QT](?P<q>[1-4])"
    rf"|(?:[QT](?P<q2>[1-4])|(?P<q3>[1-4])(?:[.]\s*Quartal|T|er trimestre|[eº] trimestre|[.]º? trimestre))"
    rf"[-\s/]*(?:de\s+)?{_FISCAL}(?P<y2>\d{{4}}|\d{{2}}))$",
    re.IGNORECASE,
)
_HALF = re.compile(
    rf"^(?:{_FISCAL}(?P<y>\d{{4}})[-\s/]*[HS](?P<h>[12])|[HS](?P<h2>[12])[-\s/]*{_FISCAL}(?P<y2>\d{{4}}))$",
    re.IGNORECASE,
)
_WEEK = re.compile(
    r"^(?:(?P<y>\d{4})[-\s/]*(?:W|KW|WK|S|SEM)[-\s]*(?P<w>\d{2})"
    r"|(?:W|KW|WK|WEEK|WOCHE|SEMAINE|SEMANA|SEM)[.\s-]*(?P<w2>\d{1,2})[-\s/,]*(?P<y2>\d{4}))$",
    re.IGNORECASE,
)
_IN_FISCAL = r"(?:FY|GJ|EF|AF)\s*['’]?(?P<{y}>\d{{4}}|\d{{2}})"
_FISCAL_WEEK = re.compile(
    rf"^(?:{_IN_FISCAL.format(y='y')}[-\s/.]*(?:W|WK|WEEK|KW|S|SEM)[-\s]*(?P<w>\d{{1,2}})"
    rf"|(?:W|WK|WEEK|KW|S|SEM)[-\s]*(?P<w2>\d{{1,2}})[-\s/,.]*{_IN_FISCAL.format(y='y2')})$",
    re.IGNORECASE,
)
_FISCAL_PERIOD = re.compile(
    rf"^(?:{_IN_FISCAL.format(y='y')}[-\s/.]*(?:P|PD|PER|PERIOD|M|MONTH)[-\s]*(?P<m>\d{{1,2}})"
    rf"|(?P<y3>(?:19|20)\d{{2}})[-\s/.]*(?:P|PD|PER|PERIOD)[-\s]*(?P<m3>\d{{1,2}})"
    rf"|(?:P|PD|PER|PERIOD)[-\s]*(?P<m2>\d{{1,2}})[-\s/,.]*(?:{_IN_FISCAL.format(y='y2')}|(?P<y4>(?:19|20)\d{{2}})))$",
    re.IGNORECASE,
)
_WEEKDAY = re.compile(
    r"^(?:(?P<before>[^\W\d_]{2,}\.?)[\s,]+(?P<date>.*\d.*)|(?P<date2>.*\d.*?)[\s,]+\(?(?P<behind>[^\W\d_]{2,}\.?)\)?)$"
)
_MONTH = re.compile(r"^(?P<y>\d{4})[-/.Mm](?P<m>\d{1,2})$|^(?P<m2>\d{1,2})[/.](?P<y2>\d{4})$")
_FISCAL_YEAR = re.compile(
    r"^(?:FY|GJ)\s*['’]?(?P<y>\d{4}|\d{2})(?:[/-](?P<next>\d{2,4}))?$|^(?P<y2>\d{4})[/-](?P<next2>\d{2,4})$",
    re.IGNORECASE,
)
_COMPACT = re.compile(r"^(?P<y>(?:19|20)\d{2})(?P<m>\d{2})(?P<d>\d{2})$")


def read(name: str, texts: list[str], guide: Guide = NO_GUIDE) -> Reading | None:
    """A reading if most texts are dates of one form; the order of day and month from all of them. A weekday before or
    behind a date says nothing new."""
    plain = [_without_weekday(text) for text in texts]
    if 2 * sum(one != text for one, text in zip(plain, texts, strict=True)) < len(texts):
        return _read(name, texts, guide)
    found = _read(name, plain, guide)
    if found is None:
        return None
    said = phrased("dates, {form}", form=FORMS["with weekdays"])
    return replace(found, changed=tuple(texts), repair=found.repair or said)


def _without_weekday(text: str) -> str:
    """A date without the name of its weekday: "Fri 01 Mar 2024", "01.03.2024 (Fr)"."""
    match = _WEEKDAY.match(text)
    if match is None or folded((match["before"] or match["behind"]).rstrip(".")) not in weekdays():
        return text
    return str(match["date"] or match["date2"]).strip()


def _read(name: str, texts: list[str], guide: Guide) -> Reading | None:
    if sum(any(letter.isdigit() for letter in text) for text in texts) < 0.5 * len(texts):
        return None
    forms = [
        (_year_first, "year, month, day"),
        (_named, "with named months"),
        (_quarter, "written as quarters, by their first day"),
        (_half, "written as half years, by their first day"),
        (_week, "written as ISO weeks, by their Monday"),
        (_fiscal_week, "written as fiscal weeks, taken for those of the year they name"),
        (_fiscal_period, "written as fiscal periods, taken for the months of the year they name"),
        (_month, "written as months, by their first day"),
        (_compact, "written without separators"),
        (_fiscal_year, "written as fiscal years, by the first day of the year they name first"),
    ]
    step = guide.step("read texts", name)
    told = None if step is None else step.facts.get("form")
    partly: Reading | None = None
    for parse, said in forms:
        if told is not None and told != said:
            continue
        values = [_safe(parse, text) for text in texts]
        good = sum(value is not None for value in values)
        if 2 * good < len(texts):
            continue
        repair = None if parse is _year_first else phrased("dates, {form}", form=FORMS[said])
        made = _zoned(name, _reading(texts, values, said, repair), texts, values, guide)
        if good == len(texts):
            return made
        partly = partly or made
    short = _short(name, texts, told, guide)
    if short is not None and None not in short.values:
        return short
    several = _several(texts, told)
    if several is not None and None not in several.values:
        return several
    return partly or short


def _several(texts: list[str], told: str | None) -> Reading | None:
    """Dates written in more ways than one, where each by itself can be read in one way only."""
    if told not in (None, _SEVERAL):
        return None
    ways = (_year_first, _named, _compact, _dotted)
    values = [next((value for parse in ways if (value := _safe(parse, text)) is not None), None) for text in texts]
    if 2 * sum(value is not None for value in values) < len(texts) or any(_offset(text) is not None for text in texts):
        return None
    return _reading(texts, values, _SEVERAL, phrased("dates, written in several ways"))


def _dotted(text: str) -> datetime | None:
    match = _SHORT.match(text)
    parsed: datetime | None = _ordered("day first")(text) if match is not None and match["sep"] == "." else None
    return parsed


def _zoned(name: str, plain: Reading, texts: list[str], values: list[datetime | None], guide: Guide) -> Reading:
    """The same moment is the same moment wherever its clock stands: different offsets meet in one zone."""
    offsets = {_offset(text) for text in texts}
    form = str(plain.facts["form"])
    step = guide.step("read texts", name)
    if None in offsets and len(offsets) > 1:
        asked = guide.ask(
            "time zones", name, phrased("some of its moments name a time zone and some do not."), (UNNAMED_UTC,)
        )
        answer = asked if step is None else step.facts.get("zones")
        if answer is None or not isinstance(answer, str):
            question = asked if not isinstance(asked, str) else None
            return replace(plain, check="time zones", question=question)
    if None in offsets and len(offsets) == 1:
        return plain
    wanted = guide.zone if step is None else step.facts.get("zone")
    if len(offsets) == 1 and wanted is None:
        return plain
    zone = wanted or "UTC"
    moved = [
        None if value is None else _in_zone(value - (_offset(text) or timedelta()), zone)
        for text, value in zip(texts, values, strict=True)
    ]
    said = (
        phrased("moments of several time zones, turned to {zone}", zone=zone)
        if len(offsets) > 1
        else phrased("moments with a time zone, turned to {zone}", zone=zone)
    )
    read_as = _reading(texts, moved, form, said)
    facts = dict(read_as.facts) | {"zone": zone} | ({"zones": UNNAMED_UTC} if None in offsets else {})
    return replace(read_as, facts=facts)


def _in_zone(moment: datetime, zone: str) -> datetime:
    if zone == "UTC":
        return moment
    from zoneinfo import ZoneInfo

    return moment.replace(tzinfo=UTC).astimezone(ZoneInfo(zone)).replace(tzinfo=None)


def _short(name: str, texts: list[str], told: str | None, guide: Guide) -> Reading | None:
    matches = [_SHORT.match(text) for text in texts]
    found = [match for match in matches if match is not None]
    if 2 * len(found) < len(texts):
        return None
    if told is not None:
        orders = [told] if told in _ORDERS else []
        values = [_safe(_ordered(order), text) for order in orders for text in texts]
        return _reading(texts, values, told, phrased("dates, {form}", form=FORMS[told])) if values else None
    first = max(int(match["a"]) for match in found)
    second = max(int(match["b"]) for match in found)
    orders = [order for order in _ORDERS if (first if order == "month first" else second) <= 12]
    readings = {order: [_safe(_ordered(order), text) for text in texts] for order in orders}
    if not orders:
        return None
    if len(orders) == 1:
        return _reading(texts, readings[orders[0]], orders[0], phrased("dates, {form}", form=FORMS[orders[0]]))
    if all(match["sep"] == "." for match in found):
        said = phrased("dates, day first, as dates with points are written")
        return _reading(texts, readings["day first"], "day first", said)
    # Nothing in the numbers tells. A column in the order of time under one reading only does.
    rising = [order for order in orders if _rises(readings[order])]
    if len(rising) == 1:
        said = phrased("dates, {form}, by the order of the rows", form=FORMS[rising[0]])
        return _reading(texts, readings[rising[0]], rising[0], said)
    answer = guide.ask(
        "date order",
        name,
        phrased(
            "dates such as {text} could be day first or month first, and nothing in the column tells. It was left as "
            "text.",
            text=repr(texts[0]),
        ),
        _ORDERS,
    )
    if isinstance(answer, str):
        return _reading(texts, readings[answer], answer, phrased("dates, {form}, as answered", form=FORMS[answer]))
    plain = _reading(texts, readings["day first"], "day first", None)
    return replace(plain, check="date order", question=answer)


def _reading(texts: list[str], values: list[datetime | None], form: str, repair: str | None) -> Reading:
    import pyarrow as pa

    moments = any(value is not None and (value.hour or value.minute or value.second) for value in values)
    kind = pa.timestamp("us") if moments else pa.date32()
    typed: list[Any] = [value if moments or value is None else value.date() for value in values]
    return Reading(
        what="dates",
        check="dates as text",
        values=typed,
        type=kind,
        repair=repair,
        changed=tuple(texts) if repair else (),
        facts={"as": "dates", "form": form},
    )


def _rises(values: list[datetime | None]) -> bool:
    known = [value for value in values if value is not None]
    return len(known) >= 8 and all(a <= b for a, b in pairwise(known))


def _safe(parse: Any, text: str) -> datetime | None:
    try:
        value: datetime | None = parse(text)
    except ValueError:
        return None
    return value


def _clock(match: re.Match[str]) -> timedelta:
    if match["h"] is None:
        return timedelta()
    hour = int(match["h"])
    half = (match["ap"] or "").casefold().replace(".", "")
    if half:
        hour = hour % 12 + (12 if half == "pm" else 0)
    if hour > 23 or int(match["mi"]) > 59:
        raise ValueError(match[0])
    return timedelta(hours=hour, minutes=int(match["mi"]), seconds=int(match["s"] or 0))


def _offset(text: str) -> timedelta | None:
    """How far ahead of UTC a moment's clock is; None when it does not say."""
    match = _OFFSET.search(text)
    if match is None:
        return None
    if match["h"] is None:
        return timedelta()
    ahead = timedelta(hours=int(match["h"]), minutes=int(match["m"]))
    return -ahead if match["sign"] == "-" else ahead


def _year(text: str) -> int:
    """Two digits mean 1969 to 2068, as POSIX has it."""
    year = int(text)
    return year if len(text) == 4 else year + (2000 if year <= 68 else 1900)


def _year_first(text: str) -> datetime | None:
    match = _YEAR_FIRST.match(text)
    return datetime(int(match["y"]), int(match["m"]), int(match["d"])) + _clock(match) if match else None


def _ordered(order: str) -> Any:
    def parse(text: str) -> datetime | None:
        match = _SHORT.match(text)
        if match is None:
            return None
        day, month = (match["a"], match["b"]) if order == "day first" else (match["b"], match["a"])
        return datetime(_year(match["y"]), int(month), int(day)) + _clock(match)

    return parse


def _named(text: str) -> datetime | None:
    match = _NAMED.match(text)
    if match is None:
        behind = _YEAR_NAMED.match(text)
        month = None if behind is None else _months().get(behind["name"].casefold())
        return None if behind is None or month is None else datetime(int(behind["y"]), month, int(behind["d"] or 1))
    month = _months().get(match["name"].casefold().rstrip("."))
    if month is None:
        return None
    return datetime(_year(match["y"]), month, int(match["d1"] or match["d2"] or 1)) + _clock(match)


def years_and_months(texts: list[str]) -> bool:
    """Whether texts are years with a named month behind them, 1939 Jan: no numbers with a unit."""
    return all(_YEAR_NAMED.match(text) is not None and _named(text) is not None for text in texts)


def pointed_months(texts: list[str]) -> bool:
    """Whether texts are months such as 01.2024 (one of them with its nought) and no numbers with four decimals."""
    return any(text.startswith("0") for text in texts) and all(_POINTED_MONTH.fullmatch(text) for text in texts)


def _quarter(text: str) -> datetime | None:
    match = _QUARTER.match(text)
    if match is None:
        return None
    quarter = int(match["q"] or match["q2"] or match["q3"])
    return datetime(_year(match["y"] or match["y2"]), 3 * quarter - 2, 1)


def _half(text: str) -> datetime | None:
    match = _HALF.match(text)
    return datetime(int(match["y"] or match["y2"]), 6 * int(match["h"] or match["h2"]) - 5, 1) if match else None


def _fiscal_year(text: str) -> datetime | None:
    match = _FISCAL_YEAR.match(text)
    if match is None:
        return None
    year, following = _year(match["y"] or match["y2"]), match["next"] or match["next2"]
    # 2024/25 names two years, one after the other; 2024/07 is a month.
    if following is not None and int(following) % 100 != (year + 1) % 100:
        return None
    return datetime(year, 1, 1)


def _week(text: str) -> datetime | None:
    match = _WEEK.match(text)
    if match is None:
        return None
    return _monday(match)


def _monday(match: re.Match[str]) -> datetime:
    """The first day of a week of a year."""
    monday = date.fromisocalendar(_year(match["y"] or match["y2"]), int(match["w"] or match["w2"]), 1)
    return datetime.combine(monday, datetime.min.time())


def _fiscal_week(text: str) -> datetime | None:
    match = _FISCAL_WEEK.match(text)
    return None if match is None else _monday(match)


def _fiscal_period(text: str) -> datetime | None:
    match = _FISCAL_PERIOD.match(text)
    if match is None:
        return None
    year = match["y"] or match["y2"] or match["y3"] or match["y4"]
    return datetime(_year(year), int(match["m"] or match["m2"] or match["m3"]), 1)


def _month(text: str) -> datetime | None:
    match = _MONTH.match(text)
    return datetime(int(match["y"] or match["y2"]), int(match["m"] or match["m2"]), 1) if match else None


def _compact(text: str) -> datetime | None:
    match = _COMPACT.match(text)
    return datetime(int(match["y"]), int(match["m"]), int(match["d"])) if match else None


@lru_cache(maxsize=1)
def _months() -> dict[str, int]:
    """Names and abbreviations of months, folded, in all known languages."""
    from babel.dates import get_month_names

    known: dict[str, int] = {}
    for language in LANGUAGES:
        for width in ("wide", "abbreviated"):
            for context in ("format", "stand-alone"):
                for number, name in get_month_names(width, context=context, locale=language).items():
                    known.setdefault(str(name).casefold().rstrip("."), int(number))
    known.setdefault("sept", 9)
    return known
