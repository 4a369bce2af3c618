"""A look at some rows of a column: enough to tell what it means, and cheap in a long table."""

from __future__ import annotations

from typing import Any

import numpy as np
import numpy.typing as npt

from ...engine import arrow_arrays
from .. import Table

#: Rows looked at.
ROWS = 5000


def numbers(table: Table, name: str) -> npt.NDArray[np.float64]:
    """A column of numbers, missing as NaN."""
    return arrow_arrays.floats(_taken(table, name))


def mostly_something(table: Table, name: str) -> bool:
    """Whether at least half of the rows that have a number have another one than nought."""
    known = numbers(table, name)
    known = known[np.isfinite(known)]
    return bool(known.size and np.count_nonzero(known) >= 0.5 * known.size)


def days(table: Table, name: str) -> npt.NDArray[np.datetime64]:
    """A column of dates as days, missing as NaT."""
    return arrow_arrays.days(_taken(table, name))


def minutes(table: Table, name: str) -> npt.NDArray[np.float64]:
    """A column of dates or moments as minutes since 1970, missing as NaN."""
    import pyarrow as pa

    whole = arrow_arrays.wholes(_taken(table, name).cast(pa.timestamp("us")), np.iinfo(np.int64).min)
    return np.where(whole == np.iinfo(np.int64).min, np.nan, whole / 6e7)


def labels(table: Table, name: str) -> list[str | None]:
    """A column of labels."""
    return [None if value is None else str(value) for value in _taken(table, name).to_pylist()]


def codes(table: Table, name: str) -> npt.NDArray[np.int64]:
    """A number for each label of a column, a missing one among them."""
    held = _taken(table, name)
    held = held if hasattr(held, "indices") else held.dictionary_encode(null_encoding="encode")
    return np.asarray(arrow_arrays.wholes(held.indices, -1), dtype=np.int64) + 1


def _taken(table: Table, name: str) -> Any:
    import pyarrow as pa

    if not table.store.abilities.in_order:
        # A pass over a long table would cost more than the answer is worth.
        if ("glimpse",) not in table._cache:
            table._cache[("glimpse",)] = table.store.first(ROWS)
        column = table._cache[("glimpse",)].column(name)
        step = 1
    else:
        column = table.arrow.column(name)
        step = max(1, table.rows // ROWS)
    taken = column if step == 1 else column.take(arrow_arrays.column(np.arange(0, table.rows, step)))
    return taken.combine_chunks() if isinstance(taken, pa.ChunkedArray) else taken
