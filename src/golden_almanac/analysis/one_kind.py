"""The rows whose amounts may be added up: those of one scenario, of one currency or unit, and of one thing."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ..tables import Table
from ..tables.meaning.mixed_units import mixed_units_of
from ..tables.meaning.scenarios import scenarios_of
from ..tables.meaning.several_things import several_things_of

#: What is to be said of the rows that are left aside: the name of a caveat, and its facts.
Note = tuple[str, dict[str, Any]]


def of_one_kind(
    table: Table, told_apart: Sequence[str] = (), measures: Sequence[str] = ()
) -> tuple[Table, tuple[Note, ...]]:
    """The rows of what was (not of what was planned) and of the commonest currency or unit, with what is to be said of
    the others. Columns that are `told_apart` are left: their labels stand beside each other, not in one sum. Where
    amounts of money stand beside quantities in several units, all rows are kept, and the quantities left out unless
    some of the `measures` asked for are made of them."""
    notes: list[Note] = []
    plans = scenarios_of(table)
    if plans is not None and plans.column not in told_apart:
        table = table.filter(table.equals(plans.column, plans.read))
        notes.append(("scenarios", {"column": plans.column, "read": plans.read, "others": list(plans.others)}))
    units = mixed_units_of(table)
    asked = units is not None and any(name in text for text in measures for name in units.columns)
    if units is not None and units.beside and not asked:
        if units.column not in told_apart and not measures:
            table = table.set_roles(dict.fromkeys(units.columns, "ignored"))
            facts = {"columns": list(units.columns), "column": units.column, "labels": list(units.labels)}
            notes.append(("quantities", facts))
    elif units is not None and units.column not in told_apart:
        table = table.filter(table.equals(units.column, units.read))
        facts = {"column": units.column, "read": units.read, "others": list(units.others)}
        notes.append(("currencies" if units.currency else "units", facts))
    things = several_things_of(table)
    if things is not None and things.column not in told_apart:
        table = table.filter(table.equals(things.column, things.read))
        notes.append(("scenarios", {"column": things.column, "read": things.read, "others": list(things.others)}))
    return table, tuple(notes)
