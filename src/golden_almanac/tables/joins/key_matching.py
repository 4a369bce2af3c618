"""Keys of two tables, matched: where in the right table each row of the left finds its key."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from ...engine import arrow_arrays
from .. import Table

Places = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Match:
    """`left` and `right` number the keys of the rows alike, -1 for a row without a key; `keys` how many numbers."""

    left: Places
    right: Places
    keys: int

    def counts(self) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
        """Rows of each key, left and right."""
        return (
            np.bincount(self.left[self.left >= 0], minlength=self.keys),
            np.bincount(self.right[self.right >= 0], minlength=self.keys),
        )


def match(left: Table, right: Table, left_on: tuple[str, ...], right_on: tuple[str, ...]) -> Match:
    """The rows of both tables numbered by their key; equal numbers are equal keys. Rows that lack a part have none."""
    numbers: list[tuple[Places, Places, int]] = []
    for a, b in zip(left_on, right_on, strict=True):
        numbers.append(_numbered(left.arrow.column(a), right.arrow.column(b)))
    one, other, size = numbers[0]
    for a_more, b_more, more in numbers[1:]:
        both = np.concatenate(
            [
                np.where((one < 0) | (a_more < 0), -1, one * more + a_more),
                np.where((other < 0) | (b_more < 0), -1, other * more + b_more),
            ]
        )
        found, placed = np.unique(both, return_inverse=True)
        placed = placed - int(found.size > 0 and found[0] == -1)
        one, other, size = placed[: one.size], placed[one.size :], int(found.size)
    return Match(left=one.astype(np.int64), right=other.astype(np.int64), keys=max(size, 1))


def comparable(left: Any, right: Any) -> bool:
    """Whether two columns' types can hold the same keys."""
    kinds = {("text", "text"), ("number", "number"), ("date", "date"), ("datetime", "datetime")}
    return (left.type, right.type) in kinds


def _numbered(left: Any, right: Any) -> tuple[Places, Places, int]:
    import pyarrow as pa
    import pyarrow.compute as pc

    left, right = _plain(left), _plain(right)
    if left.type != right.type:
        numeric = all(pa.types.is_integer(c.type) or pa.types.is_floating(c.type) for c in (left, right))
        wanted = pa.float64() if numeric else pa.string()
        left, right = left.cast(wanted), right.cast(wanted)
    values = pc.unique(pa.chunked_array([*left.chunks, *right.chunks])).drop_null()
    one = arrow_arrays.wholes(pc.index_in(left, value_set=values), -1).astype(np.int64)
    other = arrow_arrays.wholes(pc.index_in(right, value_set=values), -1).astype(np.int64)
    return one, other, len(values)


def _plain(column: Any) -> Any:
    import pyarrow as pa

    if pa.types.is_dictionary(column.type):
        column = column.cast(column.type.value_type)
    return column if isinstance(column, pa.ChunkedArray) else pa.chunked_array([column])
