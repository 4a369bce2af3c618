"""Series with holes: what is put in the place of periods that nobody knows, so that the others can be tested.

The methods for series want one value a period. A hole takes the season and line fitted to the others and what its
nearest neighbour has beyond them: copied noise is as wide as noise is, and makes the memory look longer, so that tests
err on the side of silence (an average of neighbours would be calmer than the series and make claims).
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from ..tables import Grain
from . import seasonal_terms
from .autocorrelated_fits import Floats, basis
from .batched_fits import bic, left_over, residuals

#: The largest share of periods that may be holes: weekends are 29% of days.
MOST_HOLES = 1 / 3


def mostly_holes(holes: npt.NDArray[np.bool_]) -> bool:
    """Whether so many periods are holes that no series can be made of the others."""
    return bool(np.count_nonzero(holes) > MOST_HOLES * holes.size)


def filled(grain: Grain, numbers: npt.NDArray[np.int64], y: Floats, holes: npt.NDArray[np.bool_]) -> Floats:
    """Series of shape (series, n), or (n,) for one, with a value for each period of the mask `holes`, shape (n,);
    `numbers` are the period numbers. What stands in the holes before does not matter."""
    if not holes.any():
        return y
    known = np.flatnonzero(~holes)
    series, n = np.atleast_2d(y), holes.size
    time = np.arange(n, dtype=np.float64)
    line = np.column_stack([np.ones(n), time - time[known].mean()])
    best, score = np.zeros((series.shape[0], n)), np.full(series.shape[0], np.inf)
    for season in [np.empty((n, 0)), *seasonal_terms.candidates(grain, numbers)]:
        design = np.hstack([line, season])
        if known.size < design.shape[1] + 8:
            continue
        part = series[:, known]
        left = residuals(basis(design[known]), part)
        again = bic(left_over(left, part), known.size, design.shape[1])
        better = again < score
        fit = (np.linalg.pinv(design[known]) @ part.T).T @ design.T
        best[better], score[better] = fit[better], again[better]
    at = np.flatnonzero(holes)
    after = np.minimum(np.searchsorted(known, at), known.size - 1)
    before = np.maximum(after - 1, 0)
    nearer = np.abs(known[before] - at) <= np.abs(known[after] - at)
    neighbour = known[np.where(nearer, before, after)]
    whole = series.copy()
    whole[:, at] = best[:, at] + series[:, neighbour] - best[:, neighbour]
    return whole.reshape(y.shape)
