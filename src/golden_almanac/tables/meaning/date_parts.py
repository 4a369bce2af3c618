"""Parts of a date in columns of their own: those that stand beside the date they come from, and those that are the
only time a table has, which are put together to one."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
import numpy.typing as npt

from ...support.phrasing import phrased, phrased_count
from .. import Role, Table
from ..calendar import DAY
from ..problems import Problem, Step
from ..table import Column
from . import glimpse
from .calendar_words import PARTS, months, weekdays
from .name_words import folded, words

Days = npt.NDArray[np.datetime64]
#: What puts a date together, in a log of repairs.
TOGETHER = "put dates together"
#: The share of rows that must agree for a column to be a part of a date.
_AGREE = 0.995
#: The same of moments that another clock tells, before its neighbouring days are asked.
_AGREE_BUT_FOR_HOURS = 0.5
#: The share of rows that may be without a date.
_MOST_WITHOUT = 0.2
#: Values and days that tell a line, how many days off it a numbered month may be, and what share of its length.
_RUNNING_STEPS, _MONTHS_APART, _OFF_THE_LINE = 12, 3.0, 0.02
#: Words of numbers that run with time, besides those of parts of a date.
_RUNNING_WORDS = frozenset(
    "date datum fecha time zeit temps tiempo trend t index idx no num number nr seq sequence serial step epoch "
    "timestamp".split()
)
_FIRST_YEAR, _LAST_YEAR = 1850, 2150
#: The first year of a column that is called so.
_FIRST_NAMED = 1500


def known_parts(table: Table) -> Table:
    """The table with columns that only repeat a part of its dates known as that: neither labels nor amounts."""
    dated = [column for column in table.columns if column.role is Role.TIME]
    asked = [column for column in table.columns if column.role in (Role.DIMENSION, Role.MEASURE, Role.KEY, Role.TEXT)]
    told = [column for column in asked if column.type in ("number", "text") and _part_words(column)]
    if not dated:
        return table
    found = _running_with_dates(table, dated, [column for column in asked if column.type == "number"])
    asked = [column for column in told if column.name not in found]
    for column in asked:
        numbers = _glimpsed(table, column)
        for time in dated:
            days = glimpse.days(table, time.name)
            known = ~np.isnat(days) & np.isfinite(numbers)
            if known.sum() < 3:
                continue
            part = _matching(column, days[known], numbers[known])
            if part is not None:
                because = phrased("the {part} of {column}", part=part, column=repr(time.name))
                found[column.name] = replace(
                    column, role=Role.PART, adds_up=None, unit=None, nature="", because=because
                )
                break
    return table.with_described(found)


def _running_with_dates(table: Table, dated: list[Column], asked: list[Column]) -> dict[str, Column]:
    """Columns that are the date once more, as a number that runs with it: years and their fractions (2024.5), days
    since a beginning, a number of the month. Each grows by the same for every day."""
    found: dict[str, Column] = {}
    for column in asked:
        if column.distinct < _RUNNING_STEPS or not (_part_words(column) or _RUNNING_WORDS & set(words(column.name))):
            continue
        numbers = _glimpsed(table, column)
        for time in dated:
            days = glimpse.days(table, time.name)
            known = ~np.isnat(days) & np.isfinite(numbers)
            if known.sum() < _RUNNING_STEPS:
                continue
            since = (days[known] - days[known].min()).astype("timedelta64[D]").astype(np.float64)
            if np.unique(since).size >= _RUNNING_STEPS and _in_line(since, numbers[known]):
                because = phrased("it runs with the dates of {column}", column=repr(time.name))
                found[column.name] = replace(
                    column, role=Role.PART, adds_up=None, unit=None, nature="", because=because
                )
                break
    return found


def _in_line(since: npt.NDArray[np.float64], values: npt.NDArray[np.float64]) -> bool:
    """Whether values lie on a straight line over days, but for what the lengths of months make."""
    across, along = since - since.mean(), values - values.mean()
    if not np.ptp(along) > 0 or not np.ptp(across) > 0:
        return False
    off = np.abs(along - across * (across @ along) / (across @ across))
    per_day = abs(across @ along) / (across @ across)
    return bool(per_day > 0 and off.max() <= min(_MONTHS_APART * per_day, _OFF_THE_LINE * np.ptp(values)))


def put_together(table: Table, names: tuple[str, ...]) -> Table:
    """The table with a column of dates made from its columns of years, and of months, quarters, weeks or days."""
    import pyarrow as pa

    days = _days(table, names)
    name = free_name("date", table.names, " (put together)")
    from ..readiness.repairs import rebuilt

    made = rebuilt(table, table.arrow.append_column(name, pa.array(days.astype("datetime64[D]"))), table.row_numbers())
    columns = []
    for column in made.columns:
        if column.name in names:
            because = phrased("a part of the dates put together from it")
            column = replace(column, role=Role.PART, adds_up=None, unit=None, nature="", because=because)
        elif column.name == name:
            # It stands in no source: nothing there is called so, and no join brings it along.
            column = replace(column, role=Role.TIME, original="")
        columns.append(column)
    return replace(made, columns=tuple(columns))


def time_of_parts(table: Table) -> Table:
    """A table without dates that has columns of years (and months, quarters, weeks, days): dates put together."""
    if any(column.role is Role.TIME for column in table.columns) or not table.store.abilities.in_order:
        return table
    years = [column for column in table.columns if _is_year(table, column)]
    if len(years) > 1:
        # Of the year built and the year sold, that with a month beside it is when something happened.
        years = [
            one for one in years if any(_finer(table, part, _of_what(one)) for part in ("month", "quarter", "week"))
        ]
    if len(years) != 1:
        return table
    of_what = _of_what(years[0])
    found = (_finer(table, part, of_what) for part in ("month", "quarter", "week"))
    finer = next((one for one in found if one), None)
    day = _finer(table, "day", of_what) if finer is not None and _part(finer) == "month" else None
    names = tuple(column.name for column in (years[0], finer, day) if column is not None)
    days = _days(table, names)
    if np.isnat(days).mean() > _MOST_WITHOUT:
        # Where months are hardly known the years still are.
        names = names[:1]
        days = _days(table, names)
    if np.isnat(days).mean() > _MOST_WITHOUT or np.unique(days[~np.isnat(days)]).size < 2:
        return table
    made = put_together(table, names)
    problem = Problem(
        check="dates in parts",
        severity="repair",
        column=None,
        rows=table.rows,
        message=phrased_count(
            len(names),
            "The dates were read from {names}, a column of years.",
            "The dates were put together from {names}.",
            names=[repr(name) for name in names],
        ),
        repair=phrased("dates put together"),
        step=Step(do=TOGETHER, facts={"columns": list(names)}),
    )
    return replace(made, problems=(*made.problems, problem))


def _part_words(column: Column) -> list[str]:
    """The parts of a date that the name of a column speaks of."""
    said = {*words(column.name), "".join(words(column.name))}
    return [part for part, known in PARTS.items() if said & known]


def _part(column: Column) -> str | None:
    return next(iter(_part_words(column)), None)


def _is_year(table: Table, column: Column) -> bool:
    """Whether a column holds nothing but years: whole numbers, or texts of four digits."""
    first = _FIRST_NAMED if set(words(column.name)) <= PARTS["year"] else _FIRST_YEAR
    if column.type == "text" and "year" in _part_words(column) and column.distinct <= 300:
        values = _numbers(table, column)
    elif column.type == "number":
        ends = table.extent(column.name)
        if ends[0] is None or not (first <= ends[0] <= ends[1] <= _LAST_YEAR or _short_years(column, ends)):
            return False
        values = _full(table.numbers(column.name))
    else:
        return False
    known = values[np.isfinite(values)]
    named = "year" in _part_words(column)
    # Without a name that says so only a column of a few neighbouring years is one: 2,014 sold is no year.
    if not known.size:
        return False
    few = 2 <= column.distinct <= 60 and bool(np.ptp(known) <= 150 and known.min() >= 1900)
    years = bool(np.all((known == np.floor(known)) & (known >= first) & (known <= _LAST_YEAR)))
    return years and (named or (few and _like_years(known)))


def _short_years(column: Column, ends: tuple[float, float]) -> bool:
    """Whether years are written in two digits: the name says that they are years, and all are of one century."""
    return words(column.name) in (["year"], ["yr"], ["jahr"], ["ano"], ["annee"]) and 50 <= ends[0] <= ends[1] <= 99


def _full(years: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """Years of two digits as years of the last century."""
    return np.where(years < 100, years + 1900, years)


def _like_years(values: npt.NDArray[np.float64]) -> bool:
    """Whether whole numbers come as years do: nearly all between the first and the last, each on several rows."""
    distinct, counts = np.unique(values, return_counts=True)
    return bool(distinct.size >= 0.8 * (np.ptp(distinct) + 1) and np.median(counts) >= 1)


def _of_what(column: Column) -> frozenset[str]:
    """What a part of a date is the part of: "sold" of `YearSold`, nothing of `year`."""
    return frozenset(words(column.name)) - frozenset().union(*PARTS.values())


def _finer(table: Table, part: str, of_what: frozenset[str]) -> Column | None:
    """The column of months (quarters, weeks, days of the month) beside one of years, of the same thing first."""
    alike = sorted(table.columns, key=lambda column: _of_what(column) != of_what)
    for column in alike:
        if part not in _part_words(column) or column.type not in ("number", "text") or column.role is Role.TIME:
            continue
        if of_what and _of_what(column) not in (of_what, frozenset()):
            continue
        values = _numbers(table, column)
        known = values[np.isfinite(values)]
        most = {"month": 12, "quarter": 4, "week": 53, "day": 31}[part]
        filled = known.size >= 0.95 * (table.rows - column.missing) > 0
        whole = filled and bool(np.all(known == np.floor(known)))
        if whole and 1 <= known.min() <= known.max() <= most and np.unique(known).size >= 2:
            return column
    return None


def _days(table: Table, names: tuple[str, ...]) -> Days:
    """The first day of the period that the columns name in each row."""
    columns = [table.column(name) for name in names]
    numbers = {_part(column) or "year": _numbers(table, column) for column in columns}
    year = numbers.pop("year")
    known = np.isfinite(year)
    for values in numbers.values():
        known &= np.isfinite(values)
    safe = {part: np.where(known, values, 1).astype(np.int64) for part, values in numbers.items()}
    year = _full(year)
    years = (np.where(known, year, 2000).astype(np.int64) - 1970).astype("datetime64[Y]")
    if "week" in safe:
        # The Monday of an ISO week: the week of 4 January is the first.
        fourth = years.astype("datetime64[D]") + np.timedelta64(3, "D")
        monday = fourth - ((fourth.astype(np.int64) + 3) % 7).astype("timedelta64[D]")
        days = monday + (7 * (safe["week"] - 1)).astype("timedelta64[D]")
    else:
        month = safe.get("month", 3 * safe["quarter"] - 2 if "quarter" in safe else np.ones(year.size, dtype=np.int64))
        days = (years.astype("datetime64[M]") + (month - 1).astype("timedelta64[M]")).astype("datetime64[D]")
        if "day" in safe:
            days = days + (safe["day"] - 1).astype("timedelta64[D]")
    return np.where(known, days, np.datetime64("NaT", "D"))


def _numbers(table: Table, column: Column) -> npt.NDArray[np.float64]:
    """A part of a date as a number in each row, NaN for what is none: 3, "03", "March", "Q1", "2024"."""
    if column.type == "number":
        return table.numbers(column.name)
    codes, labels = table.codes(column.name)
    read = np.array([_number_of(label) for label in labels])
    return read[codes] if len(labels) else np.full(codes.size, np.nan)


def _glimpsed(table: Table, column: Column) -> npt.NDArray[np.float64]:
    """The same of some rows."""
    if column.type == "number":
        return glimpse.numbers(table, column.name)
    return np.array([_number_of(label) for label in glimpse.labels(table, column.name)], dtype=float)


def _number_of(label: str | None) -> float:
    if label is None:
        return float("nan")
    text = folded(label).strip().rstrip(".")
    if text in months():
        return float(months()[text])
    if text in weekdays():
        return float(weekdays()[text])
    digits = text.lstrip("qtskwmhf ").removeprefix("y")
    return float(digits) if digits.isdigit() and len(digits) <= 4 else float("nan")


def _matching(column: Column, days: Days, numbers: npt.NDArray[np.float64]) -> str | None:
    """The part of the days that the numbers are, if they are one."""
    for part in _part_words(column):
        beside = None
        for place, values in enumerate(_OF_DAYS[part](days)):
            agree = np.asarray(values == numbers)
            if agree.mean() >= _AGREE:
                return part
            if agree.mean() >= _AGREE_BUT_FOR_HOURS:
                # Moments by another clock (UTC): some hours of each day fall on the one before or after.
                beside = beside or [_OF_DAYS[part](days + shift) for shift in (-DAY, DAY)]
                if np.mean(agree | (beside[0][place] == numbers) | (beside[1][place] == numbers)) >= _AGREE:
                    return part
    return None


def _month(days: Days) -> npt.NDArray[np.int64]:
    return np.asarray(days.astype("datetime64[M]").astype(np.int64) % 12 + 1)


def _year(days: Days) -> npt.NDArray[np.int64]:
    return days.astype("datetime64[Y]").astype(np.int64) + 1970


def _week(days: Days) -> npt.NDArray[np.int64]:
    thursday = days + (3 - (days.astype("datetime64[D]").astype(np.int64) + 3) % 7).astype("timedelta64[D]")
    first = thursday.astype("datetime64[Y]").astype("datetime64[D]")
    return np.asarray((thursday - first).astype(np.int64) // 7 + 1)


def _weekday(days: Days) -> npt.NDArray[np.int64]:
    return (days.astype("datetime64[D]").astype(np.int64) + 3) % 7 + 1


def _fiscal_years(days: Days) -> list[npt.NDArray[np.int64]]:
    """Years that begin in January, and those that begin in another month, named by their first or last year."""
    year, month = _year(days), _month(days)
    later = [year + (month >= first) for first in (4, 7, 10)]
    return [year, year % 100, *later, *(one - 1 for one in later)]


_OF_DAYS: dict[str, Callable[[Days], list[Any]]] = {
    "year": _fiscal_years,
    "half": lambda days: [(_month(days) - 1) // 6 + 1],
    "quarter": lambda days: [(_month(days) - 1) // 3 + 1],
    "month": lambda days: [_month(days), 100 * _year(days) + _month(days)],
    "week": lambda days: [_week(days), 100 * _year(days) + _week(days)],
    "day": lambda days: [(days - days.astype("datetime64[M]").astype("datetime64[D]")).astype(np.int64) + 1],
    "weekday": lambda days: [_weekday(days), _weekday(days) - 1, _weekday(days) % 7, _weekday(days) % 7 + 1],
    "hour": lambda days: [],
}


def free_name(name: str, taken: list[str], more: str) -> str:
    """A name that no column has yet; `more` is put behind one that is taken."""
    while name.casefold() in {one.casefold() for one in taken}:
        name += more
    return name
