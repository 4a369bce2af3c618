"""Friedman's test over blocks, with the F of Iman and Davenport.

Friedman, "The use of ranks to avoid the assumption of normality", JASA 32 (1937); Iman and Davenport, "Approximations
of the critical region of the Friedman statistic", Communications in Statistics A9 (1980).
"""

from __future__ import annotations

import numpy as np

from .autocorrelated_fits import Floats


def friedman(values: Floats) -> tuple[float, float]:
    """F and p that no place of a cycle ranks higher than another; `values` of shape (blocks, places), no NaN."""
    from scipy.special import fdtrc

    b, k = values.shape
    if b < 2 or k < 2:
        return 0.0, 1.0
    ranks = _ranks(values)
    centred = ranks - (k + 1) / 2
    total = float((centred**2).sum())
    between = b * float((centred.mean(axis=0) ** 2).sum())
    left = total - between
    if total <= 0:
        return 0.0, 1.0
    df = (k - 1, (b - 1) * (k - 1))
    if left <= 1e-12 * total:
        return float("inf"), 0.0
    f = between / df[0] / (left / df[1])
    return f, float(fdtrc(*df, f))


def _ranks(values: Floats) -> Floats:
    """Ranks from 1 within each block, equal values sharing their middle rank; of the shape of `values`."""
    ranks = np.full(values.shape, 0.5)
    for place in range(values.shape[1]):
        other = values[:, place : place + 1]
        ranks += (values > other) + 0.5 * (values == other)
    return ranks
