"""The memory of a short series, from what is left of it once its best line, bend or step is taken out.

Taking out the best of many shapes takes memory with it: of an autoregression of 0.8 over 36 periods the median
autocorrelation left is 0.46. So the estimate is median-unbiased (Andrews 1993): the memory under which what was seen is
the median, from a table made by simulation (`bench/truth/memory.py`: 600 series for each cell up to 120 periods, fewer
beyond; its error is 0.01 at most). Beyond a month or so more a short series cannot tell memory from a unit root, which
is told as such.
"""

from __future__ import annotations

import numpy as np

from .autocorrelated_fits import Floats
from .batched_fits import lasting

#: Memories of the table, the highest of which stands for a unit root.
_MEMORIES = np.array([0.0, 0.2, 0.4, 0.6, 0.7, 0.8, 0.9, 0.95, 0.98])
#: Lengths, and for each the median autocorrelation left under each memory, and its usual standard deviation.
_LENGTHS = np.array([10, 12, 16, 20, 24, 30, 36, 48, 60, 84, 120, 200, 400, 1000])
_LEFT = np.array(
    [
        [-0.221, -0.144, -0.099, -0.020, 0.021, 0.020, 0.008, 0.027, 0.016],
        [-0.199, -0.110, -0.029, 0.045, 0.069, 0.087, 0.112, 0.089, 0.121],
        [-0.176, -0.091, 0.023, 0.112, 0.104, 0.133, 0.147, 0.157, 0.163],
        [-0.147, -0.011, 0.085, 0.200, 0.198, 0.253, 0.229, 0.247, 0.249],
        [-0.107, 0.021, 0.126, 0.240, 0.268, 0.326, 0.314, 0.361, 0.332],
        [-0.105, 0.059, 0.182, 0.311, 0.366, 0.403, 0.419, 0.432, 0.439],
        [-0.086, 0.074, 0.221, 0.360, 0.410, 0.459, 0.514, 0.516, 0.518],
        [-0.054, 0.097, 0.260, 0.417, 0.489, 0.547, 0.586, 0.623, 0.615],
        [-0.048, 0.121, 0.291, 0.456, 0.533, 0.598, 0.662, 0.682, 0.690],
        [-0.034, 0.143, 0.314, 0.491, 0.578, 0.669, 0.737, 0.768, 0.771],
        [-0.034, 0.158, 0.338, 0.532, 0.618, 0.710, 0.799, 0.821, 0.833],
        [-0.007, 0.161, 0.360, 0.554, 0.650, 0.755, 0.834, 0.876, 0.894],
        [0.001, 0.190, 0.381, 0.581, 0.677, 0.771, 0.871, 0.920, 0.941],
        [-0.000, 0.202, 0.394, 0.595, 0.692, 0.788, 0.889, 0.942, 0.965],
    ]
)
_SPREAD = np.array([0.257, 0.249, 0.224, 0.209, 0.196, 0.177, 0.158, 0.135, 0.121, 0.096, 0.077, 0.057, 0.036, 0.022])
#: Standard deviations put on top of what was seen: an estimate that is too low makes claims, one too high costs some.
MARGIN = 1.5
#: Memory from which a series may as well have a unit root, so that nothing but its level can be told.
UNIT_ROOT = 0.93
#: The slowest memory that is looked for behind the noise of rows.
_SLOWEST = 0.9


def periods_spent(season: Floats) -> float:
    """By how many periods a series seems shorter once seasonal columns, shape (n, k), are taken out of it.

    A wave takes memory with it, the more the slower it is: by simulation (walks of 36 months to 260 weeks, one to four
    waves) as much as a quarter of its length each for sine and cosine. Columns that alternate cost one period each.
    """
    if not season.shape[1]:
        return 0.0
    beside = np.einsum("ij,ij->j", season[1:], season[:-1]) / np.einsum("ij,ij->j", season, season)
    length = np.where(beside > 0, 2 * np.pi / np.arccos(np.clip(beside, 0.0, 1 - 1e-6)), 4.0)
    return float(np.maximum(1.0, length / 4).sum())


def memory_left(residual: Floats, spent: float, margin: float = MARGIN) -> Floats:
    """The first-order memory of series of which `residual`, shape (series, n), is left beside their best shape; a
    season that `spent` so many periods (see `periods_spent`) was taken out as well. Between 0 and 0.98, on the safe
    side by `margin` standard deviations; shape (series,)."""
    n = residual.shape[1]
    spread = np.einsum("ij,ij->i", residual, residual)
    if n < 8:
        return np.zeros(residual.shape[0])
    seen = np.einsum("ij,ij->i", residual[:, 1:], residual[:, :-1]) / np.where(spread > 0, spread, 1.0)
    length = float(np.log(np.clip(n - spent, _LENGTHS[0], _LENGTHS[-1])))
    at = np.log(_LENGTHS)
    medians = np.array([np.interp(length, at, column) for column in _LEFT.T])
    # Short series leave as little of one high memory as of another.
    medians = np.maximum.accumulate(medians) + 1e-6 * np.arange(medians.size)
    high = seen + margin * float(np.interp(length, at, _SPREAD))
    longer = lasting(residual, 2)
    longer = np.where(longer > 0, longer + margin * np.sqrt((1 - np.minimum(longer, 1.0) ** 2) / n), longer)
    found = np.minimum(np.maximum(np.interp(high, medians, _MEMORIES), longer), _MEMORIES[-1])
    return np.where(spread > 0, found, 0.0)


def slow_memory(phi: Floats, excess: Floats) -> Floats:
    """The memory of what varies beyond its rows by so many times their variance, where the noise of the rows hides all
    of it but `phi` from the period before: the first-order memory that makes as much of a long wave (an autoregression
    beside noise, Granger & Morris 1976). Shape (series,)."""
    beyond = np.maximum(excess, 1e-6)
    own = np.minimum(_SLOWEST, phi * (1 + beyond) / beyond)
    wave = (1 + beyond * (1 + own) / (1 - own)) / (1 + beyond)
    return np.asarray((wave - 1) / (wave + 1))
