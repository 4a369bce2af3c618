"""Autoregression: on the values, on their changes, on changes from the season before; the lags chosen by AICc.

The products that least squares need are running sums along the series: one pass serves all origins.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from .origins import Floats, Origins

_MOST_LAGS = 4
#: Weights of lags are drawn towards nought by so much: an unstable fit must not run away.
_RIDGE = 1e-3


def on_values(series: Floats, origins: Origins) -> Floats:
    """Autoregression around a mean, shape (series, origins, horizon)."""
    return _all(series, origins, 0)


def on_changes(series: Floats, origins: Origins) -> Floats:
    """Autoregression of the changes from period to period."""
    return _all(series, origins, 1)


def on_seasonal_changes(series: Floats, origins: Origins) -> Floats:
    """Autoregression of the changes from the same period of the season before, with their drift."""
    return _all(series, origins, origins.season)


def _all(series: Floats, origins: Origins, back: int) -> Floats:
    sizes = origins.ends - back
    # In a unit of its own, what is drawn towards nought does not hang on that of the series.
    first = series[:, : origins.ends[0]]
    unit = np.maximum(
        first.std(axis=1, keepdims=True), 1e-9 * np.maximum(np.abs(first).max(axis=1, keepdims=True), 1e-290)
    )
    series = series / unit
    moved = series[:, back:] - series[:, :-back] if back else series
    seasonal = origins.season if origins.season > 1 and sizes[0] >= 2 * origins.season + 4 else 0
    most = max(1, min(_MOST_LAGS, int(sizes[0]) // 5))
    lags = [*range(1, most + 1), *([seasonal] if seasonal > most else [])]
    begin = max(lags)
    # The drift, the lags, and what is to be explained: their products summed up to each origin.
    parts = [np.ones_like(moved[:, begin:]), *(moved[:, begin - lag : moved.shape[1] - lag] for lag in lags)]
    columns = np.stack([*parts, moved[:, begin:]], axis=2)
    products = np.cumsum(columns[:, :, :, None] * columns[:, :, None, :], axis=1)[:, sizes - begin - 1]
    best = np.full((series.shape[0], origins.count), np.inf)
    made = np.empty((series.shape[0], origins.count, origins.horizon))
    for used in _sets(most, len(lags)):
        weights, score = _fit(products, [0, *used], sizes - begin)
        better = score < best - 1e-9
        if better.any():
            path = _paths(series, moved, [lags[place - 1] for place in used], weights, origins, back)
            made = np.where(better[:, :, None], path, made)
            best = np.where(better, score, best)
    scaled: Floats = made * unit[:, :, None]
    return scaled


def _sets(most: int, count: int) -> list[list[int]]:
    """Sets of lags to try: the first so many, with that of the season and without."""
    plain = [list(range(1, size + 1)) for size in range(most + 1)]
    return plain + [[*one, count] for one in plain] if count > most else plain


def _fit(products: Floats, used: list[int], rows: npt.NDArray[np.intp]) -> tuple[Floats, Floats]:
    """Weights, the constant first, shape (series, origins, 1 + lags), and their AICc, shape (series, origins)."""
    cross = products[:, :, used][:, :, :, used]
    wanted = products[:, :, used, -1]
    spread = np.maximum(np.trace(cross, axis1=2, axis2=3) / len(used), 1e-12)
    own = np.arange(len(used))
    steady = cross.copy()
    steady[:, :, own, own] += 1e-9 * spread[:, :, None]
    steady[:, :, own[1:], own[1:]] *= 1 + _RIDGE
    weights: Floats = np.asarray(np.linalg.solve(steady, wanted[..., None])[..., 0], dtype=np.float64)
    fitted = np.einsum("soi,soij,soj->so", weights, cross, weights) - 2 * np.einsum("soi,soi->so", weights, wanted)
    left = np.maximum(products[:, :, -1, -1] + fitted, 1e-12 * np.maximum(products[:, :, -1, -1], 1e-300))
    count = len(used) + 1
    room = np.maximum(rows - count - 1, 0.5)
    score: Floats = rows * np.log(left / rows) + 2 * count + 2 * count * (count + 1) / room
    return weights, score


def _paths(series: Floats, moved: Floats, lags: list[int], weights: Floats, origins: Origins, back: int) -> Floats:
    """The paths of all origins, shape (series, origins, horizon)."""
    sizes = origins.ends - back
    deep = max([*lags, 1])
    place = sizes[:, None] - deep + np.arange(deep)
    window = np.concatenate([moved[:, place], np.zeros((*weights.shape[:2], origins.horizon))], axis=2)
    low = np.minimum.accumulate(moved, axis=1)[:, sizes - 1]
    high = np.maximum.accumulate(moved, axis=1)[:, sizes - 1]
    for ahead in range(origins.horizon):
        value = weights[:, :, 0].copy()
        for own, lag in enumerate(lags, start=1):
            value += weights[:, :, own] * window[:, :, deep + ahead - lag]
        window[:, :, deep + ahead] = np.clip(value, 2 * low - high, 2 * high - low)
    moves = window[:, :, deep:]
    if back == 0:
        return moves
    if back == 1:
        made: Floats = series[:, origins.ends - 1, None] + np.cumsum(moves, axis=2)
        return made
    out = np.empty_like(moves)
    for ahead in range(origins.horizon):
        before = series[:, origins.ends - back + ahead] if ahead < back else out[:, :, ahead - back]
        out[:, :, ahead] = before + moves[:, :, ahead]
    return out
