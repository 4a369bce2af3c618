"""A frame that people hand in to be drawn: its columns by role, its labels and figures, and what was wished for."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from ..stats.autocorrelated_fits import Floats
from ..support.errors import ColumnError, RequestError
from ..text.languages import say
from .chart import other
from .palette import Palette

#: More rows or labels than this are put together as "other", or said to be left out.
MOST = 12


@dataclass(frozen=True, slots=True, kw_only=True)
class Wishes:
    """What may be set by hand: columns, order (value, label or given), number of categories, colours by category, unit,
    highlights (labels, or "above average"), reference lines, events and size in inches."""

    title: str = ""
    subtitle: str = ""
    source: str = ""
    x: str | None = None
    y: Sequence[str] | None = None
    by: str | None = None
    order: str = "value"
    most: int = MOST
    colours: Mapping[str, str] | Palette = field(default_factory=dict)
    unit: str = ""
    highlight: Sequence[str] | str | None = None
    references: Mapping[str, float] = field(default_factory=dict)
    events: Mapping[str, str] = field(default_factory=dict)
    size: tuple[float, float] | None = None
    partial_last: bool = False
    decimals: int | None = None
    forecast_from: str | None = None

    @property
    def palette(self) -> Palette | None:
        """The colours wished for, as a palette; None where there is no wish. Raises RequestError."""
        if isinstance(self.colours, Palette):
            return self.colours
        return Palette(self.colours) if self.colours else None


class Frame:
    """A frame with its columns found by role: labels, and figures (finite or NaN)."""

    def __init__(self, frame: Any, wishes: Wishes) -> None:
        import pandas as pd

        self.frame, self.wishes = frame.reset_index(drop=True), wishes
        numeric = [
            str(name)
            for name in frame.columns
            if pd.api.types.is_numeric_dtype(frame[name]) and not pd.api.types.is_bool_dtype(frame[name])
        ]
        others = [str(name) for name in frame.columns if str(name) not in numeric]
        self.x = wishes.x or (others[0] if others else None)
        self.y = list(wishes.y or [name for name in numeric if name not in (self.x, wishes.by)])
        self.by = wishes.by
        for name in self.y:
            if name not in numeric:
                raise ColumnError(name, f"The column {name!r} holds no numbers to draw.", "Name one that does.")

    def labels(self, name: str | None = None) -> list[str]:
        name = name or self.x
        if name is None:
            return [str(place + 1) for place in range(len(self.frame))]
        return [_label(value) for value in self.frame[name].tolist()]

    def values(self, name: str | None = None) -> Floats:
        if not self.y:
            raise RequestError("The frame", "no column of numbers", "one with figures to draw")
        column = self.frame[name or self.y[0]].to_numpy(dtype=float, na_value=np.nan)
        return np.where(np.isfinite(column), column, np.nan)

    def summed(self) -> tuple[list[str], Floats]:
        """Labels once each with their sums, in the order wished; labels without any figure are left out."""
        totals: dict[str, float] = {}
        for label, value in zip(self.labels(), self.values(), strict=True):
            if np.isfinite(value):
                totals[label] = totals.get(label, 0.0) + float(value)
        pairs = list(totals.items())
        if self.wishes.order == "value":
            pairs.sort(key=lambda pair: (-pair[1], pair[0]))
        elif self.wishes.order == "label":
            pairs.sort()
        return [label for label, _ in pairs], np.array([value for _, value in pairs])

    def crossed(self) -> tuple[list[str], list[str], Floats]:
        """Sums by two columns of labels; or the columns of figures beside each other where there is only one."""
        rows = self.labels()
        order = list(dict.fromkeys(rows))
        if self.by is None:
            columns = self.y
            grid = np.full((len(order), len(columns)), np.nan)
            for j, name in enumerate(columns):
                for label, value in zip(rows, self.values(name), strict=True):
                    _add(grid, order.index(label), j, value)
            return order, columns, grid
        parts = self.labels(self.by)
        kept = list(dict.fromkeys(parts))
        grid = np.full((len(order), len(kept)), np.nan)
        for label, part, value in zip(rows, parts, self.values(), strict=True):
            _add(grid, order.index(label), kept.index(part), value)
        return order, kept, grid


def _add(grid: Floats, i: int, j: int, value: float) -> None:
    if np.isfinite(value):
        grid[i, j] = value if not np.isfinite(grid[i, j]) else grid[i, j] + value


def _label(value: Any) -> str:
    """A label as shown: one line, no control characters; missing is said."""
    if value is None or value != value:
        return say("(no value)")
    text = "".join(letter if letter.isprintable() else " " for letter in str(value)[:400])
    return " ".join(text.split()) or say("(blank)")


def marked(frame: Frame, labels: Sequence[str], values: Floats) -> list[str]:
    wish = frame.wishes.highlight
    if wish is None:
        return []
    if wish in ("above average", ["above average"]):
        return [label for label, value in zip(labels, values, strict=True) if value > float(np.nanmean(values))]
    return [wish] if isinstance(wish, str) else list(wish)


def folded(labels: list[str], values: Floats, most: int) -> tuple[list[str], Floats]:
    """The largest labels, the rest as "other (n)"."""
    if len(labels) <= most:
        return labels, values
    order = np.argsort(-np.nansum(np.abs(values), axis=1), kind="stable")
    kept, rest = sorted(order[: most - 1].tolist()), order[most - 1 :]
    together = np.nansum(values[rest], axis=0)
    return [*(labels[i] for i in kept), other(int(rest.size))], np.vstack([values[kept], together])
