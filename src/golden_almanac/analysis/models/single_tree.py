"""One tree, for rules that people can follow: its depth is chosen by cross-validation, the smallest within one standard
error of the best (Breiman et al. 1984)."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from .binned_trees import Grower, Tree
from .features import Codes, Feature

Floats = npt.NDArray[np.float64]

_DEPTHS = (1, 2, 3, 4, 5, 6)
_LEAST_ROWS, _LEAST_SHARE = 10.0, 0.01
#: A split gains more than this many times what a cut through noise is expected to gain.
_GAIN = 2.0


def fit_tree(features: Sequence[Feature], codes: Codes, y: Floats, w: Floats, folds: npt.NDArray[np.intp]) -> Tree:
    """The tree; leaves predict the weighted mean of their rows."""
    grower = Grower(features, codes)
    least = max(_LEAST_ROWS, _LEAST_SHARE * y.size)
    losses = np.zeros((len(_DEPTHS), int(folds.max()) + 1))
    for fold in range(losses.shape[1]):
        test = folds == fold
        rows = np.flatnonzero(~test)
        for place, depth in enumerate(_DEPTHS):
            tree = _grown(grower, y, w, rows, depth, least)
            losses[place, fold] = float(np.average((y[test] - tree.predict(codes[test])) ** 2, weights=w[test]))
    mean = losses.mean(axis=1)
    best = int(np.argmin(mean))
    error = float(losses[best].std(ddof=1) / np.sqrt(losses.shape[1]))
    # The error of the difference is far smaller than that of a fold: a quarter of it is enough to prefer the smaller.
    chosen = next(place for place in range(len(_DEPTHS)) if mean[place] <= mean[best] + 0.25 * error)
    return _grown(grower, y, w, np.arange(y.size), _DEPTHS[chosen], least)


def _grown(grower: Grower, y: Floats, w: Floats, rows: npt.NDArray[np.intp], depth: int, least: float) -> Tree:
    centre = float(np.average(y[rows], weights=w[rows]))
    spread = float(np.average((y[rows] - centre) ** 2, weights=w[rows]))
    tree = grower.grow(
        w * (y - centre), w, rows, depth=depth, least=least, shrink=1e-9, gain=_GAIN * spread * float(w.mean())
    )
    return Tree(
        feature=tree.feature,
        left=tree.left,
        children=tree.children,
        value=tree.value + centre,
        rows=tree.rows,
        depth=tree.depth,
    )
