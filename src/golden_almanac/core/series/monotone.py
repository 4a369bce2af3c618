"""Rank tests and median slopes for trends, unmoved by a few wild values."""

from __future__ import annotations

import numpy as np

from .regression import Floats


def mann_kendall(y: Floats) -> tuple[float, float]:
    """Kendall's S and its two-sided p-value, with ties and autocorrelation allowed for.

    Mann (1945), Kendall (1975); the variance is inflated for autocorrelated ranks by Hamed & Rao
    (1998), with all lags up to n/4 whose rank autocorrelation is significant at 10%; it is never deflated.
    """
    from scipy.special import ndtr

    n = y.size
    if n < 4:
        return 0.0, 1.0
    upper = np.triu_indices(n, 1)
    s = float(np.sign(y[upper[1]] - y[upper[0]]).sum())
    _, ties = np.unique(y, return_counts=True)
    variance = (n * (n - 1) * (2 * n + 5) - np.sum(ties * (ties - 1.0) * (2 * ties + 5))) / 18.0
    if variance <= 0:
        return s, 1.0
    variance *= max(1.0, _hamed_rao(y))
    z = (abs(s) - 1) / np.sqrt(variance) if s else 0.0
    return s, float(min(1.0, 2 * ndtr(-z)))


def _hamed_rao(y: Floats) -> float:
    """Factor n/n* by which autocorrelation inflates the variance of S."""
    n = y.size
    rest = y - theil_sen(y) * np.arange(n)
    ranks = np.argsort(np.argsort(rest, kind="stable"), kind="stable").astype(np.float64)
    ranks -= ranks.mean()
    spread = float(ranks @ ranks)
    lags = np.arange(1, max(2, n // 4 + 1))
    rho = np.array([float(ranks[lag:] @ ranks[:-lag]) / spread for lag in lags])
    kept = np.abs(rho) > 1.645 / np.sqrt(n)
    weight = (n - lags) * (n - lags - 1.0) * (n - lags - 2.0)
    return float(1 + 2.0 / (n * (n - 1.0) * (n - 2.0)) * np.sum(weight * rho * kept))


def theil_sen(y: Floats) -> float:
    """Median of the slopes between all pairs (Theil 1950, Sen 1968), per period."""
    n = y.size
    first, second = np.triu_indices(n, 1)
    return float(np.median((y[second] - y[first]) / (second - first))) if n > 1 else 0.0


def seasonal_slope(y: Floats, cycle: int) -> float:
    """Median slope between pairs whole cycles apart (Hirsch, Slack & Smith 1982), per period.

    No deseasonalised value takes part, so a plain SQL query gives it again.
    """
    n = y.size
    first, second = np.triu_indices(n, 1)
    alike = (second - first) % cycle == 0
    if not alike.any():
        return theil_sen(y)
    return float(np.median((y[second] - y[first])[alike] / (second - first)[alike]))


def slope_interval(y: Floats, cycle: int, error: float, df: int) -> tuple[float, float]:
    """A 95% interval around the median slope, with the error of the autocorrelation-adjusted fit."""
    from scipy.special import stdtrit

    centre = seasonal_slope(y, cycle) if cycle > 1 else theil_sen(y)
    half = float(stdtrit(df, 0.975)) * error
    return centre - half, centre + half
