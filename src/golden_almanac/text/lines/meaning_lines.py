"""What a table means, in a paragraph: what a row is, of which span, what is added up and what is not, and why."""

from __future__ import annotations

from collections.abc import Sequence

from ...support.shell import option
from ...tables import Column, Role, Table, Timeline
from ...tables.meaning.mixed_units import mixed_units_of
from ...tables.meaning.natures import ADDED, MEANINGS, Nature
from ...tables.meaning.scenarios import scenarios_of
from ...tables.meaning.several_things import several_things_of
from .. import dates, names, numbers
from ..caveats import sentence as caveat
from ..core_sentences import retold
from ..languages import count, say

#: Columns named in one sentence; more are counted.
_MOST = 6


def meaning(table: Table, key: Sequence[str] | None, line: Timeline | None) -> list[str]:
    """The sentences of the paragraph."""
    measures = [column for column in table.with_role(Role.MEASURE) if not column.beside]
    told = [_row(key), *_of_time(table, line), *_numbering(table), *_of_measures(measures), *_others(table)]
    if not measures:
        told.append(say("No column holds numbers to reckon with, so rows are counted."))
    return told


def _of_time(table: Table, line: Timeline | None) -> list[str]:
    """From when to when the table runs, and by what else it could be told."""
    if line is None:
        return [say("No column holds dates, so nothing can be said about change over time.")]
    told = [
        say(
            "The table runs from {first} to {last} ({column}), told by {grain}.",
            first=dates.day(line.first_day),
            last=dates.day(line.last_day),
            column=repr(line.column),
            grain=names.grain_noun(line.grain.value),
        )
    ]
    others = [column.name for column in table.with_role(Role.TIME) if column.name != line.column]
    if others:
        told.append(
            say(
                "Dates stand in {columns}, too; {option} tells the table by them.",
                columns=names.listed([repr(name) for name in others[:_MOST]]),
                option=option("-t", others[0]),
            )
        )
    return told


def _numbering(table: Table) -> list[str]:
    """Keys of which a value stands on several rows."""
    return [
        say(
            "{column} numbers what several rows belong to, {n} on average.",
            column=repr(column.name),
            n=numbers.plain(table.rows / column.distinct, 2),
        )
        for column in table.with_role(Role.KEY)
        if 2 * column.distinct <= table.rows and column.distinct > 1
    ][:_MOST]


def _of_measures(measures: Sequence[Column]) -> list[str]:
    """What is added up, what is averaged and by what it is weighed, what neither."""
    natures = {column.name: _nature(column) for column in measures}
    added = [column for column in measures if natures[column.name] in ADDED - {Nature.STOCK} and column.adds_up]
    levels = [column for column in measures if natures[column.name] is Nature.STOCK and column.adds_up]
    running = [column for column in measures if natures[column.name] is Nature.RUNNING]
    averaged = [column for column in measures if column not in (*added, *levels, *running)]
    told = []
    if added:
        told.append(say("Added up: {columns}.", columns=_listed(added)))
    if levels:
        told.append(
            say("Levels, read at the end of a period and never added up over time: {columns}.", columns=_listed(levels))
        )
    if averaged:
        told.append(say("Averaged: {columns}.", columns=_listed(averaged)))
    told += [
        say("{column} is {above} over {below}, and is weighed so.", column=repr(column.name), **_parts(column.weighed))
        for column in averaged
        if column.weighed is not None
    ][:_MOST]
    told += [_weighing(column) for column in averaged if column.weights][:_MOST]
    if running:
        told.append(say("Running totals, left alone: {columns}.", columns=_listed(running)))
    return told


def _weighing(column: Column) -> str:
    """By what an average is weighed, or could be."""
    if len(column.weights) == 1:
        return say("{column} is weighed by {below}.", column=repr(column.name), below=repr(column.weights[0]))
    return say(
        "{column} is averaged plainly, since {columns} could all weigh it; {option} chooses.",
        column=repr(column.name),
        columns=names.listed([repr(name) for name in column.weights]),
        option=option("-m", f'sum("{column.name}" * "{column.weights[0]}") / sum("{column.weights[0]}")'),
    )


def _others(table: Table) -> list[str]:
    """What is no measure, or is not added to the others."""
    told = []
    codes = [column for column in table.columns if column.nature == Nature.CODE]
    if codes:
        told.append(say("Codes, not reckoned with: {columns}.", columns=_listed(codes)))
    parts = table.with_role(Role.PART)
    if parts:
        told.append(say("Parts of a date, no labels: {columns}.", columns=_listed(parts)))
    told += [
        say("{column} is {what}, and is not added to it.", column=repr(column.name), what=retold(column.because))
        for column in table.columns
        if column.beside
    ][:_MOST]
    units = mixed_units_of(table)
    for apart in (scenarios_of(table), several_things_of(table)):
        if apart is not None:
            told.append(caveat("scenarios", {"column": apart.column, "read": apart.read, "others": list(apart.others)}))
    if units is not None and units.beside:
        told.append(
            caveat("quantities", {"columns": list(units.columns), "column": units.column, "labels": list(units.labels)})
        )
    elif units is not None:
        facts = {"column": units.column, "read": units.read, "others": list(units.others)}
        told.append(caveat("currencies" if units.currency else "units", facts))
    return told


def nature_of(column: Column) -> str:
    """What kind of number a column holds, in a few words; "" for one that holds none."""
    nature = _nature(column)
    if nature is None or column.role is not Role.MEASURE:
        return ""
    if nature is Nature.STOCK and not column.adds_up:
        return say("level, averaged")
    return say(MEANINGS[nature])


def _parts(weighed: tuple[str, str, float]) -> dict[str, str]:
    return {"above": repr(weighed[0]), "below": repr(weighed[1])}


def _row(key: Sequence[str] | None) -> str:
    if key is None:
        return say("No columns tell all rows apart.")
    return say("There is one row for each {columns}.", columns=names.listed([repr(name) for name in key]))


def _listed(columns: Sequence[Column]) -> str:
    told = [repr(column.name) for column in columns]
    more = len(told) - _MOST
    if more > 1:
        return count(
            more,
            "{columns} and {n} more",
            "{columns} and {n} more",
            columns=", ".join(told[:_MOST]),
            n=numbers.whole(more),
        )
    return names.listed(told)


def _nature(column: Column) -> Nature | None:
    return Nature(column.nature) if column.nature else None
