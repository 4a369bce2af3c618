"""The number that a person sees beside each row of a text file with blank lines among its rows."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterable
from typing import Any

import numpy as np
import numpy.typing as npt

#: Bytes of a file whose records are counted one by one.
_MOST = 50_000_000


def beside_blank_lines(
    data: bytes, skip: int, rows: int, records: Callable[[Any], Iterable[list[str]]]
) -> npt.NDArray[np.int64] | None:
    """The numbers of the rows below the first `skip` lines; None where no line is blank, and they simply go on.

    Blank lines are passed over by whoever reads a table, and counted by whoever looks for row 29 in the file. `records`
    parts a text into its rows, blank ones too, where line breaks stand within quotes.
    """
    if b"\n\n" not in data and b"\n\r\n" not in data:
        return None
    letters = np.frombuffer(data, dtype=np.uint8)
    ends = np.append(np.flatnonzero(letters == ord("\n")), letters.size)
    starts = np.concatenate([[0], ends[:-1] + 1])
    long = ends - starts
    first = letters[np.minimum(starts, letters.size - 1)]
    numbers = np.flatnonzero((long > 1) | ((long == 1) & (first != ord("\r")))) + 1
    numbers = numbers[numbers > skip]
    if numbers.size != rows and len(data) <= _MOST:
        # Line breaks within quotes: a spreadsheet gives such a row one number.
        text = io.StringIO(data.decode("utf-8", "replace"))
        numbers = np.array([place for place, cells in enumerate(records(text), start=1) if cells and place > skip])
    return numbers.astype(np.int64) if numbers.size == rows else None
