"""What is usual, without the stories already told: past steps of the level, and single periods that went wild, are no
measure of how far a series moves from one time to the next."""

from __future__ import annotations

import numpy as np

from ...stats.autocorrelated_fits import Floats, ols

#: Steps taken out at most, periods on either side of one, and the periods that there must be.
_MOST, _SIDE, _LEAST = 3, 2, 12
#: Standard errors, those of a series with memory, that a step must have.
_SURE = 6.0
#: Robust standard deviations beyond which a move counts no more, and the fewest moves of which that is asked.
_WILD, _FEWEST = 3.0, 6
#: The largest share of moves that is drawn in.
_MOST_WILD = 0.15
#: What the median distance to the median is of a normal standard deviation.
_MAD = 1.4826
#: A memory above this leaves no step to be told from wandering.
_MOST_MEMORY = 0.9


def without_steps(y: Floats) -> Floats:
    """A series without the steps of its level that surely are there, the latest level kept. Shape (periods,).

    Steps are looked for one after the other beside a straight line, by least squares over all places; each must be as
    large as six of its standard errors, which allow for first-order memory of what is left.
    """
    n = y.size
    if n < _LEAST or not np.isfinite(y).all():
        return y
    steps = np.empty((n, 0))
    base = np.column_stack([np.ones(n), np.arange(n)])
    for _ in range(_MOST):
        found = _step(y, np.hstack([base, steps]))
        if found is None:
            break
        steps = np.column_stack([steps, found])
    if not steps.shape[1]:
        return y
    sizes = ols(np.hstack([base, steps]), y).beta[2:]
    return np.asarray(y - steps @ sizes + sizes.sum())


def _step(y: Floats, beside: Floats) -> Floats | None:
    """The best further step beside some columns, if it is sure; shape (periods,)."""
    n = y.size
    places = np.arange(_SIDE, n - _SIDE + 1)
    steps = (np.arange(n)[:, None] >= places).astype(np.float64)
    # All places at once: what is left of each step beside the columns, against what is left of the series.
    basis, _ = np.linalg.qr(beside)
    left, apart = y - basis @ (basis.T @ y), steps - basis @ (basis.T @ steps)
    own = (apart**2).sum(axis=0)
    use = own > 1e-9
    if not use.any():
        return None
    gain = np.where(use, (apart.T @ left) ** 2 / np.where(use, own, 1.0), 0.0)
    at = int(np.argmax(gain))
    size = float(apart[:, at] @ left / own[at])
    rest = left - size * apart[:, at]
    spare = n - beside.shape[1] - 1
    if spare < 4:
        return None
    total = float(rest @ rest)
    if not total > 0:
        return steps[:, at] if abs(size) > 0 else None
    # First-order memory of what is left, drawn up for the columns fitted (Kendall 1954).
    memory = float(rest[1:] @ rest[:-1]) / total + (1 + beside.shape[1] + 1) / n
    if memory > _MOST_MEMORY:
        return None
    wider = (1 + max(memory, 0.0)) / (1 - max(memory, 0.0))
    error = float(np.sqrt(total / spare / own[at] * wider))
    return steps[:, at] if abs(size) > _SURE * error else None


def without_wild(y: Floats) -> Floats:
    """A series in which single values far from those around them (the median of five) are drawn to that line. Shape
    (periods,), its season taken off."""
    if y.size < _LEAST:
        return y
    # At the ends, the five that are nearest.
    first = np.clip(np.arange(y.size) - _SIDE, 0, y.size - 2 * _SIDE - 1)
    around = np.median(y[first[:, None] + np.arange(2 * _SIDE + 1)], axis=1)
    apart = y - around
    reach = _WILD * _MAD * float(np.median(np.abs(apart)))
    return np.asarray(around + np.clip(apart, -reach, reach)) if reach > 0 else y


def tamed(moves: Floats) -> Floats:
    """Moves, those that lie beyond three robust standard deviations drawn to that line (winsorised; Huber 1981); all as
    they are where so many lie beyond it that they are the rule, as rain is between dry days."""
    if moves.size < _FEWEST:
        return moves
    middle = float(np.median(moves))
    reach = _WILD * _MAD * float(np.median(np.abs(moves - middle)))
    wild = np.abs(moves - middle) > reach
    return np.clip(moves, middle - reach, middle + reach) if reach > 0 and wild.mean() <= _MOST_WILD else moves
