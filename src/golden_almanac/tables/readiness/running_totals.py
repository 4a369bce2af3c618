"""Running totals taken apart: of sales since the start of the year, those of each row; of a meter, what it moved on.

Each row's amount is its total less that of the row before of the same entity; where a total starts again (with the
year, the quarter, the month, the week) its first row stands for itself. Totals are known by their names, or by never
falling but where a year, quarter or month begins, and always there.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import combinations
from math import prod

import numpy as np
import numpy.typing as npt

from ...engine import arrow_arrays
from ...support.phrasing import marked, phrased
from .. import Role, Table
from ..meaning.date_parts import free_name
from ..meaning.name_words import RUNNING, folded, words
from ..meaning.natures import Nature
from ..problems import Problem, Step
from ..reading_guide import Guide
from ..table import Column

Floats = npt.NDArray[np.float64]
Whole = npt.NDArray[np.int64]
#: What takes totals apart, in a log of repairs, and the answers there are.
APART, TAKEN, LEFT = "take running totals apart", "take apart", "leave as totals"
#: The share of steps that must rise within a span, and fall where one begins.
_RISING, _FALLING = 0.97, 0.9
#: Steps within spans, and spans begun, that show a total without a name for it.
_LEAST_STEPS, _LEAST_STARTS = 20, 2
#: A first row of at most so many usual steps is where a total began.
_BEGINS = 3.0
_FIRST_ROWS = 2000
#: A row within so many days of a span's first day may be its first.
_FIRST = {"year": 31, "quarter": 31, "month": 7, "week": 1}
#: Meters are not called after what they count.
_METERS = frozenset("odometer zahlerstand kilometerstand tachostand lectura".split())
#: Words of what stands on a meter, where its unit or a column beside it says that it is one; units of what is consumed.
_STANDS = frozenset("reading readings index counter count stand mileage releve lectura messwert".split())
_METERED = frozenset("meter meters zahler compteur contador odometer counter".split())
_CONSUMED = frozenset("kwh mwh wh m3 l litre litres liter gal gallons therms cbm".split())
#: What a name of a total is without the words for that.
_WORDS = re.compile(r"\b(?:(?:year|month|quarter)[ _]to[ _]date|running[ _]total)\b", re.IGNORECASE)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Steps:
    """The rows of each entity in order of time: `order` puts them so, and `same` says whether each but the first
    is of the entity of the one before."""

    order: npt.NDArray[np.intp]
    days: npt.NDArray[np.datetime64]
    same: npt.NDArray[np.bool_]


def ready(table: Table, guide: Guide) -> Table:
    """The table with a column of amounts beside each running total, with the question whether that is right."""
    timed = sorted(table.with_role(Role.TIME), key=lambda column: column.missing)
    asked = [column for column in table.with_role(Role.MEASURE) if column.type == "number" and _may_be(column, table)]
    if not timed or not asked:
        return table
    possible = _Entities(table, timed[0].name)
    for column in asked:
        found = _found(table, possible, column)
        if found is not None:
            table = _asked(table, column, timed[0].name, *found, guide)
    return table


def taken_apart(table: Table, name: str, time: str, by: tuple[str, ...], start: str) -> tuple[Table, str]:
    """The table with a running total's amounts beside it, and the name of their column."""
    import pyarrow as pa

    from .repairs import rebuilt

    steps = _steps(table, time, by)
    assert steps is not None
    amounts = _amounts(table.numbers(name), steps, start)
    made_name = _name_of_amounts(name, table.names)
    column = pa.array(amounts, pa.float64(), mask=np.isnan(amounts))
    made = rebuilt(table, table.arrow.append_column(made_name, column), table.row_numbers())
    columns = []
    for one in made.columns:
        if one.name == made_name:
            because = phrased("what {column} grew by from row to row", column=repr(name))
            one = replace(
                one, role=Role.MEASURE, adds_up=True, nature=Nature.FLOW.value, because=because,
                unit=table.column(name).unit, original="",
            )  # fmt: skip
        elif one.name == name and one.nature != Nature.RUNNING:
            because = phrased("it never falls but where it starts again")
            one = replace(one, adds_up=False, nature=Nature.RUNNING.value, because=because)
        columns.append(one)
    return replace(made, columns=tuple(columns)), made_name


def _may_be(column: Column, table: Table) -> bool:
    """Whether a column says that it is a total, or nothing else of itself; or that it is read off meters."""
    told = column.nature in (Nature.RUNNING, Nature.FLOW, Nature.COUNT) or _is_read(column, table)
    return told and column.distinct > 2


def _is_read(column: Column, table: Table) -> bool:
    """Whether numbers are what stands on meters: readings of a unit that is consumed, or beside a column of meters."""
    said = set(words(column.name))
    of_meters = any(_METERED & set(words(one.name)) for one in table.columns)
    return bool(_STANDS & said) and (of_meters or bool(_CONSUMED & said) or (column.unit or "").casefold() in _CONSUMED)


class _Entities:
    """Sets of columns that say whose total a row is: no two rows of one entity stand at one moment. The smallest first;
    each is looked for once, and only when it is asked for."""

    def __init__(self, table: Table, time: str) -> None:
        self._table, self._time = table, time
        self._found: list[tuple[tuple[str, ...], _Steps]] = []
        self._left = _sets(table, time)

    def __iter__(self) -> Iterator[tuple[tuple[str, ...], _Steps]]:
        place = 0
        while True:
            while place < len(self._found):
                yield self._found[place]
                place += 1
            by = next(self._left, None)
            if by is None:
                return
            steps = _steps(self._table, self._time, by)
            if steps is not None:
                self._found.append((by, steps))


def _found(table: Table, possible: _Entities, column: Column) -> tuple[tuple[str, ...], str] | None:
    """(columns of the entities, where the total starts again) of a running total; None where it is none, or cannot
    be told apart."""
    values = table.numbers(column.name)
    named = column.nature == Nature.RUNNING or _is_read(column, table)
    for by, steps in possible:
        start = _start(values, steps, named=named)
        if start is not None:
            return by, start
        if not named:
            # The entities that tell rows apart are those of the table: others would only cut it finer.
            return None
    return None


def _sets(table: Table, time: str) -> Iterator[tuple[str, ...]]:
    """Sets of columns that may say whose total a row is, the smallest first: those with labels enough to tell the rows
    of the fullest day apart."""
    _, counts = table.day_counts(time)
    most = int(counts.max()) if table.column(time).type == "date" and counts.size else 1
    names = [
        column.name for column in table.columns if column.role in (Role.DIMENSION, Role.KEY) and column.missing == 0
    ]
    names = [name for name in names if table.column(name).distinct < table.rows / 2][:8]
    sets = [one for count in range(min(2, len(names)) + 1) for one in combinations(names, count)]
    if len(names) > 2:
        sets.append(tuple(names))
    for one in sets:
        if prod(table.column(name).distinct for name in one) >= most:
            yield one


def _steps(table: Table, time: str, by: tuple[str, ...]) -> _Steps | None:
    """The rows by entity and time; None where two rows of one entity stand at one moment."""
    import pyarrow as pa

    column = table.arrow.column(time)
    moments = arrow_arrays.wholes(column.cast(pa.timestamp("us")), np.iinfo(np.int64).min).view("datetime64[us]")
    coded = [table.codes(name) for name in by]
    # Most sets fail among the first rows already.
    for rows in (_FIRST_ROWS, table.rows):
        entity = np.zeros(min(rows, table.rows), dtype=np.int64)
        for codes, labels in coded:
            entity = np.unique(entity * (len(labels) + 1) + codes[:rows], return_inverse=True)[1].astype(np.int64)
        moment = np.unique(moments[:rows], return_inverse=True)[1]
        if np.unique(entity * (entity.size + 1) + moment).size < entity.size:
            return None
    if np.isnat(moments).any():
        return None
    order = np.lexsort((moments, entity))
    same = entity[order][1:] == entity[order][:-1]
    if not same.any():
        return None
    return _Steps(order=order, days=moments[order].astype("datetime64[D]"), same=same)


def _start(values: Floats, steps: _Steps, *, named: bool) -> str | None:
    """Where a total starts again: a code of `_SPANS`, or "" for never; None where the values are no total."""
    ordered = values[steps.order]
    risen = np.diff(ordered)
    known = steps.same & np.isfinite(risen)
    falls = known & (risen < 0)
    fitting: dict[str, int] = {}
    for code, spans in _spans(steps.days):
        begun = np.diff(spans) != 0
        inside, starts = known & ~begun, known & begun
        if not starts.any() or not inside.any():
            continue
        rising = 1 - falls[inside].mean()
        falling = falls[starts].mean()
        enough = named or (inside.sum() >= _LEAST_STEPS and starts.sum() >= _LEAST_STARTS and _grows(ordered, inside))
        if rising >= (_RISING if named else 1.0) and falling >= (_FALLING if named else 1.0) and enough:
            fitting[code] = int(falls[inside].sum() + (~falls[starts]).sum())
    if fitting:
        return min(fitting, key=lambda code: fitting[code])
    return "" if named and known.any() and falls.sum() <= (1 - _RISING) * known.sum() else None


def _grows(ordered: Floats, inside: npt.NDArray[np.bool_]) -> bool:
    """Whether a column without a name for it grows as totals do: nearly every step is up, and they are not all alike,
    as those of a number of the month are."""
    risen = np.diff(ordered)[inside]
    return bool(np.mean(risen > 0) >= 0.9 and np.ptp(risen) > 0)


def _spans(days: npt.NDArray[np.datetime64]) -> Iterator[tuple[str, Whole]]:
    """The number of the span that each day lies in, for spans that totals run over; years by the month they begin."""
    month = days.astype("datetime64[M]").astype(np.int64)
    for first in range(1, 13):
        yield f"year from {first}", (month - (first - 1)) // 12
    yield "quarter", month // 3
    yield "month", month
    yield "week", (days.astype(np.int64) + 3) // 7


def _amounts(values: Floats, steps: _Steps, start: str) -> Floats:
    """What each row adds to the total; NaN where that cannot be told."""
    ordered = values[steps.order]
    before = np.concatenate([[np.nan], np.where(steps.same, ordered[:-1], np.nan)])
    if start:
        spans = dict(_spans(steps.days))[start]
        begun = np.concatenate([[True], (np.diff(spans) != 0) | ~steps.same])
        since = (steps.days - _first_day(spans, start)).astype(np.int64)
        early = since < _FIRST[start.partition(" ")[0]]
        before = np.where(begun, np.where(early, 0.0, np.nan), before)
    else:
        begun = np.concatenate([[True], ~steps.same])
        usual = float(np.nanmedian(np.diff(ordered)[steps.same]))
        # A total that begins with the table begins with its first amount; a meter has run before.
        before = np.where(begun & (np.abs(ordered) <= _BEGINS * abs(usual)), 0.0, before)
    amounts = np.empty_like(ordered)
    # Doubles of cents leave dust behind when one is taken from another.
    amounts[steps.order] = np.round(ordered - before, 9)
    return amounts


def _first_day(spans: Whole, start: str) -> npt.NDArray[np.datetime64]:
    """The first day of each span."""
    kind, _, first = start.partition(" from ")
    if kind == "week":
        return (7 * spans - 3).astype("datetime64[D]")
    months = {"year": 12 * spans + int(first or 1) - 1, "quarter": 3 * spans, "month": spans}[kind]
    return months.astype("datetime64[M]").astype("datetime64[D]")


def _name_of_amounts(name: str, taken: list[str]) -> str:
    """The name without what says that it is a total; with "difference" behind it where nothing is left of it."""
    parts = re.split(r"([\s_\-.]+)", _WORDS.sub("", re.sub(r"(?<=[a-z0-9])(?=[A-Z]{2,}\b)", "_", name)))
    kept = [part for part in parts if not set(words(part)) & RUNNING]
    short = re.sub(r"([\s_\-.])[\s_\-.]+", r"\1", "".join(kept)).strip(" _-.()")
    if set(words(name)) & _STANDS and set(words(name)) & _CONSUMED:
        return free_name("consumption", taken, " by meter")
    meter = bool(set(words(name)) & (_METERS | _STANDS))
    if short and not meter and folded(short) not in {folded(one) for one in taken} and short != name:
        return short
    return free_name(f"{name} difference", taken, " of rows")


def _asked(table: Table, column: Column, time: str, by: tuple[str, ...], start: str, guide: Guide) -> Table:
    text = phrased("Is it a total that grows from row to row?")
    answer = guide.ask("running totals", column.name, text, (TAKEN, LEFT))
    if answer == LEFT:
        return table
    made, amounts = taken_apart(table, column.name, time, by, start)
    # A name that says so, and values that agree, leave nothing to ask.
    sure = isinstance(answer, str) or column.nature == Nature.RUNNING or _is_read(column, table)
    problem = Problem(
        check="running totals",
        severity="repair" if sure else "question",
        column=column.name,
        rows=table.rows,
        message=phrased(_MESSAGES[start.partition(" ")[0]], total=repr(column.name), amounts=repr(amounts)),
        repair=phrased("taken apart into {amounts}", amounts=repr(amounts)),
        question=None if isinstance(answer, str) or sure else answer,
        step=Step(do=APART, column=column.name, facts={"time": time, "by": list(by), "start": start}),
    )
    return replace(made, problems=(*made.problems, problem))


#: What is said of a total, by what it starts again with.
_MESSAGES = {
    "": marked("{total} is a running total. {amounts} is what it grew by from row to row."),
    "year": marked(
        "{total} is a running total that starts again each year. {amounts} is what it grew by from row to row."
    ),
    "quarter": marked(
        "{total} is a running total that starts again each quarter. {amounts} is what it grew by from row to row."
    ),
    "month": marked(
        "{total} is a running total that starts again each month. {amounts} is what it grew by from row to row."
    ),
    "week": marked(
        "{total} is a running total that starts again each week. {amounts} is what it grew by from row to row."
    ),
}
