"""A table with a meaning for each of its columns, before any statistics."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ...support.phrasing import phrased
from .. import Role, Table
from . import glimpse
from .date_parts import known_parts
from .level_columns import checked_levels
from .name_words import QUOTED, words
from .natures import Nature
from .scenarios import beside_others
from .weights import weighed

#: Numbers of rows much alike (their standard deviation over their mean) are readings of something, not amounts of it:
#: their sum would only say how many rows there are.
_ALIKE = 0.25
#: From one row of a series to the next, readings move by less than this part of their size, in so many rows at least:
#: the weeks of the air's carbon dioxide, the days of a rate of exchange. Amounts of a day or week hardly ever do.
_CREEPS, _LEAST_ROWS = 0.005, 40
#: The share of a price's values that are no whole numbers.
_FRACTIONS = 0.5
#: Rows a date from which a table is one of events, not of periods.
_EVENTS = 3
#: The share of dates with one number of rows from which a table is a panel.
_PANEL = 0.8


def understood(table: Table) -> Table:
    """The table with parts of dates, levels, readings and what stands beside other columns known; it says the same of
    the same rows, whatever door they came by."""
    return weighed(beside_others(_readings(_unquoted(checked_levels(known_parts(table))))))


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
    a row is a moment and they hardly move to the next; and logarithms of other columns, which no one adds up."""
    unsure = [
        column
        for column in table.with_role(Role.MEASURE)
        if column.nature == Nature.FLOW and column.because == phrased("numbers that nothing marks as averages")
    ]
    if not unsure:
        return table
    dated = sorted(table.with_role(Role.TIME), key=lambda column: column.missing)
    events = not dated or _of_events(table, dated[0].name)
    found = {}
    for column in unsure:
        values = glimpse.numbers(table, column.name)
        known = values[np.isfinite(values)]
        other = _logarithm_of(column.name, values, table)
        if other is not None:
            because = phrased("it is the logarithm of {column}", column=repr(other))
        elif events and known.size >= 20 and known.min() > 0 and np.std(known) <= _ALIKE * np.mean(known):
            because = phrased("its values are much alike, as readings are")
        elif dated and not events and _creeps(table, dated[0].name, values):
            because = phrased("its values hardly move from one row to the next, as readings do")
        else:
            continue
        found[column.name] = replace(column, nature=Nature.READING, adds_up=False, because=because)
    return table.with_described(found)


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


def _of_events(table: Table, time: str) -> bool:
    """Whether rows are events, several a day and never quite as many, rather than the figures of periods."""
    if not table.store.abilities.in_order:
        # So many rows are events, and to count them by day would be a pass over the file.
        return True
    _, counts = table.day_counts(time)
    alike = np.mean(counts == np.median(counts)) if counts.size else 1.0
    return bool(counts.size and np.mean(counts) >= _EVENTS and alike < _PANEL)


def _logarithm_of(name: str, values: np.ndarray, table: Table) -> str | None:
    """The column that this one is the natural logarithm of: its name without the l, ln or log before it."""
    folded = name.casefold()
    for column in table.columns:
        other = column.name.casefold()
        if column.type != "number" or folded not in (
            f"l{other}",
            f"ln{other}",
            f"log{other}",
            f"ln_{other}",
            f"log_{other}",
        ):
            continue
        raw = glimpse.numbers(table, column.name)
        both = np.isfinite(values) & (raw > 0)
        if both.sum() >= 5 and np.allclose(np.log(raw[both]), values[both], atol=1e-3):
            return column.name
    return None
