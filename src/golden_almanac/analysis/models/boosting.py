"""A boosted ensemble of small trees (Friedman 2001), Newton's steps for yes/no outcomes; it stops where rows that were
held out are foretold no better."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from .binned_trees import Grower, Tree
from .features import Codes, Feature

Floats = npt.NDArray[np.float64]

_RATE, _MOST, _PATIENCE, _DEPTH = 0.1, 300, 20, 3
_SHRINK, _LEAST = 0.1, 8.0
#: Tables of fewer rows have each fold held out in turn: one of them alone stops too early or too late.
_FEW = 4000


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Boosted:
    """The margin is `start` and the rate times the trees' sum."""

    start: float
    rate: float
    trees: tuple[Tree, ...]

    def margin(self, codes: Codes) -> Floats:
        made = np.full(codes.shape[0], self.start)
        for tree in self.trees:
            made += self.rate * tree.predict(codes)
        return made

    def parts(self, codes: Codes) -> tuple[float, Floats]:
        """Where all rows start, and what each feature adds (n, features); together they are the margin."""
        into = np.zeros(codes.shape)
        start = self.start
        for tree in self.trees:
            start += self.rate * float(tree.value[0])
            tree.add_parts(codes, into, self.rate)
        return start, into

    def to_dict(self) -> dict[str, Any]:
        return {"start": self.start, "rate": self.rate, "trees": [tree.to_dict() for tree in self.trees]}

    @classmethod
    def from_dict(cls, kept: dict[str, Any]) -> Boosted:
        return cls(start=kept["start"], rate=kept["rate"], trees=tuple(Tree.from_dict(one) for one in kept["trees"]))


def fit_boosted(
    features: Sequence[Feature], codes: Codes, y: Floats, w: Floats, folds: npt.NDArray[np.intp], yes_no: bool
) -> Boosted:
    """Find the number of trees on rows held out (each fold in turn where rows are few), then grow so many on all
    rows."""
    wanted = range(int(folds.max()) + 1) if y.size < _FEW else range(1)
    curves = [
        _grown(features, codes, y, w, np.flatnonzero(folds != fold), np.flatnonzero(folds == fold), _MOST, yes_no)[0]
        for fold in wanted
    ]
    most = max(curve.size for curve in curves)
    # A fold that stopped early had seen its best: its loss stays at what it was last.
    loss = sum(np.concatenate([curve, np.full(most - curve.size, curve[-1])]) for curve in curves)
    return _grown(features, codes, y, w, np.arange(y.size), None, int(np.argmin(loss)) + 1, yes_no)[1]


def _grown(
    features: Sequence[Feature],
    codes: Codes,
    y: Floats,
    w: Floats,
    rows: npt.NDArray[np.intp],
    held: npt.NDArray[np.intp] | None,
    most: int,
    yes_no: bool,
) -> tuple[Floats, Boosted]:
    """The loss on the rows held out after each tree, and the ensemble."""
    mean = float(np.average(y[rows], weights=w[rows]))
    if yes_no:
        mean = float(np.clip(mean, 1e-6, 1 - 1e-6))
    start = float(np.log(mean / (1 - mean))) if yes_no else mean
    grower = Grower(features, codes)
    margin = np.full(y.size, start)
    trees: list[Tree] = []
    losses: list[float] = []
    for _ in range(most):
        if yes_no:
            p = 1 / (1 + np.exp(-np.clip(margin, -35, 35)))
            gradient, weight = w * (y - p), np.maximum(w * p * (1 - p), 1e-6)
        else:
            gradient, weight = w * (y - margin), w
        least = max(_LEAST, 0.002 * rows.size)
        tree = grower.grow(gradient, weight, rows, depth=_DEPTH, least=least, shrink=_SHRINK)
        if tree.depth == 0:
            break
        trees.append(tree)
        margin += _RATE * tree.predict(codes)
        if held is not None:
            m, t = margin[held], y[held]
            losses.append(float(w[held] @ (np.logaddexp(0.0, m) - t * m if yes_no else (t - m) ** 2)))
            if len(losses) - int(np.argmin(losses)) > _PATIENCE:
                break
    return np.array(losses or [0.0]), Boosted(start=start, rate=_RATE, trees=tuple(trees))
