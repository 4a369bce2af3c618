"""Columns that say what figures are: actual, plan, budget, forecast, target, last year. They are never added up over,
and what is planned is never read as what was."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from ...support.phrasing import phrased
from .. import Role, Table
from .name_words import folded, words

#: Words for each scenario, folded, in the languages of columns.
_SCENARIOS = {
    "actual": "actual actuals act ist istwert istwerte real reales realise realisee reel reelle observed",
    "plan": "plan planned planwert planwerte soll sollwert sollwerte prevu prevue planificado planificada planung",
    "budget": "budget budgeted bud budgetiert presupuesto presupuestado budgete",
    "forecast": "forecast forecasted fc fcst prognose prognosen vorschau prevision previsions pronostico outlook",
    "target": "target goal ziel zielwert objetivo meta objectif cible",
    "last year": "ly py vorjahr vj lastyear prioryear n1 anterior precedente",
}
_OF_WORD = {word: scenario for scenario, known in _SCENARIOS.items() for word in known.split()}
_SEVERAL_WORDS = {
    "last year": "last year",
    "prior year": "last year",
    "previous year": "last year",
    "ano anterior": "last year",
    "annee precedente": "last year",
    "n-1": "last year",
}
_MOST_LABELS = 8


@dataclass(frozen=True, slots=True, kw_only=True)
class Scenarios:
    """A column whose labels are scenarios: `kinds` by label, `read` the label that is read unless another is asked
    for."""

    column: str
    kinds: dict[str, str]
    read: str

    @property
    def others(self) -> tuple[str, ...]:
        return tuple(label for label in self.kinds if label != self.read)


def scenarios_of(table: Table) -> Scenarios | None:
    """The column of scenarios, where a table has one with more than one of them."""
    for column in table.with_role(Role.DIMENSION):
        if column.type != "text" or not 2 <= column.distinct <= _MOST_LABELS:
            continue
        labels, counts = table.label_counts(column.name)
        kinds = {label: scenario_of(label) for label in labels if label is not None}
        if len(kinds) < 2 or None in kinds.values() or len(set(kinds.values())) < 2:
            continue
        known = {label: kind for label, kind in kinds.items() if kind is not None}
        rows = {label: int(count) for label, count in zip(labels, counts, strict=True) if label is not None}
        actual = [label for label, kind in known.items() if kind == "actual"]
        read = max(actual or list(known), key=lambda label: (rows[label], label))
        return Scenarios(column=column.name, kinds=known, read=read)
    return None


def scenario_of(label: str) -> str | None:
    """The scenario that a label names: "Budget 2024" is a budget; None where it names none."""
    text = folded(label)
    for phrase, scenario in _SEVERAL_WORDS.items():
        if phrase in text:
            return scenario
    said = [word for word in words(label) if not word.isdigit()]
    found = {_OF_WORD.get(word) for word in said}
    return next(iter(found)) if len(found) == 1 else None


def beside_others(table: Table) -> Table:
    """The table with columns known that hold another column's plan, budget or last year: `sales_budget` of `sales`."""
    names = {tuple(words(column.name)): column for column in table.with_role(Role.MEASURE)}
    columns = []
    for column in table.columns:
        said = words(column.name)
        kinds = scenarios_in(column.name)
        rest = tuple(word for word in said if word not in _OF_WORD)
        other = names.get(rest) or next(
            (
                one
                for key, one in names.items()
                if one.name != column.name and "actual" in map(_OF_WORD.get, key) and _without(key) == rest
            ),
            None,
        )
        # A plan that is the same in every row is no measure, and a plan.
        numbers = column.role is Role.MEASURE or (column.type == "number" and column.distinct == 1)
        if numbers and is_planned(column.name) and rest and other is not None:
            because = phrased("the {what} of {column}", what=kinds[0], column=repr(other.name))
            column = replace(column, beside=other.name, because=because)
        columns.append(column)
    return replace(table, columns=tuple(columns))


def is_planned(name: str) -> bool:
    """Whether a column of this name holds what is planned or was before, not what is."""
    kinds = scenarios_in(name)
    return bool(kinds) and "actual" not in kinds


def scenarios_in(name: str) -> list[str]:
    """The scenarios that words of a name are of: of `sales_budget` a budget."""
    return [_OF_WORD[word] for word in words(name) if word in _OF_WORD]


def _without(said: Sequence[str]) -> tuple[str, ...]:
    return tuple(word for word in said if word not in _OF_WORD)
