"""Columns that say in which currency or unit the amounts beside them are: amounts of several are never added up."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache

from .. import Column, Role, Table
from .name_words import MONEY, PHYSICAL, folded, words
from .natures import Nature

_NAMES = frozenset(
    "currency ccy cur curr wahrung waehrung devise moneda unit units uom einheit unite unidad measure".split()
)
_UNITS = frozenset(
    "kg g t to lb lbs oz l ml m3 m2 m km mi h hours min kwh mwh gwh pcs pc stk stuck pieces units box boxes ea litre "
    "litres liter tonnes tons kilogram gram metre metres".split()
)
_QUOTIENT = re.compile(r"[^\W\d_]{1,5}/[^\W\d_]{1,5}[23²³]?")
_SYMBOLS = frozenset("€ $ £ ¥ chf kr zł".split())
_MOST_LABELS = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class MixedUnits:
    """A column of currencies or units with more than one of them; `read` is the one of most rows. `columns` are those
    whose numbers are in them, and `beside` tells that other amounts are not: an order is worth so many euros, be it in
    kilograms or in pieces."""

    column: str
    labels: tuple[str, ...]
    read: str
    currency: bool
    columns: tuple[str, ...] = ()
    beside: bool = False

    @property
    def others(self) -> tuple[str, ...]:
        return tuple(label for label in self.labels if label != self.read)


def mixed_units_of(table: Table) -> MixedUnits | None:
    """The column of currencies or units, where amounts of several stand in a table."""
    added = [column for column in table.with_role(Role.MEASURE) if column.adds_up]
    if not added:
        return None
    for column in table.with_role(Role.DIMENSION):
        if column.type != "text" or not 2 <= column.distinct <= _MOST_LABELS:
            continue
        labels, counts = table.label_counts(column.name)
        known = [label for label in labels if label is not None]
        money = all(label.strip().upper() in _currencies() or folded(label.strip()) in _SYMBOLS for label in known)
        named = bool(set(words(column.name)) & _NAMES)
        units = named and _are_units(known)
        # Amounts that say themselves what they are in stand beside what they once were in.
        said = [one.unit in known for one in added if not (money and one.nature == Nature.COUNT)]
        if said and all(said):
            continue
        if len(known) < 2 or not ((money and (named or len(known) <= 20)) or units):
            continue
        rows = {label: int(count) for label, count in zip(labels, counts, strict=True) if label is not None}
        read = max(known, key=lambda label: (rows[label], label))
        if money:
            return MixedUnits(column=column.name, labels=tuple(known), read=read, currency=True)
        inside = tuple(one.name for one in table.with_role(Role.MEASURE) if _is_quantity(one))
        beside = bool({one.name for one in added} - set(inside))
        if inside or not beside:
            return MixedUnits(
                column=column.name, labels=tuple(known), read=read, currency=False, columns=inside, beside=beside
            )
    return None


def _are_units(labels: list[str]) -> bool:
    """Whether the labels of a column that is named for units are such: known ones, or quotients of some (mmol/L)."""
    quotients = [label for label in labels if _QUOTIENT.fullmatch(label.strip())]
    rest = [label for label in labels if label not in quotients]
    return all(folded(label.strip().rstrip(".")) in _UNITS | {"%"} for label in rest)


def _is_quantity(column: Column) -> bool:
    """Whether a column's numbers are so many of a unit: amounts that are no money, weights and lengths."""
    said = set(words(column.name))
    if column.type != "number" or said & MONEY or column.unit in _currencies():
        return False
    amounts = column.nature in (Nature.FLOW, Nature.COUNT, Nature.STOCK)
    return amounts or (column.nature == Nature.READING and bool(said & PHYSICAL))


@lru_cache(maxsize=1)
def _currencies() -> frozenset[str]:
    from babel.core import get_global
    from babel.numbers import list_currencies

    current = {code for spans in get_global("territory_currencies").values() for code, *_ in spans}
    return frozenset(current & set(list_currencies()))
