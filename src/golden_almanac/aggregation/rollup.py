"""The finest grouping worth making: made once from the rows, all coarser ones are rolled up from it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise
from typing import Any

import numpy as np
import numpy.typing as npt

from .exact_sums import Slice
from .measures import Part

Codes = npt.NDArray[np.integer]

#: Keys are numbered anew before their product grows beyond this.
_MOST_NUMBERS = 1 << 26
#: Squares only make variances: two slices are enough.
SQUARE_SLICES = 2


#: Groupings whose numbers are kept.
_NUMBERED = 4


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class BasePart:
    """A part per base cell: rows with a value, exact slices of their sum and of the sum of their squares, and, where
    the part asks for it, the least, the greatest or the number of different values. The last cannot be rolled up."""

    count: npt.NDArray[np.float64]
    sums: tuple[Slice, ...]
    squares: tuple[Slice, ...]
    low: npt.NDArray[np.float64] | None = None
    high: npt.NDArray[np.float64] | None = None
    distinct: npt.NDArray[np.float64] | None = None


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Base:
    """Cells that hold rows: `codes[key]` gives the code of each by each key, shape (cells,); `sizes` how many codes
    a key has; `rows` how many rows each cell holds."""

    codes: Mapping[str, Codes]
    sizes: Mapping[str, int]
    rows: npt.NDArray[np.float64]
    parts: Mapping[Part, BasePart]
    _numbered: dict[tuple[str, ...], npt.NDArray[np.intp]] = field(init=False, default_factory=dict)

    @property
    def count(self) -> int:
        return int(self.rows.size)

    def number(self, keys: Sequence[str]) -> tuple[npt.NDArray[np.intp], list[int]]:
        """The number of each base cell's group by some of the keys, row-major, and the sizes of the axes. Those of the
        last few groupings are kept: one part after the other asks for them."""
        asked = tuple(keys)
        number = self._numbered.get(asked)
        if number is None:
            number = np.zeros(self.count, dtype=np.intp)
            for key in keys:
                number = number * self.sizes[key] + self.codes[key]
            while len(self._numbered) >= _NUMBERED:
                self._numbered.pop(next(iter(self._numbered)), None)
            self._numbered[asked] = number
        return number, [self.sizes[key] for key in keys]

    def kept(self, which: npt.NDArray[np.bool_]) -> Base:
        """Some of the cells."""

        def of(values: Any) -> Any:
            return None if values is None else values[which]

        parts = {
            part: BasePart(
                count=one.count[which],
                sums=tuple(replace(cut, whole=cut.whole[which]) for cut in one.sums),
                squares=tuple(replace(cut, whole=cut.whole[which]) for cut in one.squares),
                low=of(one.low),
                high=of(one.high),
            )
            for part, one in self.parts.items()
        }
        codes = {key: own[which] for key, own in self.codes.items()}
        return replace(self, codes=codes, rows=self.rows[which], parts=parts)


def merged(bases: Sequence[Base]) -> Base:
    """The cells of several stretches of rows put together; slices of one scale and exponent are added as they are."""
    if len(bases) == 1:
        return bases[0]
    first = bases[0]
    keys = list(first.codes)
    rows = np.concatenate([base.rows for base in bases])
    codes = {key: np.concatenate([base.codes[key] for base in bases]) for key in keys}
    if keys:
        number, held = numbered([(codes[key], first.sizes[key]) for key in keys])
    else:
        number, held = np.zeros(rows.size, dtype=np.int32), []
    cells = int(held[0].size) if held else 1
    ends = np.cumsum([0, *(base.rows.size for base in bases)])
    spans = [slice(int(a), int(b)) for a, b in pairwise(ends)]

    def together(cuts: Sequence[Sequence[Slice]]) -> tuple[Slice, ...]:
        found: dict[tuple[float, int], npt.NDArray[np.float64]] = {}
        for span, slice_ in zip(spans, cuts, strict=True):
            for cut in slice_:
                added = cut.grouped(number[span], cells).whole
                key = (cut.scale, cut.exponent)
                found[key] = found[key] + added if key in found else added
        return tuple(Slice(found[key], *key) for key in sorted(found, key=lambda key: -key[1]))

    parts = {}
    for part in first.parts:
        own = [base.parts[part] for base in bases]
        low = [one.low for one in own if one.low is not None]
        high = [one.high for one in own if one.high is not None]
        count = np.concatenate([one.count for one in own])
        parts[part] = BasePart(
            count=np.bincount(number, weights=count, minlength=cells).astype(np.float64),
            sums=together([one.sums for one in own]),
            squares=together([one.squares for one in own]),
            low=rolled(np.minimum, number.astype(np.intp), np.concatenate(low), cells) if low else None,
            high=rolled(np.maximum, number.astype(np.intp), np.concatenate(high), cells) if high else None,
        )
    return replace(
        first,
        codes=dict(zip(keys, held, strict=True)),
        rows=np.bincount(number, weights=rows, minlength=cells).astype(np.float64),
        parts=parts,
    )


def numbered(codes: Sequence[tuple[Codes, int]]) -> tuple[Codes, list[Codes]]:
    """Rows numbered by the combinations of codes that occur: each row's number, the codes of each number."""
    first, size = codes[0]
    number: Codes = first.astype(np.int32 if size < _MOST_NUMBERS else np.int64)
    held: list[Codes] = [np.arange(size)]
    number, size, kept = _compressed(number, size)
    held = [held[0][kept]]
    for more, more_size in codes[1:]:
        if size * more_size <= _MOST_NUMBERS:
            joint = number * np.int32(more_size) + more.astype(np.int32, copy=False)
            number, size, kept = _compressed(joint, size * more_size)
        else:
            wide = number.astype(np.int64) * more_size + more
            kept, number = np.unique(wide, return_inverse=True)
            size = int(kept.size)
        held = [codes[kept // more_size] for codes in held]
        held.append(kept % more_size)
    return number, held


def _compressed(number: Codes, size: int) -> tuple[Codes, int, npt.NDArray[np.int64]]:
    """Numbers that occur, in order, and the rows' numbers among them."""
    present = np.zeros(size, dtype=bool)
    present[number] = True
    kept = np.flatnonzero(present)
    if kept.size == size:
        return number, size, kept
    rank = np.cumsum(present, dtype=np.int32) - np.int32(1)
    return rank[number], int(kept.size), kept


def extreme(ufunc: Any, where: Codes, what: Any, cells: int) -> Any:
    """The least or greatest value of each cell, NaN where there is none."""
    start = np.inf if ufunc is np.minimum else -np.inf
    found = np.full(cells, start)
    ufunc.at(found, where, what)
    return np.where(np.isfinite(found), found, np.nan)


def rolled(ufunc: Any, number: npt.NDArray[np.intp], values: Any, size: int) -> Any:
    """The extremes of groups of base cells, NaN where none holds a value."""
    known = ~np.isnan(values)
    return extreme(ufunc, number[known], values[known], size)


def estimated_cells(codes: Sequence[tuple[Codes, int]], rows: int, sample: int = 20_000) -> int:
    """How many combinations of codes occur among `rows` rows, guessed from evenly spaced ones of those given: those
    that there are by Chao ("Nonparametric estimation of the number of classes in a population", 1984), of them those
    that rows fall in."""
    possible = 1.0
    for _, size in codes:
        possible *= size
    given = int(codes[0][0].size)
    step = max(1, given // sample)
    number = np.zeros(len(range(0, given, step)), dtype=np.float64)
    for one, size in codes:
        number = number * size + one[::step]
    _, counts = np.unique(number, return_counts=True)
    once, twice = int((counts == 1).sum()), int((counts == 2).sum())
    if number.size == rows:
        return int(counts.size)
    there = min(counts.size + once * (once - 1) / (2 * (twice + 1)), possible)
    # Of those that there are, so many turn up among the rows.
    return int(min(there * -np.expm1(-rows / max(there, 1.0)), rows))
