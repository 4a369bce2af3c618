"""What a brief states of its measures and columns, put into the table that it reads."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from itertools import pairwise
from typing import Any

from ..aggregation.hierarchies import parent_codes
from ..aggregation.measures import parse_measure
from ..reports.brief import Brief
from ..support.errors import RequestError, rather
from ..tables import Role, Table
from ..tables.stated import Stated, StatedMeasure


def as_stated(brief: Brief, table: Table) -> Table:
    """The table with units and decimals of measures, hierarchies, orders and synonyms of columns as the brief has them.

    Raises RequestError where the rows say otherwise, ColumnError for a column that there is not.
    """
    told = _dimensions(brief, table)
    if told:
        # A number that is named as a dimension, a year of building, is no amount.
        table = table.set_roles({name: Role.DIMENSION for name in told if table.column(name).role is not Role.TIME})
    made = Stated(
        measures=_measures(brief, table),
        within=_within(told, table),
        orders=_orders(told, table),
        synonyms={name: tuple(one["synonyms"]) for name, one in told.items() if one.get("synonyms")},
    )
    return replace(_with_units(made, table), stated=made, _cache={})


def _measures(brief: Brief, table: Table) -> dict[str, StatedMeasure]:
    made = {}
    for one in brief.get("measure", ()):
        if "unit" in one or "decimals" in one:
            name = parse_measure(one["sql"], table).name
            made[name] = StatedMeasure(unit=one.get("unit"), decimals=one.get("decimals"))
    return made


def _with_units(stated: Stated, table: Table) -> Table:
    """A unit of a column's own sum or average is that of the column, wherever it is told of."""
    units = {}
    for name, told in stated.measures.items():
        parts = parse_measure(name, table).top
        column = parts[0][1].column if len(parts) == 1 else ""
        if told.unit and column and name in (f"sum({column})", f"avg({column})", f"min({column})", f"max({column})"):
            units[column] = told.unit
    return table.with_described({name: replace(table.column(name), unit=unit) for name, unit in units.items()})


def _dimensions(brief: Brief, table: Table) -> dict[str, Mapping[str, Any]]:
    """What is said of each column, by its name in the table."""
    made: dict[str, Mapping[str, Any]] = {}
    for place, one in enumerate(brief.get("dimension", ()), start=1):
        made[table.column(one["column"], f"[[dimension]] {place} of the brief").name] = one
    return made


def _within(told: Mapping[str, Mapping[str, Any]], table: Table) -> dict[str, str]:
    made: dict[str, str] = {}
    for name, one in told.items():
        levels = [name, *(table.column(above, f"the hierarchy of {name}").name for above in one.get("hierarchy", ()))]
        for child, parent in pairwise(levels):
            made[child] = parent
            _check_within(table, child, parent)
    return made


def _check_within(table: Table, child: str, parent: str) -> None:
    """Refuses a hierarchy that the rows break: a label below two others would be counted in both."""
    if child == parent:
        raise RequestError(f"The hierarchy of {child}", parent, "another column, which it lies within")
    codes, labels = parent_codes(table, child, parent), table.labels(child)
    broken = [str(label) for label, code in zip(labels, codes.tolist(), strict=True) if code < 0 and label is not None]
    if broken:
        more = f" (and {len(broken) - 1} more)" if len(broken) > 1 else ""
        raise RequestError(
            f"The hierarchy of {child}",
            parent,
            f"a column with one label for each of {child}; {sorted(broken)[0]!r}{more} stands beside several",
        )


def _orders(told: Mapping[str, Mapping[str, Any]], table: Table) -> dict[str, tuple[str, ...]]:
    made = {}
    for name, one in told.items():
        if not one.get("order"):
            continue
        labels = [str(label) for label in table.labels(name) if label is not None]
        _check_order(name, one["order"], labels)
        made[name] = tuple(one["order"])
    return made


def _check_order(name: str, order: Sequence[str], labels: Sequence[str]) -> None:
    for place, label in enumerate(order):
        if label in order[:place]:
            raise RequestError(f"The order of {name}", label, "each label once")
        if label not in labels:
            # A label that a shorter source does not have yet is no mistake, if others of the order are there.
            if any(one in labels for one in order) and not _near(label, labels):
                continue
            raise RequestError(
                f"The order of {name}", label, f"labels of the column; {rather(label, labels, 'labels').rstrip('.')}"
            )


def _near(label: str, labels: Sequence[str]) -> bool:
    return any(label.casefold() == one.casefold() for one in labels)
