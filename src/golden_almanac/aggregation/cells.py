"""Grouped statistics, and how a measure is read off them."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from .measures import Measure, Part

Floats = npt.NDArray[np.float64]
#: An array, or what makes it.
Made = Floats | Callable[[], Floats]


class PartCells:
    """Statistics of one row expression per cell, each of the cells' shape; missing rows left out.

    `count` rows with a value, `total` their sum, `squares` the sum of their squares; `other` holds
    the minimum, maximum or distinct count where the part asks for one. The first three may be given as what makes them:
    most groupings are asked for one of the three only.
    """

    __slots__ = ("_count", "_squares", "_total", "other")

    def __init__(self, *, count: Made, total: Made, squares: Made, other: Floats | None = None) -> None:
        self._count, self._total, self._squares, self.other = count, total, squares, other

    @property
    def count(self) -> Floats:
        if callable(self._count):
            self._count = self._count()
        return self._count

    @property
    def total(self) -> Floats:
        if callable(self._total):
            self._total = self._total()
        return self._total

    @property
    def squares(self) -> Floats:
        if callable(self._squares):
            self._squares = self._squares()
        return self._squares


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Cells:
    """A table grouped by `keys`; axis i of every array runs over `labels[i]`. `rows` counts all rows."""

    keys: tuple[str, ...]
    labels: tuple[tuple[str | None, ...], ...]
    rows: Floats
    parts: Mapping[Part, PartCells]
    _cache: dict[tuple[tuple[float, Part], ...], Floats] = field(default_factory=dict)

    def linear(self, terms: tuple[tuple[float, Part], ...]) -> Floats:
        """A weighted sum of parts per cell; an empty cell is 0. Read-only, since it is kept."""
        if terms not in self._cache:
            total = np.zeros(self.rows.shape)
            if len(terms) == 1 and terms[0][0] == 1:
                total = np.asarray(self._part(terms[0][1]))
            else:
                for weight, part in terms:
                    total = np.asarray(total + weight * self._part(part))
            total.flags.writeable = False
            self._cache[terms] = total
        return self._cache[terms]

    def value(self, measure: Measure) -> Floats:
        """The measure per cell, NaN where no row counts or the denominator is nought."""
        top = np.where(self.known(measure.top), self.linear(measure.top), np.nan)
        if not measure.bottom:
            return measure.factor * top + 0.0  # + 0.0 turns a negative nought into nought
        bottom = np.where(self.known(measure.bottom), self.linear(measure.bottom), np.nan)
        with np.errstate(divide="ignore", invalid="ignore"):
            return measure.factor * np.where(bottom != 0, top / np.where(bottom != 0, bottom, 1.0), np.nan) + 0.0

    def squares(self, terms: tuple[tuple[float, Part], ...]) -> Floats:
        """The sum of squares of the rows behind a weighted sum of parts: its variance, were rows to come at random."""
        total = np.zeros(self.rows.shape)
        for weight, part in terms:
            total = np.asarray(total + weight * weight * (self.parts[part].squares if part.sql else self.rows))
        return total

    def known(self, terms: tuple[tuple[float, Part], ...]) -> npt.NDArray[np.bool_]:
        """Cells where every sum has something to add: as in SQL, the sum of no values is not nought."""
        known = self.rows > 0
        for _, part in terms:
            if part.kind == "sum":
                known = known & (self.parts[part].count > 0)
        return known

    def _part(self, part: Part) -> Floats:
        if part.kind == "count" and not part.sql:
            return self.rows
        cells = self.parts[part]
        if part.kind == "count":
            return cells.count
        return cells.total if part.kind == "sum" or cells.other is None else cells.other
