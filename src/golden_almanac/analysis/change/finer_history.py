"""What months tell of quarters and years that were hardly compared before."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from ...stats.autocorrelated_fits import Floats
from .past_steps import tamed

#: Months of earlier comparisons that it takes, beside as many as the period has.
_LEAST = 6
#: A memory above this leaves nothing to be told.
_MOST_MEMORY = 0.9


class Spread(NamedTuple):
    """The mean of earlier moves by months, and the standard error of a new period's move beside it."""

    middle: float
    error: float


def spread_of_moves(moves: Floats, months: int) -> Spread | None:
    """What the moves of single months (logarithms or differences, in order) tell of the move of a period of so many.

    The mean of k values of first-order memory ρ and variance s² has the variance s²/k · (1 + ρ)/(1 − ρ); ρ is drawn up
    for its bias in short series (Kendall 1954). None for too few months, or a memory near one.
    """
    moves = moves[np.isfinite(moves)]
    n = moves.size
    if n < max(_LEAST, months):
        return None
    moves = tamed(moves)
    middle = float(moves.mean())
    rest = moves - middle
    total = float(rest @ rest)
    memory = 0.0 if not total > 0 else float(rest[1:] @ rest[:-1]) / total
    memory = max(0.0, memory + (1 + 3 * max(memory, 0.0)) / n)
    if memory > _MOST_MEMORY:
        return None
    variance = total / (n - 1) * (1 + memory) / (1 - memory)
    return Spread(middle, float(np.sqrt(variance / months + variance / n)))
