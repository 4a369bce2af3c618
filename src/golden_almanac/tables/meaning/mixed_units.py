"""Columns that say in which currency or unit the amounts beside them are: amounts of several are never added up."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from .. import Role, Table
from .name_words import folded, words
from .natures import Nature

_NAMES = frozenset(
    "currency ccy cur curr wahrung waehrung devise moneda unit units uom einheit unite unidad measure".split()
)
_UNITS = frozenset(
    "kg g t to lb lbs oz l ml m3 m2 m km mi h hours min kwh mwh gwh pcs pc stk stuck pieces units box boxes ea litre "
    "litres liter tonnes tons kilogram gram metre metres".split()
)
_SYMBOLS = frozenset("€ $ £ ¥ chf kr zł".split())
_MOST_LABELS = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class MixedUnits:
    """A column of currencies or units with more than one of them; `read` is the one of most rows."""

    column: str
    labels: tuple[str, ...]
    read: str
    currency: bool

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
        units = named and all(folded(label.strip().rstrip(".")) in _UNITS for label in known)
        # Amounts that say themselves what they are in stand beside what they once were in.
        said = [one.unit in known for one in added if not (money and one.nature == Nature.COUNT)]
        if said and all(said):
            continue
        if len(known) < 2 or not ((money and (named or len(known) <= 20)) or units):
            continue
        rows = {label: int(count) for label, count in zip(labels, counts, strict=True) if label is not None}
        read = max(known, key=lambda label: (rows[label], label))
        return MixedUnits(column=column.name, labels=tuple(known), read=read, currency=money)
    return None


@lru_cache(maxsize=1)
def _currencies() -> frozenset[str]:
    from babel.core import get_global
    from babel.numbers import list_currencies

    current = {code for spans in get_global("territory_currencies").values() for code, *_ in spans}
    return frozenset(current & set(list_currencies()))
