"""A table with a meaning for each of its columns, before any statistics."""

from __future__ import annotations

import re
from dataclasses import replace

import numpy as np

from ...support.english_nouns import singular
from ...support.phrasing import phrased
from .. import Column, Role, Table
from . import glimpse
from .date_parts import known_parts
from .derived_columns import derived
from .level_columns import checked_levels
from .name_words import AVERAGES, PHYSICAL, PRICES, QUOTED, of_individual, tells, words
from .natures import Nature
from .per_head import per_head
from .row_events import of_events
from .scenarios import beside_others
from .weights import weighed

#: Numbers of rows much alike (their standard deviation over their mean) are readings of something, not amounts of it:
#: their sum would only say how many rows there are.
_ALIKE = 0.25
#: The share of numbers that must lie on each side of nought for them to lie on both.
_BELOW = 0.2
#: From one row of a series to the next, readings move by less than this part of their size, in so many rows at least:
#: the weeks of the air's carbon dioxide, the days of a rate of exchange. Amounts of a day or week hardly ever do.
_CREEPS, _LEAST_ROWS = 0.005, 40
#: The share of a price's values that are no whole numbers.
_FRACTIONS = 0.5
#: The logarithm of the chance that a flag never has both answers on a day, from which on it is one of the day; and the
#: fewest days that tell.
_NO_CHANCE, _FEWEST_DAYS = -9.0, 3
#: Steps of a code or a scale at most, and rows for each of them.
_MOST_STEPS, _SCALE_ROWS = 7, 20
#: What an index is on the day that it begins, and the series that must agree in it.
_BASE, _LEAST_SERIES = 100.0, 3
#: Words that together say what somebody has a year or a month, be it what it may: it is no amount that is paid there.
_NOTHING_SAID = frozenset("value values wert werte valor valores valeur valeurs amount number".split())
_INCOMES = frozenset("income incomes salary earnings wage pay einkommen gehalt ingreso ingresos revenu salaire".split())
_OF_PEOPLE = frozenset(
    "annual yearly monthly weekly household family personal applicant coapplicant parental jahrlich monatlich haushalt "
    "haushaltseinkommen anual mensual familiar annuel mensuel menage".split()
)
#: What is told of people, and how much of it makes a table of them.
_PERSONAL = frozenset(
    "age sex gender female male married marital education educ edu race ethnicity hispanic citizen occupation children "
    "kids dependents employment".split()
)
_LEAST_PERSONAL = 2
_EARNED = frozenset("income earnings wage einkommen ingreso revenu".split())
_LATITUDES = frozenset("lat latitude breitengrad latitud".split())
_LONGITUDES = frozenset("lon lng long longitude langengrad longitud".split())


def understood(table: Table) -> Table:
    """The table with parts of dates, levels, readings and what stands beside other columns known; it says the same of
    the same rows, whatever door they came by."""
    known = derived(_of_days(_codes(_places(known_parts(table)))))
    return weighed(beside_others(per_head(_readings(_unquoted(checked_levels(known))))))


def _places(table: Table) -> Table:
    """Latitude beside longitude, which say where a row is and not how much of anything there is."""
    found: dict[str, Column] = {}
    for names, reach in ((_LATITUDES, 90.0), (_LONGITUDES, 180.0)):
        for column in table.with_role(Role.MEASURE):
            low, high = table.extent(column.name) if column.type == "number" else (None, None)
            if (
                low is not None
                and high is not None
                and set(words(column.name)[-1:]) & names
                and -reach <= low <= high <= reach
            ):
                because = phrased("where a row is, not how much of anything")
                found[column.name] = replace(
                    column, role=Role.IGNORED, adds_up=None, unit=None, nature="", because=because
                )
    both = all(any(set(words(name)) & names for name in found) for names in (_LATITUDES, _LONGITUDES))
    return table.with_described(found) if both else table


def _codes(table: Table) -> Table:
    """Whole numbers from one to a few, of which no name says how many of what they are: codes (precinct 3, size class
    2) where one column has them, answers on a scale where several have the same."""
    found: dict[tuple[float, float], list[Column]] = {}
    for column in table.with_role(Role.MEASURE):
        if column.nature != Nature.FLOW or column.because != phrased("numbers that nothing marks as averages"):
            continue
        said = words(column.name)
        if column.type != "number" or not 3 <= column.distinct <= _MOST_STEPS or said[-1:] != [singular(said[-1])]:
            continue
        low, high = table.extent(column.name)
        if low == 1 and high == column.distinct and table.rows - column.missing >= _SCALE_ROWS * column.distinct:
            found.setdefault((low, high), []).append(column)
    made = {}
    for ends, columns in found.items():
        scale = len(columns) > 1
        nature = Nature.SCORE if scale else Nature.CODE
        because = phrased("whole numbers from {low} to {high}", low=f"{ends[0]:g}", high=f"{ends[1]:g}")
        for column in columns:
            role, adds_up = (Role.MEASURE, False) if scale else (Role.DIMENSION, None)
            made[column.name] = replace(column, role=role, adds_up=adds_up, nature=nature, because=because)
    return table.with_described(made)


def _of_days(table: Table) -> Table:
    """Flags that are the same on all rows of a day: what kind of day it was, which no row has a share in."""
    dated = sorted(table.with_role(Role.TIME), key=lambda column: column.missing)
    flags = [
        column for column in table.with_role(Role.MEASURE) if column.distinct == 2 and column.nature == Nature.SHARE
    ]
    if not dated or not flags:
        return table
    days = glimpse.days(table, dated[0].name)
    known = ~np.isnat(days)
    day = np.unique(days[known], return_inverse=True)[1]
    found = {}
    for column in flags:
        # Flags are yes or no, or numbers of which two are there.
        code = np.unique(glimpse.codes(table, column.name)[known], return_inverse=True)[1]
        if code.max(initial=0) != 1 or day.size == 0:
            continue
        rows, yes = np.bincount(day), np.bincount(day, weights=code)
        share = float(code.mean())
        alike = share**rows + (1 - share) ** rows
        chance = float(np.sum(np.log(np.maximum(alike, 1e-300))))
        if rows.size >= _FEWEST_DAYS and chance <= _NO_CHANCE and not np.any((yes > 0) & (yes < rows)):
            because = phrased("the same on all rows of a day of {column}", column=repr(dated[0].name))
            found[column.name] = replace(column, role=Role.PART, adds_up=None, unit=None, nature="", because=because)
    return table.with_described(found)


def _unquoted(table: Table) -> Table:
    """A column called "open" is a price only among others of its kind, or with fractions: open accounts have none."""
    quoted = [column for column in table.columns if column.nature == Nature.PRICE and set(words(column.name)) <= QUOTED]
    if len(quoted) != 1:
        return table
    values = glimpse.numbers(table, quoted[0].name)
    known = values[np.isfinite(values)]
    if known.size and float(np.mean(known != np.round(known))) > _FRACTIONS:
        return table
    lone = replace(
        quoted[0], nature=Nature.FLOW, adds_up=True, because=phrased("numbers that nothing marks as averages")
    )
    return table.with_described({lone.name: lone})


def _readings(table: Table) -> Table:
    """Numbers that no name tells of, as readings where a row is an event or a person and they are much alike, or where
    a row is a moment and they hardly move to the next."""
    unsure = [
        column
        for column in table.with_role(Role.MEASURE)
        if column.nature == Nature.FLOW
        and (
            column.because == phrased("numbers that nothing marks as averages")
            or set(words(column.name)) <= _NOTHING_SAID
            or _income_of_somebody(column, table)
        )
    ]
    if not unsure:
        return table
    dated = sorted(table.with_role(Role.TIME), key=lambda column: column.missing)
    events = not dated or of_events(table, dated[0].name)
    named = _of_the_table(table)
    found = {}
    for column in unsure:
        values = glimpse.numbers(table, column.name)
        known = values[np.isfinite(values)]
        if named is not None:
            because = phrased("the table's name says {word}", word=repr(named))
        elif events and known.size >= 20 and _to_both_sides(column, known):
            because = phrased("it is above nought and below it, as readings are")
        elif events and known.size >= 20 and known.min() > 0 and np.std(known) <= _ALIKE * np.mean(known):
            because = phrased("its values are much alike, as readings are")
        elif dated and _begins_at_a_hundred(table, dated[0].name, values):
            because = phrased("each of its series is 100 on the same day, as an index is")
        elif (events or _of_people(table)) and _income_of_somebody(column, table):
            because = phrased("what a person or a household has, and rows are those")
        elif dated and not events and _creeps(table, dated[0].name, values):
            because = phrased("its values hardly move from one row to the next, as readings do")
        else:
            continue
        found[column.name] = replace(column, nature=Nature.READING, adds_up=False, because=because)
    return table.with_described(found)


def _to_both_sides(column: Column, known: np.ndarray) -> bool:
    """Whether numbers that nothing names lie on both sides of nought and are no whole ones: how far off a thing was. An
    amount says so, and so does a plain value, which may be booked to both sides."""
    below = float(np.mean(known < 0))
    unnamed = column.because == phrased("numbers that nothing marks as averages")
    sides = _BELOW <= below <= 1 - _BELOW and bool(np.any(known != np.floor(known)))
    return sides and unnamed and not set(words(column.name)) <= _NOTHING_SAID


def _of_the_table(table: Table) -> str | None:
    """The word of a table's name that says that its numbers are prices or readings: commodity prices, temperatures."""
    stem = re.sub(r"\.\w+(\.\w+)?$", "", table.name.rpartition("/")[2])
    said = [singular(word) for word in words(stem)]
    return tells(said[-1:], PRICES) or tells(said[-1:], PHYSICAL) or tells(said[-1:], AVERAGES)


def _creeps(table: Table, time: str, values: np.ndarray) -> bool:
    """Whether a series, or that of each label, moves by next to nothing from one moment to the next."""
    days = glimpse.days(table, time)
    known = np.isfinite(values) & ~np.isnat(days)
    if known.sum() < _LEAST_ROWS or values[known].min() <= 0:
        return False
    labels = np.zeros(values.size, dtype=np.int64)
    for column in table.with_role(Role.DIMENSION):
        codes = glimpse.codes(table, column.name)
        labels = np.unique(labels * (int(codes.max(initial=0)) + 1) + codes, return_inverse=True)[1]
    order = np.lexsort((days, labels))
    order = order[known[order]]
    beside = labels[order][1:] == labels[order][:-1]
    moves = np.abs(np.diff(values[order]) / values[order][:-1])[beside]
    return moves.size >= _LEAST_ROWS and 0 < float(np.median(moves)) <= _CREEPS


def _income_of_somebody(column: Column, table: Table) -> bool:
    said = set(words(column.name))
    if not said & _INCOMES:
        return False
    # Beside an age and a sex, or the like, an income is that of whom the row is about.
    told = [_PERSONAL & set(words(other.name)[-1:]) for other in table.columns]
    return bool(_OF_PEOPLE & said) or (bool(_EARNED & said) and len(set().union(*told)) >= _LEAST_PERSONAL)


def _of_people(table: Table) -> bool:
    """Whether rows are people: a column numbers them, one by one."""
    return any(column.role is Role.KEY and of_individual(words(column.name)) for column in table.columns)


def _begins_at_a_hundred(table: Table, time: str, values: np.ndarray) -> bool:
    """Whether all series are 100 on one date, and on no other: the base of an index."""
    days = glimpse.days(table, time)
    known = np.isfinite(values) & ~np.isnat(days)
    if known.sum() < _LEAST_ROWS:
        return False
    day = np.unique(days[known], return_inverse=True)[1]
    rows = np.bincount(day)
    hundreds = np.bincount(day, weights=values[known] == _BASE)
    return bool(np.count_nonzero((rows >= _LEAST_SERIES) & (hundreds == rows)) == 1)
