"""Sums that come out the same, bit by bit, whatever the order of the rows or the number of threads.

Business amounts have few decimals. Held as whole multiples of their last decimal, their sums are exact in doubles
up to 2**53. Columns without a last decimal are cut into slices of so few bits that the sums of each slice are
exact too, from the top down until nothing is left (extraction of Rump, Ogita and Oishi, "Accurate floating-point
summation", 2008; reproducible in the sense of Demmel and Nguyen, 2013).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]

MOST_DECIMALS = 4
EXACT = 2.0**53
_BITS = 52
#: The last exponent of a double.
LEAST_EXPONENT = -1074


@dataclass(frozen=True, slots=True, eq=False)
class Slice:
    """Whole numbers that stand for `whole` / `scale` · 2**`exponent`; any sum of them is exact."""

    whole: Floats
    scale: float = 1.0
    exponent: int = 0

    def value(self) -> Floats:
        return np.asarray(np.ldexp(self.whole / self.scale, self.exponent))

    def grouped(self, codes: npt.NDArray[np.integer], size: int) -> Slice:
        """Sums per code in 0 … size−1."""
        sums = np.asarray(np.bincount(codes, weights=self.whole, minlength=size)[:size], dtype=np.float64)
        return Slice(sums, self.scale, self.exponent)


def slices(values: Floats, most: int = 70) -> list[Slice]:
    """The values (no NaN) as slices that add up to them exactly; at most `most`, the coarsest first."""
    if values.size == 0:
        return [Slice(values)]
    decimal = _decimal(values, values.size)
    if decimal is not None or not np.isfinite(values).all():
        return [decimal or Slice(values)]
    bits = _BITS - int(np.ceil(np.log2(values.size + 1)))
    slices: list[Slice] = []
    rest = values
    while len(slices) < most and (largest := float(np.max(np.abs(rest)))) > 0:
        exponent = max(int(np.frexp(largest)[1]) - bits, LEAST_EXPONENT)
        whole = np.rint(np.ldexp(rest, -exponent))
        slices.append(Slice(whole, 1.0, exponent))
        rest = rest - np.ldexp(whole, exponent)
    return slices or [Slice(values)]


def added(parts: Sequence[Slice]) -> Floats:
    """The sum of slices, rounded once: what rounding loses is added again, as often as there are slices (Ogita, Rump
    and Oishi, "Accurate sum and dot product", 2005)."""
    scale = parts[0].scale
    if len(parts) > 1 and scale != 1:
        # The whole numbers are put together before they are divided, so that rounding happens once more only.
        return np.asarray(added([Slice(part.whole, 1.0, part.exponent) for part in parts]) / scale)
    terms = [part.value() for part in reversed(parts)]
    for _ in range(len(terms) - 1):
        for place in range(1, len(terms)):
            small, large = terms[place - 1], terms[place]
            total = small + large
            kept = total - small
            terms[place - 1] = (small - (total - kept)) + (large - kept)
            terms[place] = total
    total = terms[0]
    for term in terms[1:]:
        total = total + term
    return total


def _decimal(values: Floats, count: int) -> Slice | None:
    """The values as whole multiples of a power of ten, if they are and any sum of `count` of them is exact."""
    if values.size == 0:
        return Slice(values)
    largest = float(np.max(np.abs(values)))
    for decimals in range(MOST_DECIMALS + 1):
        scale = 10.0**decimals
        if not largest * scale * count < EXACT:
            break
        # Most columns show in a few values that they have more decimals.
        some = values[:: max(1, values.size // 64)]
        if not np.array_equal(np.rint(some * scale) / scale, some):
            continue
        whole = np.rint(values * scale)
        if np.array_equal(whole / scale, values):
            return Slice(whole, scale)
    return None
