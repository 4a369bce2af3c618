"""Median slopes for trends, unmoved by a few wild values; periods that nobody knows (NaN) take no part."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from .autocorrelated_fits import Floats


def theil_sen(y: Floats) -> float:
    """Median of the slopes between all pairs (Theil 1950, Sen 1968), per period."""
    first, second = _pairs(y)
    return float(np.median((y[second] - y[first]) / (second - first))) if first.size else 0.0


def seasonal_slope(y: Floats, cycle: int) -> float:
    """Median slope between pairs whole cycles apart (Hirsch, Slack & Smith 1982), per period.

    No deseasonalised value takes part, so a plain SQL query gives it again.
    """
    first, second = _pairs(y)
    alike = (second - first) % cycle == 0
    if not alike.any():
        return theil_sen(y)
    return float(np.median((y[second] - y[first])[alike] / (second - first)[alike]))


def _pairs(y: Floats) -> tuple[npt.NDArray[np.intp], npt.NDArray[np.intp]]:
    """The places of all pairs of known values, the earlier first."""
    known = np.flatnonzero(np.isfinite(y))
    first, second = np.triu_indices(known.size, 1)
    return known[first], known[second]


def slope_interval(y: Floats, cycle: int, error: float, df: int) -> tuple[float, float]:
    """A 95% interval around the median slope, with the error of the autocorrelation-adjusted fit."""
    from scipy.special import stdtrit

    centre = seasonal_slope(y, cycle) if cycle > 1 else theil_sen(y)
    half = float(stdtrit(df, 0.975)) * error
    return centre - half, centre + half
