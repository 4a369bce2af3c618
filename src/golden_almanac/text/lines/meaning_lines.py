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
    told = [_row(key)]
    if line is None:
        told.append(say("No column holds dates, so nothing can be said about change over time."))
    else:
        span = {"first": dates.day(line.first_day), "last": dates.day(line.last_day)}
        grain = names.grain_noun(line.grain.value)
        told.append(
            say(
                "The table runs from {first} to {last} ({column}), told by {grain}.",
                **span,
                column=repr(line.column),
                grain=grain,
            )
        )
        others = [column.name for column in table.with_role(Role.TIME) if column.name != line.column]
        if others:
            told.append(
                say(
                    "Dates stand in {columns}, too; {option} tells the table by them.",
                    columns=names.listed([repr(name) for name in others[:_MOST]]),
                    option=option("-t", others[0]),
                )
            )
    told += [
        say(
            "{column} numbers what several rows belong to, {n} on average.",
            column=repr(column.name),
            n=numbers.plain(table.rows / column.distinct, 2),
        )
        for column in table.with_role(Role.KEY)
        if 2 * column.distinct <= table.rows and column.distinct > 1
    ][:_MOST]
    measures = [column for column in table.with_role(Role.MEASURE) if not column.beside]
    natures = {column.name: _nature(column) for column in measures}
    added = [column for column in measures if natures[column.name] in ADDED - {Nature.STOCK} and column.adds_up]
    levels = [column for column in measures if natures[column.name] is Nature.STOCK and column.adds_up]
    running = [column for column in measures if natures[column.name] is Nature.RUNNING]
    averaged = [column for column in measures if column not in (*added, *levels, *running)]
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
    told += [
        say("{column} is weighed by {below}.", column=repr(column.name), below=repr(column.weights[0]))
        if len(column.weights) == 1
        else say(
            "{column} is averaged plainly, since {columns} could all weigh it; {option} chooses.",
            column=repr(column.name),
            columns=names.listed([repr(name) for name in column.weights]),
            option=option("-m", f'sum("{column.name}" * "{column.weights[0]}") / sum("{column.weights[0]}")'),
        )
        for column in averaged
        if column.weights
    ][:_MOST]
    if running:
        told.append(say("Running totals, left alone: {columns}.", columns=_listed(running)))
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
    plans, units = scenarios_of(table), mixed_units_of(table)
    if plans is not None:
        told.append(caveat("scenarios", {"column": plans.column, "read": plans.read, "others": list(plans.others)}))
    if units is not None:
        facts = {"column": units.column, "read": units.read, "others": list(units.others)}
        told.append(caveat("currencies" if units.currency else "units", facts))
    things = several_things_of(table)
    if things is not None:
        told.append(caveat("scenarios", {"column": things.column, "read": things.read, "others": list(things.others)}))
    if not measures:
        told.append(say("No column holds numbers to reckon with, so rows are counted."))
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
