"""The design of a fit: factors as blocks of columns, made dense a stretch of rows at a time."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from .factors import Factor

Floats = npt.NDArray[np.float64]
_STRETCH = 65_536


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Design:
    """Columns: an intercept, then a block for each factor.

    A number is one column in its standard deviations from its mean, with `bent` also hinges at its quartiles, and a
    column for missing where some are; a category has a column for each level but its largest (`base`). Shape (n, k).
    """

    factors: tuple[Factor, ...]
    n: int
    blocks: tuple[slice, ...]
    bases: tuple[int | None, ...]
    knots: tuple[Floats, ...]
    k: int

    @classmethod
    def of(cls, factors: Sequence[Factor], n: int, *, bent: bool = False) -> Design:
        blocks: list[slice] = []
        bases: list[int | None] = []
        knots: list[Floats] = []
        place = 1
        for factor in factors:
            if factor.number:
                assert factor.values is not None
                known = factor.values[~factor.missing]
                inner = np.empty(0)
                if bent and np.unique(known[:20_000]).size >= 8:
                    low, high = known.min(), known.max()
                    inner = np.unique(np.quantile(known, (0.25, 0.5, 0.75)))
                    inner = inner[(inner > low) & (inner < high)]
                width = 1 + inner.size + bool(factor.missing.any())
                bases.append(None)
            else:
                assert factor.codes is not None
                inner = np.empty(0)
                counts = np.bincount(factor.codes, minlength=len(factor.levels))
                bases.append(int(np.argmax(counts)))
                width = len(factor.levels) - 1
            knots.append(inner)
            blocks.append(slice(place, place + width))
            place += width
        return cls(factors=tuple(factors), n=n, blocks=tuple(blocks), bases=tuple(bases), knots=tuple(knots), k=place)

    def stretches(self, rows: npt.NDArray[np.intp] | None = None) -> Iterator[tuple[slice, Floats]]:
        """The rows (or those at `rows`), dense, a stretch at a time, with the places in what is asked for."""
        count = self.n if rows is None else rows.size
        for first in range(0, count, _STRETCH):
            where = slice(first, min(count, first + _STRETCH))
            yield where, self.dense(where if rows is None else rows[where])

    def dense(self, which: slice | npt.NDArray[np.intp]) -> Floats:
        size = which.stop - which.start if isinstance(which, slice) else which.size
        made = np.zeros((size, self.k))
        made[:, 0] = 1.0
        for number, block in enumerate(self.blocks):
            made[:, block] = self.block(number, which)
        return made

    def block(self, number: int, which: slice | npt.NDArray[np.intp]) -> Floats:
        """The columns of one factor, dense."""
        factor = self.factors[number]
        if factor.number:
            assert factor.values is not None
            raw = factor.values[which]
            gone = np.isnan(raw)
            scale = factor.sd or 1.0
            columns = [np.where(gone, 0.0, (raw - factor.mean) / scale)]
            columns += [np.where(gone, 0.0, np.maximum(0.0, raw - knot) / scale) for knot in self.knots[number]]
            if factor.missing.any():
                columns.append(gone.astype(np.float64))
            return np.column_stack(columns)
        assert factor.codes is not None
        codes = factor.codes[which]
        made = np.zeros((codes.size, len(factor.levels)))
        made[np.arange(codes.size), codes] = 1.0
        return np.delete(made, self.bases[number] or 0, axis=1)

    def level_columns(self, number: int) -> list[int | None]:
        """For each level of a category its column, None for the base."""
        base, first = self.bases[number], self.blocks[number].start
        places = [level if level < (base or 0) else level - 1 for level in range(len(self.factors[number].levels))]
        return [None if level == base else first + place for level, place in enumerate(places)]
