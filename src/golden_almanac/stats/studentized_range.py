"""The studentised range: how far the largest of k means lies from the smallest, in standard errors, by chance."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]


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
    """The q whose upper tail is p, by halving."""
    low, high = 0.0, 200.0
    for _ in range(60):
        middle = (low + high) / 2
        low, high = (middle, high) if range_p(middle, k, df) > p else (low, middle)
    return (low + high) / 2
