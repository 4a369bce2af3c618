"""Far tails of a search on a short series, calibrated on its own values in other orders.

Student's t of the best of many places is right for normal noise only. What the same search yields on the series
shuffled (null residuals, whitened; Freedman & Lane 1983) tells how its nominal p-values are really distributed. Beyond
what a few thousand shuffles can show, the tail is taken as a power of the nominal p-value, its exponent estimated from
the shuffles (Hill 1975): on the scale of −log p that is the generalised Pareto tail of Knijnenburg et al. (2009) with
shape nought, which never ends, so that no p-value is nought.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from .autocorrelated_fits import Floats, basis

#: Shuffles made, and those of them whose tail is looked at.
_SHUFFLES, _TAIL = 2000, 200
_SEED = 1983


@lru_cache(maxsize=16)
def _orders(n: int) -> npt.NDArray[np.intp]:
    """The shuffles of a series of length n, the same for all series: shape (shuffles, n)."""
    return np.asarray(np.random.default_rng(_SEED).random((_SHUFFLES, n)).argsort(axis=1))


class Runs(NamedTuple):
    """Columns of a search that are steps up at each of the `places` of a series, or, `sloped`, lines from there on,
    whitened with a memory `phi`: their products with a series are running sums of it, a step of work for each place.
    `columns` has shape (n, places); no place is the first."""

    columns: Floats
    places: npt.NDArray[np.intp]
    phi: float
    sloped: bool = False

    def products(self, series: Floats) -> Floats:
        """The products of series, shape (series, n), with each column: shape (series, places)."""
        after = np.zeros((series.shape[0], series.shape[1] + 1))
        np.cumsum(series[:, ::-1], axis=1, out=after[:, -2::-1])
        if not self.sloped:
            return (1 - self.phi) * after[:, self.places] + self.phi * series[:, self.places]
        further = np.zeros_like(after)
        further[:, :-1] = np.cumsum(after[:, :0:-1], axis=1)[:, ::-1]
        return (1 - self.phi) * further[:, self.places] + self.phi * after[:, self.places + 1]


def calibrated_p(null: Floats, searches: Sequence[Floats | Runs], y: Floats, df: int, nominal: float) -> float:
    """The chance that a shuffled series looks as sure as `y`, shape (n,), did by its `nominal` p-value.

    Each of the `searches` is an array of columns, shape (n, places), or `Runs` of them, tried one by one beside `null`,
    shape (n, k); its nominal p-value is that of its best column times the number of places, and the surest search
    counts. All whitened.
    """
    from scipy.special import stdtr

    q = basis(null)
    left = y - q @ (q.T @ y)
    if not left.any():
        return 1.0
    shuffled = left[_orders(y.size)]
    leaning = shuffled @ q
    # The order of its values does not change a sum of squares.
    within = np.maximum(float(left @ left) - np.einsum("ij,ij->i", leaning, leaning), 1e-300)
    surest = np.zeros(_SHUFFLES)
    for search in searches:
        trials = search.columns if isinstance(search, Runs) else search
        shared = q.T @ trials
        columns = trials - q @ shared
        size = np.sqrt(np.sum(columns * columns, axis=0))
        use = size > 1e-9
        if not use.any():
            continue
        products = search.products(shuffled) if isinstance(search, Runs) else shuffled @ trials
        gains = (products - leaning @ shared)[:, use] / size[use]
        explained = np.minimum(np.maximum(gains.max(axis=1), -gains.min(axis=1)) ** 2 / within, 1 - 1e-12)
        p = 2 * stdtr(df, -np.sqrt(df * explained / (1 - explained))) * trials.shape[1]
        surest = np.maximum(surest, -np.log(np.minimum(1.0, p)))
    top = np.sort(surest)[-_TAIL - 1 :]
    seen, threshold = -np.log(max(nominal, 1e-300)), float(top[0])
    if seen <= threshold:
        return float((1 + np.sum(surest >= seen)) / (1 + _SHUFFLES))
    exponent = min(1.0, 1 / float(np.mean(top[1:] - threshold)))
    return float(_TAIL / _SHUFFLES * np.exp(-exponent * (seen - threshold)))
