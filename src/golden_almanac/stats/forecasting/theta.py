"""The theta method and its optimised form: the line through the series, and a series bent away from it, smoothed.

Assimakopoulos & Nikolopoulos (2000); Hyndman & Billah (2003); Fiorucci et al. (2016), whose theta is chosen by how well
the sum of both foretells a step.
"""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from .origins import Floats, Origins
from .seasons import Seasons, restored, without

_ALPHAS = np.array([0.05, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 0.98])
_THETAS = np.array([1.0, 1.5, 2.0, 3.0, 5.0])


class Thetas(NamedTuple):
    """Paths of the plain method and of the optimised one, shape (series, origins, horizon)."""

    plain: Floats
    optimised: Floats


def theta(series: Floats, origins: Origins, season: Seasons) -> Thetas:
    """Both methods at every origin, the season taken out before and put back after."""
    known = np.stack([without(series, season, place) for place in range(origins.count)], axis=1)
    inside = np.arange(series.shape[1]) < origins.ends[:, None]
    middle = (origins.ends - 1) / 2
    along = np.where(inside, np.arange(series.shape[1]) - middle[:, None], 0.0)
    mean = np.where(inside, known, 0.0).sum(axis=2) / origins.ends
    slope = (known * along).sum(axis=2) / np.maximum((along**2).sum(axis=1), 1e-12)
    line = mean[:, :, None] + slope[:, :, None] * (np.arange(series.shape[1]) - middle[:, None])
    level, level_of_line, squares, plain_squares = _smoothed(known, line, inside)
    ahead = np.arange(1, origins.horizon + 1)
    beyond = mean[:, :, None] + slope[:, :, None] * (middle[:, None] + ahead)
    flat = squares.reshape(*squares.shape[:2], -1).argmin(axis=2)
    which, alpha = np.divmod(flat, _ALPHAS.size)
    share = 1 / _THETAS[which]
    bent = _of(level, alpha) + (share - 1) * _of(level_of_line, alpha)
    optimised = (1 - share)[:, :, None] * beyond + bent[:, :, None]
    best = plain_squares.argmin(axis=2)
    # The level of a smoothed line lags behind it; half the slope is its drift.
    weight = _ALPHAS[best]
    lag = (1 - (1 - weight) ** origins.ends) / weight
    plain = _of(level, best)[:, :, None] + 0.5 * slope[:, :, None] * (ahead - 1 + lag[:, :, None])
    return Thetas(restored(plain, season, origins), restored(optimised, season, origins))


def _of(levels: Floats, alpha: npt.NDArray[Any]) -> Floats:
    made: Floats = np.take_along_axis(levels, alpha[:, :, None], axis=2)[:, :, 0]
    return made


def _smoothed(known: Floats, line: Floats, inside: npt.NDArray[Any]) -> tuple[Floats, Floats, Floats, Floats]:
    """The series and its line smoothed with every alpha: both levels at each origin, shape (series, origins, alphas);
    the squared errors of a step of the sum with every theta, shape (series, origins, thetas, alphas), and of the series
    by itself. Smoothing is linear: the bent series needs no pass of its own."""
    level = np.repeat(known[:, :, :1], _ALPHAS.size, axis=2)
    other = np.repeat(line[:, :, :1], _ALPHAS.size, axis=2)
    share = (1 / _THETAS)[:, None]
    squares = np.zeros((*known.shape[:2], _THETAS.size, _ALPHAS.size))
    alone = np.zeros_like(level)
    for place in range(known.shape[2]):
        own = inside[:, place, None]
        value, straight = known[:, :, place, None], line[:, :, place, None]
        if place > 1:
            told = (1 - share) * straight[:, :, None] + level[:, :, None] + (share - 1) * other[:, :, None]
            squares += np.where(own[None, :, None], value[:, :, None] - told, 0.0) ** 2
            alone += np.where(own[None], value - level, 0.0) ** 2
        level = np.where(own[None], level + _ALPHAS * (value - level), level)
        other = np.where(own[None], other + _ALPHAS * (straight - other), other)
    return level, other, squares, alone
