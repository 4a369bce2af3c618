"""Sums that come out the same whatever the order of the rows.

Business amounts have few decimals. Held as whole multiples of their last decimal, their sums are
exact in doubles up to 2**53, so neither the order of rows nor the number of threads can change a
bit of them. Only columns without a last decimal are added as they stand, in the order of the rows.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

_MOST_DECIMALS = 4
_EXACT = 2.0**53


def scaled(values: npt.NDArray[np.float64]) -> tuple[npt.NDArray[np.float64], float]:
    """The values as whole multiples of 1/scale, and that scale; (values, 1) where there is none.

    `values` holds no NaN.
    """
    if values.size == 0:
        return values, 1.0
    largest = float(np.max(np.abs(values)))
    for decimals in range(_MOST_DECIMALS + 1):
        scale = 10.0**decimals
        if not largest * scale * values.size < _EXACT:
            break
        whole = np.rint(values * scale)
        if np.array_equal(whole / scale, values):
            return whole, scale
    return values, 1.0


def grouped_sum(codes: npt.NDArray[np.intp], values: npt.NDArray[np.float64], size: int) -> npt.NDArray[np.float64]:
    """Sum of `values` (no NaN) per code in 0 … size−1; shape (size,)."""
    whole, scale = scaled(values)
    return np.asarray(np.bincount(codes, weights=whole, minlength=size)[:size] / scale)
