"""Hashes of cells: equal for equal cells, else spread evenly; the same on every machine."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
import numpy.typing as npt

from ..support.parallel import each

Hashes = npt.NDArray[np.uint64]

#: Rows hashed at a time, few enough to stay in the processor's cache.
_BLOCK = 1 << 16

_GOLDEN = 0x9E3779B97F4A7C15


def mixed(bits: npt.NDArray[Any], place: int) -> Hashes:
    """A 64-bit hash of each value (any array of 8-byte or smaller values), other for every `place`.

    The finalizer of splitmix64 (Steele, Lea and Flood, "Fast splittable pseudorandom number generators", 2014). Two
    different values collide once in 10^19.
    """
    out = np.empty(bits.size, dtype=np.uint64)
    add = np.uint64((place + 1) * _GOLDEN % 2**64)
    with np.errstate(over="ignore"):
        for start in range(0, bits.size, _BLOCK):
            block = bits[start : start + _BLOCK]
            if block.dtype == np.float64:
                block = (block + 0.0).view(np.uint64)  # + 0.0 makes a negative nought a nought
            z = block.astype(np.uint64)
            z += add
            z ^= z >> np.uint64(30)
            z *= np.uint64(0xBF58476D1CE4E5B9)
            z ^= z >> np.uint64(27)
            z *= np.uint64(0x94D049BB133111EB)
            z ^= z >> np.uint64(31)
            out[start : start + _BLOCK] = z
    return out


def row_hashes(columns: Sequence[Callable[[], Hashes]], rows: int) -> Hashes:
    """The sum of the hashes of some columns, each made when its turn comes; shape (rows,)."""
    total = np.zeros(rows, dtype=np.uint64)
    for start in range(0, len(columns), 2):
        for one in each(lambda column: column(), columns[start : start + 2], rows):
            total += one
    return total
