"""How long things took, where a table has two dates of each: from the order to the delivery, from admission to
discharge.

Dates of what happened are put in the order in which they come, and from each to the next is one span; from a date that
was planned it is one to what happened last. Where some rows have no second date yet, those that began last are left
out, as many days as nearly all take: of what began yesterday only the quickest are done. Where many never get one
(customers who have not left) no span is told.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from .. import Column, Role, Table
from . import glimpse
from .name_words import words

Floats = npt.NDArray[np.float64]

#: Rows that have both dates, spans of different lengths, and spans that are told.
_LEAST_ROWS, _LEAST_LENGTHS, _MOST = 30, 5, 3
#: The share of rows in which the later date must not come first.
_IN_ORDER = 0.9
#: The share of old rows that may lack the later date, and the quantile that says what is old.
_UNDONE, _OLD = 0.05, 0.99
#: A column that has the span already agrees so often, within so many days.
_HELD, _NEAR = 0.95, 1.01
#: Minutes of a day; days below which the usual span of moments is told in hours.
_DAY, _HOURS = 1_440.0, 2.0
#: Words of a date's name that say only that it is one, and of a date that was planned.
_EMPTY = frozenset("at on date time day dt datum fecha ts timestamp tag jour dia uhrzeit heure hora moment".split())
_PLANS = frozenset(
    "due planned plan requested promised expected scheduled target estimated eta deadline fallig geplant soll "
    "zugesagt wunsch prevista previsto planificada prevu prevue echeance".split()
)


@dataclass(frozen=True, slots=True, kw_only=True)
class TimeSpan:
    """From a column of dates to a later one, in `hours` where moments are known and it takes less than two days; rows
    that began after the day `settled` are left out (None where all are done)."""

    first: str
    last: str
    hours: bool = False
    settled: np.datetime64 | None = None

    @property
    def spoken(self) -> tuple[str, str]:
        """What the dates are of: created, resolved."""
        return _plain(self.first), _plain(self.last)


def spans_of_time(table: Table) -> list[TimeSpan]:
    """The spans between the dates of a table that no column of numbers says already."""
    dated = [column for column in table.with_role(Role.TIME) if column.distinct > 1]
    if len(dated) < 2:
        return []
    days = {column.name: glimpse.minutes(table, column.name) / _DAY for column in dated}
    plans = [column for column in dated if _PLANS & set(words(column.name))]
    happened = [column for column in dated if column not in plans and np.isfinite(days[column.name]).any()]
    if not happened:
        return []
    happened.sort(key=lambda column: (float(np.nanmedian(days[column.name])), table.names.index(column.name)))
    end = max(float(np.nanmax(days[column.name])) for column in happened)
    held = [glimpse.numbers(table, column.name) for column in table.with_role(Role.MEASURE) if column.type == "number"]
    found: list[TimeSpan] = []
    # How late a thing came says more than how long it took.
    for one, other in (*((plan, happened[-1]) for plan in plans), *pairwise(happened)):
        if other.missing and not table.store.abilities.in_order:
            # Of a long table in its file only the first rows are seen, and not how many of the last are done.
            continue
        took = days[other.name] - days[one.name]
        span = _span(one, other, days[one.name], took, end)
        if span is not None and not any(_says(numbers, took) for numbers in held):
            found.append(span)
            # Where a plan gave everyone as many days, how long it took says the same once more.
            held.append(took)
    return found[:_MOST]


def _span(one: Column, other: Column, first: Floats, took: Floats, end: float) -> TimeSpan | None:
    """A span, in days, if it is one: known often enough, and not of one length; what was planned may come early."""
    begun, known = np.isfinite(first), took[np.isfinite(took)]
    if known.size < _LEAST_ROWS:
        return None
    hours = one.type == other.type == "datetime" and float(np.median(np.abs(known))) < _HOURS
    early = not _PLANS & set(words(one.name)) and np.mean(known >= 0) < _IN_ORDER
    if early or np.unique(np.round(known * (24 if hours else 1))).size < _LEAST_LENGTHS:
        return None
    settled = None
    if known.size < begun.sum():
        last = np.floor(end - np.quantile(known, _OLD))
        old = begun & (first <= last)
        if old.sum() < _LEAST_ROWS or np.mean(~np.isfinite(took[old])) > _UNDONE:
            return None
        settled = np.datetime64(int(last), "D")
    return TimeSpan(first=one.name, last=other.name, hours=hours, settled=settled)


def _says(numbers: Floats, took: Floats) -> bool:
    """Whether numbers are a span already, in days or in another unit of time, whatever they are counted from."""
    known = np.isfinite(took) & np.isfinite(numbers)
    if known.sum() < _LEAST_ROWS:
        return False
    for times in (1.0, 24.0, _DAY):
        off = numbers[known] / times - took[known]
        if np.mean(np.abs(off - np.median(off)) <= _NEAR) >= _HELD:
            return True
    return False


def _plain(name: str) -> str:
    """A date's name without what says only that it is a date: created_at is "created"."""
    said = words(name)
    kept = [word for word in said if word not in _EMPTY]
    return " ".join(kept or said)
