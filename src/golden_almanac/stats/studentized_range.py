"""The studentised range: how far the largest of k means lies from the smallest, in standard errors, by chance."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
#: Quantiles are looked for up to here.
_MOST = 200.0


@lru_cache(maxsize=4)
def _nodes(count: int) -> tuple[Floats, Floats]:
    nodes, weights = np.polynomial.legendre.leggauss(count)
    return nodes, weights


def range_p(q: float, k: int, df: float) -> float:
    """Upper tail of the studentised range for k means and df degrees of freedom, by Gauss–Legendre quadrature of its
    double integral (Copenhaver & Holland 1988)."""
    from scipy.special import gammaln, ndtr

    if q <= 0:
        return 1.0
    nodes, weights = _nodes(160)
    z = 9.0 * nodes

    def within(widths: Floats) -> Floats:
        """P(range of k standard normals < width), for several widths."""
        phi = np.exp(-z * z / 2) / np.sqrt(2 * np.pi)
        inner = ndtr(z)[:, None] - ndtr(z[:, None] - widths[None, :])
        return np.asarray(k * 9.0 * (weights * phi) @ inner ** (k - 1))

    if df > 1e5:
        return float(np.clip(1 - within(np.array([q]))[0], 0.0, 1.0))
    # s = chi / sqrt(df), within nine of its standard deviations.
    spread = 1 / np.sqrt(2 * df)
    low, high = max(1e-10, 1 - 9 * spread), 1 + 9 * spread + 8 / df
    s = (high - low) / 2 * nodes + (high + low) / 2
    density = np.exp(np.log(2) + df / 2 * np.log(df / 2) - gammaln(df / 2) + (df - 1) * np.log(s) - df * s * s / 2)
    below = float((high - low) / 2 * np.sum(weights * density * within(q * s)))
    return float(np.clip(1 - below, 0.0, 1.0))


def range_quantile(p: float, k: int, df: float) -> float:
    """The q whose upper tail is p, 200 at most, by false position on the logarithm of the tail (the Illinois form;
    Dowell & Jarratt 1971)."""

    def above(q: float) -> float:
        return float(np.log(max(range_p(q, k, df), 1e-300) / p))

    low, high, at_low, at_high = 0.0, 4.0, above(0.0), above(4.0)
    while at_high > 0 and high < _MOST:
        low, at_low, high = high, at_high, 2 * high
        at_high = above(high)
    if at_high > 0:
        return _MOST
    middle, moved = high, 0
    for _ in range(60):
        middle = (low * at_high - high * at_low) / (at_high - at_low)
        here = above(middle)
        if abs(here) < 1e-12 or high - low < 1e-9:
            break
        # An end that stays twice counts half.
        if here > 0:
            low, at_low, at_high = middle, here, at_high / (2 if moved > 0 else 1)
        else:
            high, at_high, at_low = middle, here, at_low / (2 if moved < 0 else 1)
        moved = 1 if here > 0 else -1
    return min(middle, _MOST)
