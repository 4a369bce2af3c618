"""Two steps in one series: up and down again, or twice the same way. A single line, bend or step sees neither."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple

import numpy as np

from .autocorrelated_fits import Floats
from .segmented_paths import memory_beside
from .series_batch import Places, Pooled
from .series_memory import UNIT_ROOT, periods_spent

#: Series longer than this are not searched pair by pair.
_LONGEST = 400
#: Periods that each of the three levels lasts at least, and the part of the series: what is shorter is a spike, or a
#: season.
_LEAST, _PART = 6, 10
#: Pairs overlap, and both steps must be sure: the surest of all pairs is paid for by so many times the number of
#: periods (of white noise of 24 to 96 periods, p-values are then as small 0.3 to 0.8 times as often as they say).
_PAID = 1.5
#: Pairs of all series that are worked on together.
_AT_ONCE = 1_000_000
#: Series longer than twice this are looked at in steps first, and all about the best then.
_FINE = 90


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


def best_step_pairs(
    calm: Floats, season: Floats, pooled: Sequence[Pooled | None] | None = None
) -> list[StepPair | None]:
    """The surest pair of steps of each series without its `season` (of such columns), shape (series, n), with what
    siblings know of its memory; None for series too short, too long, or that wander.

    For every pair of places the three levels are compared by t tests, each step against the level beside it, with the
    variance that first-order memory of what is left makes of means; the pair whose less sure step is surest is taken
    (a union of nulls; Berger 1982), and pays for the pairs tried.
    """
    count, n = calm.shape
    df, least = n - 3 - season.shape[1], max(_LEAST, n // _PART)
    if not 3 * least <= n <= _LONGEST or df < 4:
        return [None] * count
    pairs = _pairs(n, least)[0].size
    if not pairs:
        return [None] * count
    known = [None] * count if pooled is None else pooled
    found: list[StepPair | None] = []
    for places in np.array_split(np.arange(count), -(-count * pairs // _AT_ONCE)):
        found += _surest(calm[places], season, [known[int(place)] for place in places], least)
    return found


@lru_cache(maxsize=16)
def _pairs(n: int, least: int) -> tuple[Places, Places]:
    """The places of both steps, of all pairs that leave each level long enough; of a long series those some way apart
    from each other (see `_nearby`)."""
    first, second = np.triu_indices(n + 1, k=least)
    apart = max(1, n // _FINE)
    use = (first >= least) & (second <= n - least) & (first % apart == 0) & (second % apart == 0)
    return first[use], second[use]


def _nearby(n: int, least: int, first: Places, second: Places) -> tuple[Places, Places]:
    """All pairs about the best that was found for each series, arrays of shape (series,): what lies further away the
    coarser look has seen. Shape (series, pairs)."""
    reach = max(1, n // _FINE) - 1
    steps = np.arange(-reach, reach + 1)
    a = np.clip(first[:, None, None] + steps[None, :, None], least, n - 2 * least)
    b = np.clip(second[:, None, None] + steps[None, None, :], 2 * least, n - least)
    a, b = np.broadcast_arrays(a, np.maximum(b, a + least))
    return a.reshape(first.size, -1), b.reshape(first.size, -1)


class _Levels(NamedTuple):
    """Of pairs of places, shape (series, pairs): the means of the three levels, (series, 3, pairs), the standard
    deviation of what they leave, the jumps, the standard errors of jumps in units of it, and t, (series, 2, pairs)."""

    means: Floats
    spread: Floats
    jumps: Floats
    units: Floats
    t: Floats

    @classmethod
    def of(cls, calm: Floats, df: int, first: Places, second: Places) -> _Levels:
        count, n = calm.shape
        sums = np.concatenate([np.zeros((count, 1)), np.cumsum(calm, axis=1)], axis=1)
        at_first, at_second = (
            np.take_along_axis(sums, np.broadcast_to(place, (count, place.shape[-1])), axis=1)
            for place in (first, second)
        )
        sizes = np.stack([first, second - first, n - second], axis=-2).astype(np.float64)
        totals = np.stack([at_first, at_second - at_first, sums[:, n:] - at_second], axis=1)
        means = totals / sizes
        squares = np.einsum("ij,ij->i", calm, calm)[:, None]
        left = np.maximum(squares - np.einsum("ijk,ijk->ik", totals, means), 1e-12 * squares)
        spread = np.sqrt(left / df)
        jumps = np.diff(means, axis=1)
        units = np.sqrt(1 / sizes[..., :-1, :] + 1 / sizes[..., 1:, :])
        units = np.broadcast_to(units, jumps.shape)
        with np.errstate(divide="ignore", invalid="ignore"):
            return cls(means, spread, jumps, units, jumps / (spread[:, None] * units))

    def best(self) -> Places:
        """Of which pair the less sure step is surest, for each series."""
        return np.asarray(np.argmax(np.abs(self.t).min(axis=1), axis=1))


def _surest(calm: Floats, season: Floats, pooled: Sequence[Pooled | None], least: int) -> list[StepPair | None]:
    from scipy.special import stdtr

    count, n = calm.shape
    df, every = n - 3 - season.shape[1], np.arange(count)
    first, second = _pairs(n, least)
    levels = _Levels.of(calm, df, first, second)
    best = levels.best()
    a, b = first[best], second[best]
    if n // _FINE > 1:
        first, second = _nearby(n, least, a, b)
        levels = _Levels.of(calm, df, first, second)
        best = levels.best()
        a, b = first[every, best], second[every, best]
    place = np.arange(n)
    level = (place >= a[:, None]).astype(np.intp) + (place >= b[:, None])
    phi = _memory(calm - levels.means[every[:, None], level, best[:, None]], periods_spent(season), pooled)
    wider = np.sqrt((1 + phi) / np.maximum(1 - phi, 1e-12))
    errors = levels.spread[every, best, None] * levels.units[every, :, best] * wider[:, None]
    surest = levels.t[every, :, best] / wider[:, None]
    p = np.minimum(1.0, 2 * stdtr(df, -np.abs(surest).min(axis=1)) * _PAID * n)
    return [
        None
        if phi[at] >= UNIT_ROOT
        else StepPair(
            places=(int(a[at]), int(b[at])),
            jumps=_two(levels.jumps[at, :, best[at]]),
            errors=_two(errors[at]),
            statistics=_two(surest[at]),
            p=float(p[at]),
            noise=float(levels.spread[at, best[at]]),
            phi=float(phi[at]),
            df=df,
        )
        for at in range(count)
    ]


def _memory(left: Floats, spent: float, pooled: Sequence[Pooled | None]) -> Floats:
    """How long each series remembers, of which `left` is left beside its steps, with what its siblings know."""
    phi = np.empty(left.shape[0])
    beside = np.array([one is not None for one in pooled], dtype=bool)
    siblings = [one for one in pooled if one is not None]
    if siblings:
        phi[beside] = memory_beside(left[beside], spent, Pooled.each(siblings))
    if not beside.all():
        phi[~beside] = memory_beside(left[~beside], spent, None)
    return phi


def _two(values: Floats) -> tuple[float, float]:
    return float(values[0]), float(values[1])
