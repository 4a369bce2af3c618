"""What can be told of a series that wanders: that it drifts, climbs or falls by more than its own moves make by chance;
that it does so for a stretch of the time; and that it leapt, as far as it never else moves.

Near a unit root no line can be told from wandering by what is left beside it. But the moves of a wandering series
have a mean, and that is tested: by Student's t, the variance of the mean widened by the moves' own first-order
memory, and by t over blocks of moves (batch means, Law and Kelton 2000, section 9.5), long ones and longer ones,
which see what the moves remember for longer. The least sure of the three counts: of 20,000 walks of 26 to 500
periods, with Gaussian moves or those of t(3), at most 0.1% had p < 0.01; of those whose moves lean on each other by
0.5, 0.2 to 1.2%.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from .autocorrelated_fits import Floats, basis

#: Blocks of moves: so many where there are four in each.
_BLOCKS, _LEAST_MOVES, _LEAST_BLOCKS = 12, 4, 6
#: Moves of a stretch, those beside it, and all of them, at least; places between which stretches are tried, at most;
#: and robust deviations to which single moves are drawn in, since a stretch is no leap.
_LEAST_STRETCH, _LEAST_BESIDE, _LEAST_LENGTH, _GRID, _DRAWN = 6, 12, 47, 160, 3.0
#: Periods that it takes to know a leap, and the index of the tails of moves.
_LEAST_LEAP, _TAIL = 14, 4.0
#: A memory of the moves higher than this is no memory of moves.
_MOST_MEMORY = 0.9
#: Columns collinear with the others tell nothing.
_NOTHING = 1e-9


def drift_p(calm: Floats) -> Floats:
    """The two-sided p-value that series without season, shape (series, n), do not drift; one for those too short to
    tell. Shape (series,)."""
    from scipy.special import stdtr

    moves = np.diff(calm, axis=1)
    series, n = moves.shape
    if n < _LEAST_BLOCKS * _LEAST_MOVES:
        return np.ones(series)
    mean = moves.mean(axis=1)
    left = moves - mean[:, None]
    squares = np.einsum("ij,ij->i", left, left)
    error = np.sqrt(squares / (n - 1) / n) * _wider(left, squares)
    with np.errstate(divide="ignore", invalid="ignore"):
        p = 2 * stdtr(n - 1, -np.abs(mean) / error)
        count = min(_BLOCKS, n // _LEAST_MOVES)
        for blocks in (count, max(_LEAST_BLOCKS, count // 2)):
            edges = np.round(np.linspace(0, n, blocks + 1)).astype(np.intp)
            rate = (calm[:, edges[1:]] - calm[:, edges[:-1]]) / np.diff(edges)
            t = rate.mean(axis=1) / (rate.std(axis=1, ddof=1) / np.sqrt(blocks))
            p = np.maximum(p, 2 * stdtr(blocks - 1, -np.abs(t)))
    return np.where(np.isfinite(p) & (squares > 0), p, 1.0)


def _wider(left: Floats, squares: Floats) -> Floats:
    """How much wider the error of a mean of moves is for what they remember of the move before, by what is `left` of
    them, shape (series, moves), and its sums of squares; a standard error is put on top of what was seen."""
    seen = np.einsum("ij,ij->i", left[:, 1:], left[:, :-1]) / np.where(squares > 0, squares, 1.0)
    memory = np.minimum(np.maximum(seen, 0.0) + 1 / np.sqrt(left.shape[1]), _MOST_MEMORY)
    return np.asarray(np.sqrt((1 + memory) / (1 - memory)))


class Stretches(NamedTuple):
    """The stretch of each series in which it moves most unlike the rest of the time, from the value at `start` to that
    at `stop`: its slope, the error of that, t and the two-sided p-value of the search; all of shape (series,)."""

    p: Floats
    start: npt.NDArray[np.intp]
    stop: npt.NDArray[np.intp]
    slope: Floats
    error: Floats
    t: Floats


def stretches(calm: Floats) -> Stretches:
    """The stretch of each series without season, shape (series, n), whose moves differ most from its other moves.

    Student's t of both means, widened by the moves' memory beside it, times all the stretches there are (Bonferroni):
    of 4,000 walks of 36 to 500 periods, Gaussian or with moves of t(3), at most 0.05% had p < 0.01.
    """
    from scipy.special import stdtr

    series, n = calm.shape
    m = n - 1
    nothing = np.zeros(series)
    if m < _LEAST_LENGTH:
        return Stretches(np.ones(series), nothing.astype(np.intp), nothing.astype(np.intp), nothing, nothing, nothing)
    moves = np.diff(calm, axis=1)
    middle = np.median(moves, axis=1, keepdims=True)
    scale = _DRAWN * 1.4826 * np.median(np.abs(moves - middle), axis=1, keepdims=True)
    moves = np.where(scale > 0, middle + np.clip(moves - middle, -scale, scale), moves)
    sums = np.concatenate([np.zeros((series, 1)), np.cumsum(moves, axis=1)], axis=1)
    places = np.unique(np.append(np.arange(0, m + 1, -(-m // _GRID)), m))
    start, stop = (one.ravel() for one in np.meshgrid(places, places, indexing="ij"))
    use = (stop - start >= _LEAST_STRETCH) & (m - (stop - start) >= _LEAST_BESIDE)
    start, stop = start[use], stop[use]
    size, total = (stop - start).astype(np.float64), sums[:, -1:]
    inside = sums[:, stop] - sums[:, start]
    gap = inside / size - (total - inside) / (m - size)
    left = moves - total / m
    all_squares = np.einsum("ij,ij->i", left, left)[:, None]
    between = gap**2 * (size * (m - size) / m)
    ratio = between / np.maximum(all_squares - between, 1e-12 * np.maximum(all_squares, 1e-300))
    best, own = np.argmax(ratio, axis=1), np.arange(series)
    first, last, length = start[best], stop[best], size[best]
    slope = inside[own, best] / length
    at = np.arange(m)
    within = (at >= first[:, None]) & (at < last[:, None])
    rest = (total[:, 0] - inside[own, best]) / (m - length)
    left = moves - np.where(within, slope[:, None], rest[:, None])
    squares = np.einsum("ij,ij->i", left, left)
    spread = np.sqrt(squares / (m - 2)) * _wider(left, squares)
    t = np.where(spread > 0, gap[own, best] / np.maximum(spread, 1e-300) * np.sqrt(length * (m - length) / m), 0.0)
    p = np.minimum(1.0, 2 * stdtr(m - 2, -np.abs(t)) * m * m / 2)
    return Stretches(p, first, last, slope, spread / np.sqrt(length), t)


def leap_p(y: Floats, season: Floats, at: npt.NDArray[np.intp]) -> Floats:
    """How often a series that wanders would leap as far as each of `y`, shape (series, n), does at the places `at`.

    The ratio of its largest move to the next exceeds r as rarely as r to the power of −4, with tails no heavier than
    those of index four (order statistics of Pareto variables, Rényi 1953). One where the step is not its largest move.
    Shape (series,).
    """
    series, n = y.shape
    if n < _LEAST_LEAP:
        return np.ones(series)
    steps = (np.arange(n) >= at[:, None]).astype(np.float64)
    calm = y
    if season.shape[1]:
        # The season beside the step, one factorisation for all: the step is taken out of both first.
        base = np.column_stack([np.ones(n), season])
        q = basis(base)
        own = steps - (steps @ q) @ q.T
        size = np.einsum("ij,ij->i", own, y) / np.maximum(np.einsum("ij,ij->i", own, own), _NOTHING)
        calm = y - ((y - size[:, None] * steps) @ np.linalg.pinv(base)[1:].T) @ season.T
    moves = np.abs(np.diff(calm, axis=1))
    largest = np.argmax(moves, axis=1)
    most = moves[np.arange(series), largest]
    rest = moves.copy()
    rest[np.arange(series), largest] = 0.0
    # A single value out of line leaps there and back: both moves are large, and no ratio is.
    following = rest.max(axis=1)
    with np.errstate(divide="ignore", invalid="ignore"):
        ratio = np.where(following > 0, most / following, np.inf)
    return np.where((largest + 1 == at) & (ratio > 1), np.maximum(ratio, 1.0) ** -_TAIL, 1.0)
