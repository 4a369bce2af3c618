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
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from .autocorrelated_fits import Floats, basis

#: Shuffles made, and those of them whose tail is looked at.
_SHUFFLES, _TAIL = 2000, 200
_SEED = 1983
#: Up to so many values, products with all columns take less time than running sums.
_FEW_VALUES = 500


@lru_cache(maxsize=16)
def _orders(n: int) -> npt.NDArray[np.intp]:
    """The shuffles of a series of length n, the same for all series: shape (n, shuffles)."""
    return np.ascontiguousarray(np.random.default_rng(_SEED).random((_SHUFFLES, n)).argsort(axis=1).T)


class Runs(NamedTuple):
    """Columns of a search that are steps up at each place from `first` on, or, `sloped`, lines from there on, whitened
    with a memory `phi`: their products with a series are running sums of it, a step of work for each place. `columns`
    has shape (n, places); the first place is no start of the series."""

    columns: Floats
    first: int
    phi: float
    sloped: bool = False

    def products(self, series: npt.NDArray[Any]) -> npt.NDArray[Any]:
        """The products of each column with series, shape (n, series): shape (places, series)."""
        count, n = self.columns.shape[1], series.shape[0]
        after = np.cumsum(series[::-1], axis=0)[::-1]
        if not self.sloped:
            found = after[self.first : self.first + count]
            if self.phi:
                found = (1 - self.phi) * found
                found += self.phi * series[self.first : self.first + count]
            return found
        # A line from a place on is the sum of the steps after it.
        further = np.cumsum(after[::-1], axis=0)[::-1]
        last = min(count, n - 1 - self.first)
        found = np.zeros((count, series.shape[1]), dtype=series.dtype)
        found[:last] = (1 - self.phi) * further[self.first + 1 : self.first + 1 + last]
        found[:last] += self.phi * after[self.first + 1 : self.first + 1 + last]
        return found


def calibrated_p(
    null: Floats, searches: Sequence[Floats | Runs], y: Floats, df: int, nominal: float, known: float = 0.0
) -> float:
    """The chance that a shuffled series looks as sure as `y`, shape (n,), did by its `nominal` p-value.

    Each of the `searches` is an array of columns, shape (n, places), or `Runs` of them, tried one by one beside `null`,
    shape (n, k); its nominal p-value is that of its best column times the number of places, and the surest search
    counts. All whitened. Siblings may know the variance with `known` degrees of freedom: it is as wide as assumed then,
    and the shuffles, of that width, are weighed like the series.
    """
    from scipy.special import stdtr

    q = basis(null)
    left = y - q @ (q.T @ y)
    if not left.any():
        return 1.0
    # Half the digits are more than enough for a count, and half the work; shuffles side by side, since there are more
    # of them than values or places.
    shuffled = (left / np.sqrt(left @ left)).astype(np.float32)[_orders(y.size)]
    leaning = q.T.astype(np.float32) @ shuffled
    # The order of its values does not change a sum of squares.
    within = np.maximum(1.0 - np.einsum("ij,ij->j", leaning, leaning), 1e-300)
    # What siblings know, in units of the sum of squares of a shuffle.
    beside = known / (df + 1)
    looks: list[tuple[int, Floats]] = []
    for search in searches:
        trials = search.columns if isinstance(search, Runs) else search
        shared = q.T @ trials
        columns = trials - q @ shared
        size = np.sqrt(np.sum(columns * columns, axis=0))
        use = size > 1e-9
        if not use.any():
            continue
        if isinstance(search, Runs) and y.size > _FEW_VALUES:
            gains = search.products(shuffled) - shared.T.astype(np.float32) @ leaning
            gains *= np.where(use, 1 / np.where(use, size, 1.0), 0.0).astype(np.float32)[:, None]
        else:
            gains = (columns[:, use] / size[use]).T.astype(np.float32) @ shuffled
        furthest = np.maximum(gains.max(axis=0), -gains.min(axis=0)).astype(np.float64)
        explained = np.minimum(furthest**2 / within, 1 - 1e-12)
        ratio = (df + known) * explained * within / ((1 - explained) * within + beside)
        looks.append((trials.shape[1], ratio))

    def surest(which: npt.NDArray[np.intp]) -> Floats:
        """How sure some of the shuffles make the searches look: −log p of the surest search."""
        best = np.zeros(which.size)
        for tried, ratio in looks:
            p = 2 * stdtr(df + known, -np.sqrt(ratio[which])) * tried
            best = np.maximum(best, -np.log(np.minimum(1.0, p)))
        return best

    # A search looks the surer the more it explains: the tail of the surest lies within the tails of each.
    tails = [np.argpartition(ratio, -_TAIL - 1)[-_TAIL - 1 :] for _, ratio in looks]
    top = np.sort(surest(np.unique(np.concatenate(tails)) if tails else np.arange(_SHUFFLES)))[-_TAIL - 1 :]
    seen, threshold = -np.log(max(nominal, 1e-300)), float(top[0])
    if seen <= threshold:
        return float((1 + np.sum(surest(np.arange(_SHUFFLES)) >= seen)) / (1 + _SHUFFLES))
    exponent = min(1.0, 1 / float(np.mean(top[1:] - threshold)))
    return float(_TAIL / _SHUFFLES * np.exp(-exponent * (seen - threshold)))
