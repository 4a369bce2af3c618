"""Questions worth asking of a table, from the roles and shapes of its columns; each runs as it stands."""

from __future__ import annotations

from dataclasses import dataclass

from .identities import identities
from .measures import default_measures, lead_measure, spoken
from .tables import Column, Role, Table

_MOST_GROUPS = 30


@dataclass(frozen=True, slots=True, kw_only=True)
class Question:
    """A question, the call of `ga` that answers it, and the same on the command line (after the source)."""

    text: str
    call: str
    arguments: dict[str, str]
    command: tuple[str, ...]


def questions(table: Table, most: int = 12) -> list[Question]:
    """Comparisons, relations, drivers and changes worth testing, the most promising first; no two ask the same."""
    outcomes = [c for c in table.columns if _outcome(c)]
    groups = [c for c in table.columns if c.role is Role.DIMENSION and 2 <= c.distinct <= _MOST_GROUPS]
    numbers = [c for c in table.with_role(Role.MEASURE) if c.type == "number" and c.distinct > 10]
    bound = {frozenset(pair) for one in identities(table, [c.name for c in numbers]) for pair in _pairs(one.columns)}
    rates = [c for c in outcomes if c.adds_up is False] + [c for c in outcomes if c.adds_up is not False]
    kinds: list[list[Question]] = [[], [], [], []]
    for c in rates[:3]:
        kinds[0].append(_question(f"What goes with {_said(c)}?", "find_drivers", "drivers", outcome=c.name))
    fewest = sorted(groups, key=lambda c: (c.distinct, c.name))
    for c in rates[:3]:
        for by in fewest[-2:]:
            kinds[1].append(
                _question(
                    f"Does {_said(c)} differ between the {_plural(by)}?",
                    "compare",
                    "compare",
                    outcome=c.name,
                    by=by.name,
                )
            )
    for place, x in enumerate(numbers):
        for y in numbers[place + 1 :]:
            if frozenset((x.name, y.name)) not in bound:
                kinds[2].append(
                    _question(f"How does {_said(y)} go with {_said(x)}?", "relate", "relate", x=x.name, y=y.name)
                )
    if table.with_role(Role.TIME):
        amounts = default_measures(table)
        lead = lead_measure(amounts)
        for measure in (lead, *(one for one in amounts if one != lead and not one.additive))[:2]:
            kinds[3].append(
                _question(f"Why did {measure.label} change?", "explain_change", "change", measure=measure.name)
            )
    # One of each kind in turn, so that the first few are a mixed lot.
    mixed = [kind[place] for place in range(most) for kind in kinds if place < len(kind)]
    return mixed[:most]


def _outcome(column: Column) -> bool:
    return column.role is Role.MEASURE or (column.type == "boolean" and column.role is not Role.IGNORED)


def _pairs(columns: frozenset[str]) -> list[tuple[str, str]]:
    names = sorted(columns)
    return [(a, b) for place, a in enumerate(names) for b in names[place + 1 :]]


def _said(column: Column) -> str:
    return spoken(column.name, column.unit)


def _plural(column: Column) -> str:
    name = _said(column)
    return name + ("es" if name.endswith(("s", "x")) else "s")


_OPTIONS = {"outcome": "--outcome", "by": "-b", "measure": "-m", "x": "-x", "y": "-y"}


def _question(text: str, call: str, command: str, **arguments: str) -> Question:
    words = [command]
    for name, value in arguments.items():
        option = "-m" if command == "compare" and name == "outcome" else _OPTIONS.get(name)
        words += [value] if option is None else [option, value]
    return Question(text=text, call=call, arguments=arguments, command=tuple(words))
