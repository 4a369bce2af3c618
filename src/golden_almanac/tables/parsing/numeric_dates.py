"""Dates kept as whole numbers: the day counts of spreadsheets, and eight digits such as 20250814."""

from __future__ import annotations

from typing import Any

from ...support.phrasing import phrased, phrased_count
from ..io.raw_table import Spots
from ..meaning import name_words
from ..problems import Problem, Step
from ..reading_guide import Guide

#: Words in a name that mark a column of dates.
_DATE_WORDS = frozenset("date day datum dato jour tag dag fecha data when month monat mois mes period time".split())
#: Words that say that a number is for a date, not one.
_AMOUNTS = frozenset("per to a pro par por je bis number total avg average mean".split())
#: Names of whole dates, and the fewest different ones that are believed to have two digits of the year.
_WHOLE_DATES, _LEAST_SHORT = frozenset("date datum dato fecha".split()), 10
_EPOCH_WORDS = frozenset("epoch timestamp unix ts at created updated".split())
_STAMPS = frozenset("epoch timestamp unix".split())
#: 1 January 2000 to 1 January 2100, in seconds since 1970; what is called a timestamp may be from 1990 on.
_FIRST_SECOND, _LAST_SECOND, _FIRST_STAMP = 946_684_800, 4_102_444_800, 631_152_000
#: 1 January 1954 to 31 December 2064, counted as spreadsheets do, from 30 December 1899.
_FIRST, _LAST = 19_725, 60_266
#: Days from that origin to 1970.
_TO_1970 = 25_569
_SECONDS = 86_400


def read(name: str, values: Any, spots: Spots, guide: Guide) -> tuple[Any, Problem | None]:
    """The column as dates if its numbers can be nothing else and its name says so; otherwise as it is."""
    import pyarrow as pa

    numeric = pa.types.is_integer(values.type) or pa.types.is_floating(values.type)
    if not numeric or len(values) == values.null_count:
        return values, None
    step = guide.step("read numbers as dates", name)
    if guide.replays and step is None:
        return values, None
    spoken = name_words.words(name)
    amount = name_words.tells(spoken, name_words.MONEY) or name_words.tells(spoken, name_words.COUNTS)
    # Revenue per day, orders to date: what a date is for is no date; the date of sales is one.
    words = set() if _AMOUNTS & set(spoken) or (amount and spoken[-1] not in _DATE_WORDS) else set(spoken)
    made, said = _eight_digits(values), phrased("dates, written as eight digits")
    if made is None:
        made, said = _six_digits(values, bool(words & _DATE_WORDS)), phrased("months, written as six digits")
    if made is None and (step is not None or words & _WHOLE_DATES):
        made, said = _short_dates(values), phrased("dates, written as six digits")
    if made is None and (step is not None or words & _DATE_WORDS):
        made, said = _day_counts(values), phrased("dates, from the day counts of a spreadsheet")
    if made is None and (step is not None or words & (_DATE_WORDS | _EPOCH_WORDS)):
        first = _FIRST_STAMP if words & _STAMPS else _FIRST_SECOND
        made, said = _seconds(values, first), phrased("moments, from seconds since 1970")
    if made is None:
        return values, None
    filled = len(values) - values.null_count
    place = (
        next(place for place, value in enumerate(values.slice(0, 1000)) if value.as_py() is not None) if filled else 0
    )
    shown = (
        spots.example(
            place, phrased("{number} is {date}", number=f"{values[place].as_py():.10g}", date=str(made[place].as_py()))
        ),
    )
    return made, Problem(
        check="dates as numbers",
        severity="repair",
        column=name,
        rows=filled,
        examples=shown,
        message=phrased_count(
            filled,
            "{column} was read as {what} ({n} cell).",
            "{column} was read as {what} ({n} cells).",
            column=repr(name),
            what=said,
        ),
        repair=phrased("read as {what}", what=said),
        step=Step(do="read numbers as dates", column=name),
    )


def _eight_digits(values: Any) -> Any | None:
    import pyarrow as pa
    import pyarrow.compute as pc

    if not pa.types.is_integer(values.type):
        return None
    ends = pc.min_max(values).as_py()
    if not 19_000_101 <= ends["min"] <= ends["max"] <= 21_001_231:
        return None
    texts = values.cast(pa.string())
    dashed = pc.binary_join_element_wise(
        pc.utf8_slice_codeunits(texts, 0, 4),
        pc.utf8_slice_codeunits(texts, 4, 6),
        pc.utf8_slice_codeunits(texts, 6, 8),
        "-",
    )
    try:
        return dashed.cast(pa.date32())
    except pa.ArrowInvalid:
        return None


def _six_digits(values: Any, named: bool) -> Any | None:
    """Months such as 202407: all of them real ones, and many of them where no name says that they are."""
    import pyarrow as pa
    import pyarrow.compute as pc

    if not pa.types.is_integer(values.type):
        return None
    ends = pc.min_max(values).as_py()
    if not 190_001 <= ends["min"] <= ends["max"] <= 210_012:
        return None
    distinct = pc.unique(values).drop_null().to_pylist()
    if not all(1 <= value % 100 <= 12 for value in distinct) or len(distinct) < (2 if named else 12):
        return None
    texts = values.cast(pa.string())
    year, month = pc.utf8_slice_codeunits(texts, 0, 4), pc.utf8_slice_codeunits(texts, 4, 6)
    return pc.binary_join_element_wise(year, month, "01", "-").cast(pa.date32())


def _short_dates(values: Any) -> Any | None:
    """Dates such as 800102, 2 January 1980: all of them real ones. Years from 70 on are of the last century, as POSIX
    has them but for 69. Else with the year last, where all are real ones in one order of month and day only."""
    import pyarrow as pa
    import pyarrow.compute as pc

    if not pa.types.is_integer(values.type):
        return None
    ends = pc.min_max(values).as_py()
    if not 101 <= ends["min"] <= ends["max"] <= 991_231 or len(pc.unique(values)) < _LEAST_SHORT:
        return None
    whole = values.cast(pa.int64())
    head, middle = (
        pc.divide(whole, 10_000),
        pc.subtract(pc.divide(whole, 100), pc.multiply(pc.divide(whole, 10_000), 100)),
    )
    last = pc.subtract(whole, pc.multiply(pc.divide(whole, 100), 100))
    first_way = _composed(head, middle, last)
    if first_way is not None:
        return first_way
    ways = [one for one in (_composed(last, head, middle), _composed(last, middle, head)) if one is not None]
    return ways[0] if len(ways) == 1 else None


def _composed(year: Any, month: Any, day: Any) -> Any | None:
    """Dates of a year of two digits, a month and a day; None where one is no real date."""
    import pyarrow.compute as pc

    century = pc.if_else(pc.greater_equal(year, 70), 1900, 2000)
    return _eight_digits(pc.add(pc.add(pc.multiply(pc.add(year, century), 10_000), pc.multiply(month, 100)), day))


def _day_counts(values: Any) -> Any | None:
    import pyarrow as pa
    import pyarrow.compute as pc

    ends = pc.min_max(values).as_py()
    if not _FIRST <= ends["min"] <= ends["max"] <= _LAST or ends["max"] < _TO_1970:
        # All before 1970: statistics programs count the days of today so, from 1960 or 1970.
        return None
    whole = pc.floor(values.cast(pa.float64()))
    if pc.all(pc.equal(whole, values.cast(pa.float64()))).as_py():
        return pc.subtract(whole, _TO_1970).cast(pa.int32()).cast(pa.date32())
    seconds = pc.round(pc.multiply(pc.subtract(values.cast(pa.float64()), _TO_1970), _SECONDS))
    return seconds.cast(pa.int64()).cast(pa.timestamp("s")).cast(pa.timestamp("us"))


def _seconds(values: Any, first: int) -> Any | None:
    import pyarrow as pa
    import pyarrow.compute as pc

    if not pa.types.is_integer(values.type):
        return None
    ends = pc.min_max(values).as_py()
    if not first <= ends["min"] <= ends["max"] <= _LAST_SECOND:
        return None
    return values.cast(pa.timestamp("s")).cast(pa.timestamp("us"))
