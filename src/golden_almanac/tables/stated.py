"""What people state of their figures and columns, in place of what would be guessed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field


@dataclass(frozen=True, slots=True, kw_only=True)
class StatedMeasure:
    """How a measure is written: its `unit`, and how many `decimals`; None where nothing is said."""

    unit: str | None = None
    decimals: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Stated:
    """`measures` by their name, the SQL as it is shown. Of columns by name: `within` is the column that one lies within
    (port in region), `orders` its labels in their own order, `synonyms` what else it is called in questions."""

    measures: Mapping[str, StatedMeasure] = field(default_factory=dict)
    within: Mapping[str, str] = field(default_factory=dict)
    orders: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    synonyms: Mapping[str, tuple[str, ...]] = field(default_factory=dict)

    def places(self, column: str, labels: list[str | None]) -> list[int] | None:
        """The places of labels in the column's own order, those that it leaves out behind; None where it has none."""
        order = self.orders.get(column)
        if order is None:
            return None
        known = {label: place for place, label in enumerate(order)}
        return sorted(range(len(labels)), key=lambda i: (known.get(str(labels[i]), len(known)), str(labels[i])))
