"""A level with parts of the calendar: the places of a short season, waves of a long one, and days known beforehand.

For daily and weekly series, which have two seasons at once: least squares on seasonal dummies, Fourier terms of the
year and given columns (holidays, events); what is left over is smoothed, so that the level may wander.
"""

from __future__ import annotations

import numpy as np

from .origins import Floats, Origins

_ALPHAS = np.array([0.0, 0.03, 0.1, 0.25, 0.5, 0.8])
_WAVES = 3
_RIDGE = 1e-4


def calendar_regression(series: Floats, origins: Origins, long_season: float | None, known: Floats | None) -> Floats:
    """Forecasts of every origin, shape (series, origins, horizon). `known` are columns that are known for the horizon
    as well, shape (periods + horizon, columns). In logarithms where all values are above nought."""
    factor = bool((series > 0).all())
    values = np.log(series) if factor else series
    design = _design(origins, long_season, known)
    made = np.empty((series.shape[0], origins.count, origins.horizon))
    for place, end in enumerate(origins.ends):
        own = design[:end]
        cross = own.T @ own
        cross[np.diag_indices_from(cross)] += _RIDGE * np.maximum(np.diag(cross), 1e-9)
        weights = np.linalg.solve(cross, own.T @ values[:, :end].T)
        left = values[:, :end] - (own @ weights).T
        ahead = (design[end : end + origins.horizon] @ weights).T
        made[:, place] = ahead + _level(left)[:, None]
    return np.exp(np.clip(made, None, 700)) if factor else made


def _design(origins: Origins, long_season: float | None, known: Floats | None) -> Floats:
    size = origins.size + origins.horizon
    along = np.arange(size)
    parts = [np.ones(size)]
    if origins.season > 1:
        parts += [(along % origins.season == place) * 1.0 for place in range(1, origins.season)]
    if long_season is not None and origins.ends[0] >= long_season:
        for wave in range(1, _WAVES + 1):
            angle = 2 * np.pi * wave * along / long_season
            parts += [np.sin(angle), np.cos(angle)]
    columns = np.stack(parts, axis=1)
    return columns if known is None else np.concatenate([columns, known], axis=1)


def _level(left: Floats) -> Floats:
    """The level of what is left over at its end, smoothed by the weight that foretells a step best."""
    level = np.zeros((left.shape[0], _ALPHAS.size))
    squares = np.zeros_like(level)
    for place in range(left.shape[1]):
        error = left[:, place, None] - level
        squares += error * error
        level = level + _ALPHAS * error
    made: Floats = np.take_along_axis(level, squares.argmin(axis=1)[:, None], axis=1)[:, 0]
    return made
