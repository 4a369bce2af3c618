"""Questions worth asking of a table, from the roles and shapes of its columns; each runs as it stands."""

from __future__ import annotations

from dataclasses import dataclass

from ..aggregation.measures import Measure, default_measures, lead_measure
from ..tables import Column, Role, Table
from ..tables.identities import identities

_MOST_GROUPS = 30


@dataclass(frozen=True, slots=True, kw_only=True)
class Question:
    """What to ask: the call of `ga` that answers it, with its arguments; the `columns` that it is about by their
    argument, or the `measure`."""

    call: str
    arguments: dict[str, str]
    columns: dict[str, Column]
    measure: Measure | None = None


def questions(table: Table, most: int = 12) -> list[Question]:
    """Comparisons, relations, drivers and changes worth testing, the most promising first; no two ask the same."""
    outcomes = [c for c in table.columns if _outcome(c)]
    groups = [c for c in table.columns if c.role is Role.DIMENSION and 2 <= c.distinct <= _MOST_GROUPS]
    numbers = [c for c in table.with_role(Role.MEASURE) if c.type == "number" and c.distinct > 10]
    bound = {
        frozenset(pair)
        for identity in identities(table, [c.name for c in numbers])
        for pair in _pairs(identity.columns)
    }
    rates = [c for c in outcomes if c.adds_up is False] + [c for c in outcomes if c.adds_up is not False]
    kinds: list[list[Question]] = [[], [], [], []]
    for c in rates[:3]:
        kinds[0].append(_question("find_drivers", outcome=c))
    fewest = sorted(groups, key=lambda c: (c.distinct, c.name))
    for c in rates[:3]:
        for by in fewest[-2:]:
            kinds[1].append(_question("compare", outcome=c, by=by))
    for place, x in enumerate(numbers):
        for y in numbers[place + 1 :]:
            if frozenset((x.name, y.name)) not in bound:
                kinds[2].append(_question("relate", x=x, y=y))
    if table.with_role(Role.TIME):
        amounts = default_measures(table)
        lead = lead_measure(amounts)
        for measure in (lead, *(amount for amount in amounts if amount != lead and not amount.additive))[:2]:
            kinds[3].append(_question("explain_change", measure=measure))
    # One of each kind in turn, so that the first few are a mixed lot.
    mixed = [kind[place] for place in range(most) for kind in kinds if place < len(kind)]
    return mixed[:most]


def _outcome(column: Column) -> bool:
    return column.role is Role.MEASURE or (column.type == "boolean" and column.role is not Role.IGNORED)


def _pairs(columns: frozenset[str]) -> list[tuple[str, str]]:
    names = sorted(columns)
    return [(a, b) for place, a in enumerate(names) for b in names[place + 1 :]]


def _question(call: str, measure: Measure | None = None, **columns: Column) -> Question:
    arguments = {name: column.name for name, column in columns.items()}
    if measure is not None:
        arguments["measure"] = measure.name
    return Question(call=call, arguments=arguments, columns=columns, measure=measure)
