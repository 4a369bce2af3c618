"""Two steps in one series: up and down again, or twice the same way. A single line, bend or step sees neither."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from .autocorrelated_fits import Floats
from .segmented_paths import memory_beside
from .series_batch import Pooled
from .series_memory import UNIT_ROOT, periods_spent

#: Series longer than this are not searched pair by pair.
_LONGEST = 400
#: Periods that each of the three levels lasts at least, and the part of the series: what is shorter is a spike, or a
#: season.
_LEAST, _PART = 6, 10
#: Pairs overlap, and both steps must be sure: the surest of all pairs is paid for by so many times the number of
#: periods (of white noise of 24 to 96 periods, p-values are then as small 0.3 to 0.8 times as often as they say).
_PAID = 1.5


class StepPair(NamedTuple):
    """Two steps: the places where each new level begins, how far each goes, its standard error, and the p-value of the
    less sure of both, paid for all pairs of places; `noise` is the standard deviation of what is left."""

    places: tuple[int, int]
    jumps: tuple[float, float]
    errors: tuple[float, float]
    statistics: tuple[float, float]
    p: float
    noise: float
    phi: float
    df: int


def best_step_pair(calm: Floats, season: Floats, pooled: Pooled | None = None) -> StepPair | None:
    """The surest pair of steps of a series without its `season` (of such columns), shape (n,), with what siblings
    know of its memory; None for a series too short, too long, or that wanders.

    For every pair of places the three levels are compared by t tests, each step against the level beside it, with the
    variance that first-order memory of what is left makes of means; the pair whose less sure step is surest is taken
    (a union of nulls; Berger 1982), and pays for the pairs tried.
    """
    from scipy.special import stdtr

    n = calm.size
    df, least = n - 3 - season.shape[1], max(_LEAST, n // _PART)
    if not 3 * least <= n <= _LONGEST or df < 4:
        return None
    first, second = np.triu_indices(n + 1, k=least)
    use = (first >= least) & (second <= n - least)
    first, second = first[use], second[use]
    if not first.size:
        return None
    sums, squares = np.append(0.0, np.cumsum(calm)), float(calm @ calm)
    sizes = np.stack([first, second - first, n - second]).astype(np.float64)
    totals = np.stack([sums[first], sums[second] - sums[first], sums[n] - sums[second]])
    means = totals / sizes
    left = np.maximum(squares - (totals * means).sum(axis=0), 1e-12 * squares)
    spread = np.sqrt(left / df)
    jumps = np.diff(means, axis=0)
    units = np.sqrt(np.stack([1 / sizes[0] + 1 / sizes[1], 1 / sizes[1] + 1 / sizes[2]]))
    t = jumps / (spread * units)
    best = int(np.argmax(np.abs(t).min(axis=0)))
    a, b = int(first[best]), int(second[best])
    rest = calm - np.repeat(means[:, best], sizes[:, best].astype(int))
    phi = float(memory_beside(rest[None], periods_spent(season), pooled)[0])
    if phi >= UNIT_ROOT:
        return None
    wider = float(np.sqrt((1 + phi) / (1 - phi)))
    errors = spread[best] * units[:, best] * wider
    surest = t[:, best] / wider
    p = float(min(1.0, 2 * stdtr(df, -float(np.abs(surest).min())) * _PAID * n))
    return StepPair(
        places=(a, b),
        jumps=(float(jumps[0, best]), float(jumps[1, best])),
        errors=(float(errors[0]), float(errors[1])),
        statistics=(float(surest[0]), float(surest[1])),
        p=p,
        noise=float(spread[best]),
        phi=phi,
        df=df,
    )
