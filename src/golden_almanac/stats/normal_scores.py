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
    # Equal values share a rank, so their order is free: two sorts of one key each are faster than one of two.
    by_value = place[np.argsort(values[place])]
    small = np.int16 if size <= np.iinfo(np.int16).max else np.int64
    order = by_value if strata is None else by_value[np.argsort(within[by_value].astype(small), kind="stable")]
    scores = np.full(values.size, np.nan)
    if not order.size:
        return scores
    groups, ranked = within[order], values[order]
    new_group = np.r_[True, groups[1:] != groups[:-1]]
    new_tie = new_group | np.r_[True, ranked[1:] != ranked[:-1]]
    starts = np.flatnonzero(new_tie)
    lengths = np.diff(np.append(starts, order.size))
    group_start = np.maximum.accumulate(np.where(new_group, np.arange(order.size), 0))
    rank = starts + (lengths + 1) / 2.0 - group_start[starts]
    counts = np.bincount(groups, minlength=size)[groups[starts]]
    scores[order] = np.repeat(ndtri((rank - 0.5) / counts), lengths)
    return scores
