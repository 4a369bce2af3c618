"""The season of what an origin knows: whether there is one, and its indices (classical decomposition)."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt
from scipy.special import fdtri

from .origins import Floats, Origins

#: The chance below which places of a season are taken to differ.
_CHANCE = 0.05
_LEAST = 0.01


class Seasons(NamedTuple):
    """Of each series and origin: whether it has a season and whether that is a factor, shape (series, origins); its
    indices by place in the season, shape (series, origins, season)."""

    has: npt.NDArray[np.bool_]
    factor: npt.NDArray[np.bool_]
    indices: Floats


def seasons(series: Floats, origins: Origins) -> Seasons:
    """The season that each origin sees in the periods it knows."""
    count, m = series.shape[0], origins.season
    factor: npt.NDArray[np.bool_] = np.asarray((series > 0).all(axis=1))
    index = np.where(factor[:, None, None], 1.0, 0.0) * np.ones((count, origins.count, max(m, 1)))
    has = np.zeros((count, origins.count), dtype=bool)
    if m <= 1:
        return Seasons(has, np.broadcast_to(factor[:, None], has.shape), index)
    for place, end in enumerate(origins.ends):
        if end < 2 * m + 4:
            continue
        known = series[:, :end]
        has[:, place] = _is_seasonal(known, m)
        if has[:, place].any():
            index[:, place] = _indices(known, m, factor)
    keep = has[:, :, None]
    index = np.where(keep, index, np.where(factor[:, None, None], 1.0, 0.0))
    return Seasons(has, np.broadcast_to(factor[:, None], has.shape), index)


def _is_seasonal(known: Floats, m: int) -> npt.NDArray[np.bool_]:
    """Whether the places of the season differ by more than chance makes: an analysis of variance of what is left beside
    the moving average of a season."""
    apart, place = _apart(known, m, np.zeros(known.shape[0], dtype=bool))
    size = apart.shape[1]
    means = np.stack([apart[:, place == k].mean(axis=1) for k in range(m)], axis=1)
    counts = np.array([(place == k).sum() for k in range(m)])
    grand = apart.mean(axis=1, keepdims=True)
    between = (counts * (means - grand) ** 2).sum(axis=1) / (m - 1)
    within = ((apart - means[:, place]) ** 2).sum(axis=1) / max(1, size - m)
    found: npt.NDArray[np.bool_] = between > fdtri(m - 1, max(1, size - m), 1 - _CHANCE) * np.maximum(within, 1e-300)
    return found


def _apart(known: Floats, m: int, factor: npt.NDArray[np.bool_]) -> tuple[Floats, npt.NDArray[np.intp]]:
    """What lies beside the moving average of a whole season, as a sum or a factor, and its places in the season."""
    size = known.shape[1]
    weights = np.ones(m + 1 - m % 2) if m % 2 else np.concatenate(([0.5], np.ones(m - 1), [0.5]))
    weights = weights / weights.sum()
    half = weights.size // 2
    trend = np.lib.stride_tricks.sliding_window_view(known, weights.size, axis=1) @ weights
    middle = known[:, half : size - half]
    safe = np.where(np.abs(trend) > 1e-12, trend, 1.0)
    apart = np.where(factor[:, None], middle / safe, middle - trend)
    return apart, np.arange(half, size - half) % m


def _indices(known: Floats, m: int, factor: npt.NDArray[np.bool_]) -> Floats:
    """Indices from the moving average of a whole season, recent seasons alike to old ones."""
    apart, place = _apart(known, m, factor)
    made = np.stack(
        [
            np.median(apart[:, place == k], axis=1) if (place == k).sum() > 4 else apart[:, place == k].mean(axis=1)
            for k in range(m)
        ],
        axis=1,
    )
    level = made.mean(axis=1, keepdims=True)
    return np.where(factor[:, None], np.maximum(made / np.where(level != 0, level, 1.0), _LEAST), made - level)


def without(series: Floats, found: Seasons, place: int) -> Floats:
    """The series as an origin sees it without its season, shape (series, periods)."""
    size, m = series.shape[1], found.indices.shape[2]
    own = found.indices[:, place, np.arange(size) % m]
    factor = found.factor[:, place, None]
    made: Floats = np.where(factor, series / np.where(factor, own, 1.0), series - own)
    return made


def restored(paths: Floats, found: Seasons, origins: Origins) -> Floats:
    """Paths with their season put back."""
    m = found.indices.shape[2]
    ahead = (origins.ends[:, None] + np.arange(origins.horizon)) % m
    own = np.take_along_axis(found.indices, np.broadcast_to(ahead, (paths.shape[0], *ahead.shape)), axis=2)
    made: Floats = np.where(found.factor[:, :, None], paths * own, paths + own)
    return made
