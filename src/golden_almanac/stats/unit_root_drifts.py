"""Whether a series that wanders also drifts: climbs or falls by more, in all, than its own moves make by chance.

Near a unit root no line can be told from wandering by what is left beside it. But the moves of a wandering series
have a mean, and that is tested: by Student's t, the variance of the mean widened by the moves' own first-order
memory, and by t over blocks of moves (batch means, Law and Kelton 2000, section 9.5), long ones and longer ones,
which see what the moves remember for longer. The least sure of the three counts: of 20,000 walks of 26 to 500
periods, with Gaussian moves or those of t(3), at most 0.1% had p < 0.01; of those whose moves lean on each other by
0.5, 0.2 to 1.2%.
"""

from __future__ import annotations

import numpy as np

from .autocorrelated_fits import Floats

#: Blocks of moves: so many where there are four in each.
_BLOCKS, _LEAST_MOVES, _LEAST_BLOCKS = 12, 4, 6
#: A memory of the moves higher than this is no memory of moves.
_MOST_MEMORY = 0.9


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
    seen = np.einsum("ij,ij->i", left[:, 1:], left[:, :-1]) / np.where(squares > 0, squares, 1.0)
    memory = np.minimum(np.maximum(seen, 0.0) + 1 / np.sqrt(n), _MOST_MEMORY)
    error = np.sqrt(squares / (n - 1) / n * (1 + memory) / (1 - memory))
    with np.errstate(divide="ignore", invalid="ignore"):
        p = 2 * stdtr(n - 1, -np.abs(mean) / error)
        count = min(_BLOCKS, n // _LEAST_MOVES)
        for blocks in (count, max(_LEAST_BLOCKS, count // 2)):
            edges = np.round(np.linspace(0, n, blocks + 1)).astype(np.intp)
            rate = (calm[:, edges[1:]] - calm[:, edges[:-1]]) / np.diff(edges)
            t = rate.mean(axis=1) / (rate.std(axis=1, ddof=1) / np.sqrt(blocks))
            p = np.maximum(p, 2 * stdtr(blocks - 1, -np.abs(t)))
    return np.where(np.isfinite(p) & (squares > 0), p, 1.0)
