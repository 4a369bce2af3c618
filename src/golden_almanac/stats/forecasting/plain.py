"""The plain forecasts that others must beat: the mean, the last value, the last season, the drift."""

from __future__ import annotations

import numpy as np

from .origins import Floats, Origins


def mean(series: Floats, origins: Origins) -> Floats:
    """The mean of what an origin knows, shape (series, origins, horizon)."""
    sums = np.cumsum(series, axis=1)
    means = sums[:, origins.ends - 1] / origins.ends
    return np.repeat(means[:, :, None], origins.horizon, axis=2)


def last(series: Floats, origins: Origins) -> Floats:
    """The last value."""
    return np.repeat(series[:, origins.ends - 1, None], origins.horizon, axis=2)


def last_season(series: Floats, origins: Origins) -> Floats:
    """The same period of the last season; the last value where there is none."""
    if origins.season <= 1 or origins.ends[0] < origins.season:
        return last(series, origins)
    ahead = np.arange(origins.horizon) % origins.season
    made: Floats = series[:, origins.ends[:, None] - origins.season + ahead]
    return made


def drift(series: Floats, origins: Origins) -> Floats:
    """The last value and the average move from the first to it."""
    ends = origins.ends
    step = (series[:, ends - 1] - series[:, :1]) / np.maximum(ends - 1, 1)
    ahead = np.arange(1, origins.horizon + 1)
    made: Floats = series[:, ends - 1, None] + step[:, :, None] * ahead
    return made
