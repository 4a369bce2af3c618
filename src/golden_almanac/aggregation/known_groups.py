"""Groups of rows left in their file, or on a server, that follow from groupings already made.

Each grouping of all rows is kept with the table. What is asked by fewer columns, by longer periods, or of a slice or
span that its cells tell apart is put together from it. The days of every column by itself are asked in one statement,
since weeks, months and spans of any length can be put together from days.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from ..tables import Grain, Role, Table, Timeline
from ..tables.timeline import timeline_of
from ..tables.yes_no import flags
from .measures import Part
from .rollup import Base
from .row_codes import PERIOD
from .row_filter import Only

#: Periods that months nest in.
NESTED = (Grain.MONTH, Grain.QUARTER, Grain.YEAR)
#: Days of a timeline, labels of a column and cells of both up to which the days of each label are asked.
_MOST_DAYS, _MOST_LABELS, _MOST_CELLS = 20_000, 1_000, 400_000
_KEY = ("known groups",)


@dataclass(frozen=True, slots=True, eq=False)
class _Known:
    """A grouping of all rows by its base's keys, on a timeline where the period is one of them."""

    line: Timeline | None
    base: Base

    def told(self, table: Table, key: str) -> npt.NDArray[Any] | None:
        """The code of a key for each cell: its own, or that of the column which one of its own lies within."""
        if key in self.base.codes:
            return self.base.codes[key]
        for child, codes in self.base.codes.items():
            above = table._cache.get(("parent codes", child, key))
            if above is not None and bool((above >= 0).all()):
                return np.asarray(above[codes])
        return None


def remember(table: Table, line: Timeline | None, base: Base) -> None:
    """Keep a grouping of all rows."""
    _known(table).append(_Known(line if PERIOD in base.codes else None, base))


def _known(table: Table) -> list[_Known]:
    made: list[_Known] = table._cache.setdefault(_KEY, [])
    return made


def from_known(
    table: Table, line: Timeline | None, keys: Sequence[str], parts: Sequence[Part], only: Only
) -> Base | None:
    """The cells by some keys where a grouping that is known tells them; None where none does."""
    found = [known for known in _known(table) if all(part in known.base.parts for part in parts)]
    for known in sorted(found, key=lambda one: one.base.count):
        made = _derived(known, table, line, keys, parts, only)
        if made is not None:
            return made
    return None


def _derived(
    known: _Known, table: Table, line: Timeline | None, keys: Sequence[str], parts: Sequence[Part], only: Only
) -> Base | None:
    if any(known.base.parts[part].distinct is not None for part in parts):
        return None
    codes: dict[str, Any] = {}
    for key in (*keys, *(column for column, _ in only.conditions)):
        if key == PERIOD:
            places = None if line is None or known.line is None else places_of(known.line, line)
            own = None if places is None else places[known.base.codes[PERIOD]]
        else:
            own = known.told(table, key)
        if own is None:
            return None
        codes[key] = own
    which = np.ones(known.base.count, dtype=bool)
    for column, label in only.conditions:
        labels = table.labels(column)
        which &= codes[column] == (labels.index(label) if label in labels else -1)
    if only.span is not None:
        ends = None if known.line is None else inside(known.line, *only.span)
        if ends is None:
            return None
        which &= (known.base.codes[PERIOD] >= ends[0]) & (known.base.codes[PERIOD] < ends[1])
    sizes = {key: line.count + 1 if key == PERIOD and line is not None else len(table.labels(key)) for key in keys}
    kept = known.base if which.all() else known.base.kept(which)
    told = {key: codes[key] if which.all() else codes[key][which] for key in keys}
    return replace(kept, codes=told, sizes=sizes, parts={part: kept.parts[part] for part in parts})


def places_of(short: Timeline, line: Timeline) -> npt.NDArray[np.int64] | None:
    """The place on a timeline of each period of another that nests in it; None where it does not."""
    if short.column != line.column or short.calendar != line.calendar:
        return None
    if short.grain is line.grain and short.first == line.first and short.count == line.count:
        return np.arange(line.count + 1)
    both = line.grain in NESTED and short.grain in NESTED
    nests = short.grain is Grain.DAY or (both and NESTED.index(line.grain) >= NESTED.index(short.grain))
    if short.grain is not line.grain and not nests:
        return None
    starts = np.array([short.period(place).start for place in range(short.count)])
    places = np.append(line.places(starts), line.count)
    return places if places[:-1].min() >= 0 and places[:-1].max() < line.count else None


def inside(line: Timeline, first: np.datetime64, last: np.datetime64) -> tuple[int, int] | None:
    """The places (first, past the last) of the periods that a span of days is made of; None where it cuts one."""
    first, last = max(first, line.first_day), min(last, line.last_day)
    if first > last:
        return 0, 0
    low, high = (int(place) for place in line.places(np.array([first, last])))
    begins = max(line.calendar.start(line.grain, line.first + low), line.first_day)
    ends = min(line.calendar.end(line.grain, line.first + high), line.last_day)
    return (low, high + 1) if begins == first and ends == last else None


def days_of(table: Table, line: Timeline, keys: Sequence[str], only: Only) -> tuple[Timeline, list[str]] | None:
    """The days, and the columns whose labels are asked day by day together, where that tells what is asked: at most one
    column, by the period or over a span; None where it does not."""
    named = {key for key in keys if key != PERIOD} | {column for column, _ in only.conditions}
    if len(named) > 1 or (PERIOD not in keys and only.span is None):
        return None
    short = timeline_of(line.column, table.day_counts(line.column), Grain.DAY, line.calendar)
    if short is None or short.count > _MOST_DAYS:
        return None
    groups = (*table.with_role(Role.DIMENSION), *flags(table))
    told = [column.name for column in groups if _is_short(table, column.name, short)]
    return (short, told) if named <= set(told) else None


def _is_short(table: Table, column: str, days: Timeline) -> bool:
    labels = len(table.labels(column)) if table.column(column).distinct <= _MOST_LABELS else _MOST_LABELS + 1
    return labels <= _MOST_LABELS and labels * days.count <= _MOST_CELLS
