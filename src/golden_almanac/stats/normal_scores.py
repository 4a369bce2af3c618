"""Normal scores: what ranks would be if the values were normal, so that no tail of the values counts for much."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from .autocorrelated_fits import Floats


def normal_scores(values: Floats, strata: npt.NDArray[np.intp] | None = None, size: int = 1) -> Floats:
    """Scores Φ⁻¹((rank − ½) / n) of the values within each of `size` strata (van der Waerden 1952).

    Equal values share their middle rank; missing ones (NaN) have no score (NaN). Shape (rows,).
    """
    from scipy.special import ndtri

    within = np.zeros(values.size, dtype=np.intp) if strata is None else strata
    place = np.flatnonzero(~np.isnan(values))
    order = place[np.lexsort((values[place], within[place]))]
    scores = np.full(values.size, np.nan)
    if not order.size:
        return scores
    groups, ranked = within[order], values[order]
    new_group = np.r_[True, groups[1:] != groups[:-1]]
    new_tie = new_group | np.r_[True, ranked[1:] != ranked[:-1]]
    starts = np.flatnonzero(new_tie)
    lengths = np.diff(np.append(starts, order.size))
    group_start = np.maximum.accumulate(np.where(new_group, np.arange(order.size), 0))
    rank = np.repeat(starts + (lengths + 1) / 2.0, lengths) - group_start
    counts = np.bincount(groups, minlength=size)[groups]
    scores[order] = ndtri((rank - 0.5) / counts)
    return scores
