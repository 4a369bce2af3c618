"""Groups of rows held in memory: one pass of cell numbers, the columns on all processors."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..support.parallel import each
from .exact_sums import Floats, Slice, added
from .measures import Part
from .rollup import Base, BasePart, Codes, extreme, numbered
from .row_codes import Cut, Rows
from .row_filter import Only

Summed = Callable[[], Floats]
#: Cells of all parts that are made together at most.
_TOGETHER = 100_000


def group(rows: Rows, keys: Sequence[str], parts: Sequence[Part], only: Only) -> Base:
    """The cells of rows by these keys, with these parts of each."""
    taken = rows.kept(only)
    coded = [rows.codes(key) for key in keys]
    size = rows.size if taken is None else int(taken.size)
    if keys:
        own = [(codes if taken is None else codes[taken], count) for codes, count in coded]
        number, held = numbered(own)
    else:
        number, held = np.zeros(size, dtype=np.int32), []
    cells = int(held[0].size) if held else 1

    def made(part: Part) -> BasePart:
        if part.kind == "distinct":
            return _distinct(rows, part, number, cells, taken)
        cut = rows.cut(part, taken)
        where = number if cut.filled is None else number[cut.filled]
        return BasePart(
            count=np.bincount(where, minlength=cells).astype(np.float64),
            sums=tuple(slice_.grouped(where, cells) for slice_ in cut.sums),
            squares=tuple(slice_.grouped(where, cells) for slice_ in cut.squares),
            low=extreme(np.minimum, where, cut.values, cells) if part.kind == "min" else None,
            high=extreme(np.maximum, where, cut.values, cells) if part.kind == "max" else None,
        )

    return Base(
        codes=dict(zip(keys, held, strict=True)),
        sizes={key: count for key, (_, count) in zip(keys, coded, strict=True)},
        rows=np.bincount(number, minlength=cells).astype(np.float64),
        parts=dict(zip(parts, each(made, parts, size), strict=True)),
    )


def summed(
    rows: Rows, keys: Sequence[str], parts: Sequence[Part], only: Only
) -> tuple[Floats, list[int], dict[Part, tuple[Summed, Summed, Summed]]]:
    """The cells of a short table with every combination of codes, flat: rows of each, sizes of the axes, and for each
    part (sums and counts only) what makes its counts, sums and sums of squares."""
    taken = rows.kept(only)
    coded = [rows.codes(key) for key in keys]
    sizes = [count for _, count in coded]
    total = int(np.prod(sizes)) if sizes else 1
    number = np.zeros(rows.size, dtype=np.intp)
    for codes, count in coded:
        number = number * count + codes
    number = number if taken is None else number[taken]

    counted = np.bincount(number, minlength=total).astype(np.float64)
    sums = _Together(rows, parts, taken, number, total, _sums)
    squares = _Together(rows, parts, taken, number, total, _squares)

    def made(part: Part) -> tuple[Summed, Summed, Summed]:
        def count() -> Floats:
            filled = rows.cut(part, taken).filled
            return counted if filled is None else np.bincount(number[filled], minlength=total).astype(np.float64)

        return count, lambda: sums.of(part), lambda: squares.of(part)

    return counted, sizes, {part: made(part) for part in parts}


@dataclass(slots=True, eq=False)
class _Together:
    """The sums of one power of all parts in the same cells. What is asked of one is mostly asked of all, where all rows
    are grouped: there, and where cells are few, the parts that are whole numbers of one scale are made together when
    the first of them is asked for."""

    rows: Rows
    parts: Sequence[Part]
    taken: npt.NDArray[np.intp] | None
    number: npt.NDArray[np.intp]
    total: int
    power: Callable[[Cut], tuple[Slice, ...]]
    known: dict[Part, Floats] | None = None

    def of(self, part: Part) -> Floats:
        if self.known is None:
            together = self.taken is None and self.total * len(self.parts) <= _TOGETHER
            self.known = self._made() if together else {}
        if part in self.known:
            return self.known[part]
        cut = self.rows.cut(part, self.taken)
        where = self.number if cut.filled is None else self.number[cut.filled]
        return added([one.grouped(where, self.total) for one in self.power(cut)])

    def _made(self) -> dict[Part, Floats]:
        plain = self._plain()
        made = np.empty((len(plain), self.total))
        for place, one in enumerate(plain.values()):
            made[place] = np.bincount(self.number, weights=one.whole, minlength=self.total)
        made /= np.array([one.scale for one in plain.values()])[:, None]
        return dict(zip(plain, made, strict=True))

    def _plain(self) -> dict[Part, Slice]:
        """The parts of one slice, held by every row; kept with the rows."""
        key = (self.power.__name__, tuple(self.parts))
        if key not in self.rows.plain_parts:
            plain = self.rows.plain_parts[key] = {}
            for part in self.parts:
                if part.kind == "sum":
                    cut = self.rows.cut(part)
                    slices = self.power(cut)
                    if cut.filled is None and len(slices) == 1 and slices[0].exponent == 0:
                        plain[part] = slices[0]
        return self.rows.plain_parts[key]


def _sums(cut: Cut) -> tuple[Slice, ...]:
    return cut.sums


def _squares(cut: Cut) -> tuple[Slice, ...]:
    return cut.squares


def _distinct(rows: Rows, part: Part, number: Codes, cells: int, taken: npt.NDArray[np.intp] | None) -> BasePart:
    codes, size = _distinct_codes(rows, part)
    codes = codes if taken is None else codes[taken]
    filled = codes >= 0
    pairs = np.unique(number[filled].astype(np.int64) * (size + 1) + codes[filled])
    return BasePart(
        count=np.bincount(number[filled], minlength=cells).astype(np.float64),
        sums=(),
        squares=(),
        distinct=np.bincount(pairs // (size + 1), minlength=cells).astype(np.float64),
    )


def _distinct_codes(rows: Rows, part: Part) -> tuple[npt.NDArray[np.int64], int]:
    """A number for each row's value, −1 where it is missing."""
    if part.column:
        codes, labels = rows.table.codes(part.column)
        missing = len(labels) - 1 if labels and labels[-1] is None else len(labels)
        return np.where(codes == missing, -1, codes).astype(np.int64), len(labels)
    values = rows.values(part)
    found, places = np.unique(values, return_inverse=True)
    return np.where(np.isnan(values), -1, places).astype(np.int64), int(found.size)
