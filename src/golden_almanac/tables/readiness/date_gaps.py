"""What the dates tell of the table: stray dates, dates to come, gaps, an unfinished edge."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from ...support.phrasing import marked, phrased, phrased_count, plural
from .. import Role, Table
from ..calendar import Grain
from ..problems import Problem
from ..reading_guide import Guide
from ..timeline import timeline_of
from .repairs import take_out

#: Dates parted from the rest by more than this many days, and so many usual gaps, and no more than this share of
#: the rows, are slips of the pen (2052 for 2025).
_FAR_DAYS, _FAR_GAPS, _FAR_SHARE = 366, 20.0, 0.01
#: A table whose dates fill fewer than this share of the days (weeks, months) between them has no rhythm to miss.
_RHYTHM = 0.8
#: Rows that fall where they like leave some periods empty; gaps are told where chance would leave fewer than this.
_CHANCE = 0.1
#: Variance of the rows per period, as a share of their mean, below which they come evenly (1 if they fell by chance).
_EVEN = 0.5
_LEAST_PERIODS = 8


def ready(table: Table, guide: Guide) -> Table:
    """Tell what is odd in each column of dates; take stray rows out when told to."""
    for column in table.with_role(Role.TIME):
        table = _stray(table, column.name, guide)
        table = replace(table, problems=(*table.problems, *_to_come(table, column.name)))
    timed = sorted(table.with_role(Role.TIME), key=lambda column: column.missing)
    if timed and table.rows > 2:
        table = replace(table, problems=(*table.problems, *_gaps(table, timed[0].name), *_edge(table, timed[0].name)))
    return table


def _stray(table: Table, name: str, guide: Guide) -> Table:
    distinct, rows = table.day_counts(name)
    known = int(rows.sum())
    if known < 20:
        return table
    gaps = np.diff(distinct).astype(np.int64)
    if gaps.size == 0:
        return table
    wide = np.flatnonzero((gaps > _FAR_DAYS) & (gaps > _FAR_GAPS * np.median(gaps)))
    if wide.size == 0:
        return table
    edges = [int(w) + 1 for w in wide]
    parts = np.split(distinct, edges)
    counts = [int(part.sum()) for part in np.split(rows, edges)]
    main = int(np.argmax(counts))
    few = [part for place, part in enumerate(parts) if place != main and counts[place] <= _FAR_SHARE * known + 1]
    if len(few) < len(parts) - 1:
        return table
    strays = np.concatenate(few)
    count = int(rows[np.isin(distinct, strays)].sum())
    answer = guide.ask("stray dates", name, phrased("Are these dates slips of the pen?"), ("take out", "keep"))
    problem = Problem(
        check="stray dates",
        severity="note" if isinstance(answer, str) else "question",
        column=name,
        rows=count,
        examples=_examples(table, name, strays),
        message=phrased_count(
            count,
            "{n} date of {column} lies years from all others, which run from {first} to {last}.",
            "{n} dates of {column} lie years from all others, which run from {first} to {last}.",
            column=repr(name),
            first=str(parts[main][0]),
            last=str(parts[main][-1]),
        ),
        question=None if isinstance(answer, str) else answer,
    )
    if answer == "take out":
        message = phrased_count(
            count,
            "{n} date of {column} lies years from all others; its row was taken out, as answered.",
            "{n} dates of {column} lie years from all others; their rows were taken out, as answered.",
            column=repr(name),
        )
        far = np.flatnonzero(np.isin(table.days(name), strays))
        table, problem = take_out(table, far, "a stray date", problem, message)
    return replace(table, problems=(*table.problems, problem))


def _examples(table: Table, name: str, wanted: Any) -> tuple[tuple[int, str], ...]:
    """The first rows with these days; none of a table left in its file, where the order of rows is not looked at."""
    if not table.store.abilities.in_order:
        return ()
    days = table.days(name)
    return tuple(table.example(int(place), str(days[place])) for place in np.flatnonzero(np.isin(days, wanted))[:3])


def _to_come(table: Table, name: str) -> list[Problem]:
    """Dates after the day of the report, when that is known."""
    today = table.calendar.as_of
    if today is None:
        return []
    distinct, rows = table.day_counts(name)
    ahead = distinct[distinct > today]
    if ahead.size == 0:
        return []
    count = int(rows[distinct > today].sum())
    return [
        Problem(
            check="dates to come",
            severity="note",
            column=name,
            rows=count,
            examples=_examples(table, name, ahead),
            message=phrased_count(
                count,
                "{n} date of {column} lies after {today}, the latest {last}.",
                "{n} dates of {column} lie after {today}, the latest {last}.",
                column=repr(name),
                today=str(today),
                last=str(ahead.max()),
            ),
        )
    ]


def _gaps(table: Table, name: str) -> list[Problem]:
    """Days, weeks or months without a row in a table that has rows in most of them; holidays are no gap."""
    distinct, rows = table.day_counts(name)
    if distinct.size < _LEAST_PERIODS:
        return []
    free = table.calendar.holiday_names(distinct[0], distinct[-1])
    for grain in (Grain.DAY, Grain.WEEK, Grain.MONTH):
        numbers = np.unique(table.calendar.number(grain, distinct))
        every = np.arange(numbers[0], numbers[-1] + 1)
        weekly = grain is Grain.DAY
        # A weekday on which there is never a row is a day off, not a gap.
        idle = [k for k in range(7) if weekly and not np.any((numbers + 3) % 7 == k)]
        wanted = every[~np.isin((every + 3) % 7, idle)] if weekly else every
        lacking = np.setdiff1d(wanted, numbers)
        by_chance = _empty_by_chance(table.calendar.number(grain, distinct), rows, wanted)
        if numbers.size < _RHYTHM * wanted.size or numbers.size < _LEAST_PERIODS or by_chance > _CHANCE:
            continue
        closed = [number for number in lacking if weekly and table.calendar.start(grain, int(number)) in free]
        lacking = np.setdiff1d(lacking, np.array(closed, dtype=lacking.dtype))
        if lacking.size == 0 and not closed:
            return []
        return [_gap_problem(table, name, grain, lacking, len(closed), (distinct[0], distinct[-1]))]
    return []


def _empty_by_chance(numbers: Any, rows: Any, wanted: Any) -> float:
    """How many periods would hold no row if rows fell where they like (Poisson); none where they come evenly."""
    inside = np.isin(numbers, wanted)
    counts = np.bincount(np.searchsorted(wanted, numbers[inside]), weights=rows[inside], minlength=wanted.size)
    mean = float(counts.mean())
    return 0.0 if float(counts.var()) < _EVEN * mean else float(wanted.size * np.exp(-mean))


#: What is said of periods without rows, by their grain: of one, of several.
_EMPTY = {
    Grain.DAY: plural(
        "{n} day between {start} and {end} holds no row ({first})",
        "{n} days between {start} and {end} hold no row ({first})",
    ),
    Grain.WEEK: plural(
        "{n} week between {start} and {end} holds no row ({first})",
        "{n} weeks between {start} and {end} hold no row ({first})",
    ),
    Grain.MONTH: plural(
        "{n} month between {start} and {end} holds no row ({first})",
        "{n} months between {start} and {end} hold no row ({first})",
    ),
}
#: A last period that is not over, by its grain.
_UNFINISHED = {
    Grain.DAY: marked(
        "The last day is unfinished: the dates end on {last}. It will be compared with the same days, or left out."
    ),
    Grain.WEEK: marked(
        "The last week is unfinished: the dates end on {last}. It will be compared with the same days, or left out."
    ),
    Grain.MONTH: marked(
        "The last month is unfinished: the dates end on {last}. It will be compared with the same days, or left out."
    ),
    Grain.QUARTER: marked(
        "The last quarter is unfinished: the dates end on {last}. It will be compared with the same days, or left out."
    ),
    Grain.YEAR: marked(
        "The last year is unfinished: the dates end on {last}. It will be compared with the same days, or left out."
    ),
}


def _gap_problem(
    table: Table, name: str, grain: Grain, lacking: Any, closed: int, ends: tuple[np.datetime64, np.datetime64]
) -> Problem:
    count = int(lacking.size)
    holidays = phrased_count(closed, "{n} public holiday", "{n} public holidays")
    if count:
        first = ", ".join(str(table.calendar.start(grain, int(number))) for number in lacking[:3])
        one, many = _EMPTY[grain]
        message = phrased_count(
            count, one, many, start=str(ends[0]), end=str(ends[1]), first=first + (", …" if count > 3 else "")
        )
        message = (
            phrased("{text}, beside {holidays}.", text=message, holidays=holidays)
            if closed
            else phrased("{text}.", text=message)
        )
    else:
        message = phrased("The only days without rows are {holidays}.", holidays=holidays)
    return Problem(check="gaps in the dates", severity="note", column=name, rows=count, message=message)


def _edge(table: Table, name: str) -> list[Problem]:
    """A last period that is not over."""
    line = timeline_of(name, table.day_counts(name), None, table.calendar)
    if line is None or not line.partial_last or line.count < 3:
        return []
    message = phrased(_UNFINISHED[line.grain], last=str(line.last_day))
    if line.thin_last is not None:
        rows, least, looked_at = line.thin_last
        message = phrased(
            "The last period, {last}, has {rows} rows, each of the {n} before it at least {least}: it looks unfinished "
            "and will be left out. If it is not, say when the report is made (--as-of).",
            last=str(line.last_day),
            rows=str(rows),
            n=str(looked_at),
            least=str(least),
        )
    return [Problem(check="unfinished period", severity="note", column=name, rows=0, message=message)]
