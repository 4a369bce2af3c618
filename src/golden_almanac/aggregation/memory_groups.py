"""Groups of rows held in memory: one pass of cell numbers, the columns on all processors."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from ..support.parallel import each
from .exact_sums import slices
from .magnitude_limits import check_size
from .measures import Part
from .rollup import SQUARE_SLICES, Base, BasePart, Codes, extreme, numbered
from .row_codes import Rows
from .row_filter import Only


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
        values = rows.values(part)
        values = values if taken is None else values[taken]
        filled = ~np.isnan(values)
        every = bool(filled.all())
        where, what = (number, values) if every else (number[filled], values[filled])
        check_size(part.sql, float(np.max(np.abs(what), initial=0.0)), int(what.size))
        with np.errstate(over="ignore"):
            squares = what * what
        return BasePart(
            count=np.bincount(where, minlength=cells).astype(np.float64),
            sums=tuple(slice_.grouped(where, cells) for slice_ in slices(what)),
            squares=tuple(slice_.grouped(where, cells) for slice_ in slices(squares, SQUARE_SLICES)),
            low=extreme(np.minimum, where, what, cells) if part.kind == "min" else None,
            high=extreme(np.maximum, where, what, cells) if part.kind == "max" else None,
        )

    return Base(
        codes=dict(zip(keys, held, strict=True)),
        sizes={key: count for key, (_, count) in zip(keys, coded, strict=True)},
        rows=np.bincount(number, minlength=cells).astype(np.float64),
        parts=dict(zip(parts, each(made, parts, size), strict=True)),
    )


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
