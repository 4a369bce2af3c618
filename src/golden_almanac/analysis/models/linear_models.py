"""The linear model of a number, the logistic one of a yes/no outcome: ridge, its strength chosen by
cross-validation."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from ..drivers.factors import Factor
from .features import Feature

Floats = npt.NDArray[np.float64]

_STRENGTHS = (1e-3, 0.1, 1.0, 10.0, 100.0)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Linear:
    """`blocks` holds a feature's coefficients each; the margin is the intercept and their sum."""

    intercept: float
    blocks: tuple[Floats, ...]
    centres: tuple[Floats, ...]
    yes_no: bool

    def parts(self, features: Sequence[Feature], factors: Sequence[Factor]) -> Floats:
        """What each feature adds to the margin, shape (n, features); the mean row adds nothing."""
        return np.column_stack(
            [
                (feature.columns(factor) - centre) @ block
                for feature, factor, block, centre in zip(features, factors, self.blocks, self.centres, strict=True)
            ]
        )

    def margin(self, features: Sequence[Feature], factors: Sequence[Factor]) -> Floats:
        return np.asarray(self.intercept + self.parts(features, factors).sum(axis=1))

    def to_dict(self) -> dict[str, Any]:
        return {
            "intercept": self.intercept,
            "yes_no": self.yes_no,
            "blocks": [block.tolist() for block in self.blocks],
            "centres": [centre.tolist() for centre in self.centres],
        }

    @classmethod
    def from_dict(cls, kept: dict[str, Any]) -> Linear:
        return cls(
            intercept=kept["intercept"],
            yes_no=kept["yes_no"],
            blocks=tuple(np.array(block) for block in kept["blocks"]),
            centres=tuple(np.array(centre) for centre in kept["centres"]),
        )


def fit_linear(
    features: Sequence[Feature],
    factors: Sequence[Factor],
    y: Floats,
    w: Floats,
    folds: npt.NDArray[np.intp],
    yes_no: bool,
) -> Linear:
    """Fit to all rows, with the strength of the ridge that foretells the folds best."""
    parts = [feature.columns(factor) for feature, factor in zip(features, factors, strict=True)]
    x = np.column_stack(parts)
    centre = np.average(x, axis=0, weights=w)
    x = x - centre
    best, strength = np.inf, _STRENGTHS[0]
    for one in _STRENGTHS:
        loss = 0.0
        for fold in range(int(folds.max()) + 1):
            test = folds == fold
            b0, b = _solve(x[~test], y[~test], w[~test], one, yes_no)
            m = b0 + x[test] @ b
            loss += float(w[test] @ (_logloss(y[test], m) if yes_no else (y[test] - m) ** 2))
        if loss < best * (1 - 1e-9):
            best, strength = loss, one
    b0, b = _solve(x, y, w, strength, yes_no)
    blocks, centres, place = [], [], 0
    for part in parts:
        blocks.append(b[place : place + part.shape[1]])
        centres.append(centre[place : place + part.shape[1]])
        place += part.shape[1]
    return Linear(intercept=b0, blocks=tuple(blocks), centres=tuple(centres), yes_no=yes_no)


def _solve(x: Floats, y: Floats, w: Floats, strength: float, yes_no: bool) -> tuple[float, Floats]:
    z = np.column_stack([np.ones(y.size), x])
    ridge = np.diag(np.r_[1e-9, np.full(x.shape[1], strength)])
    if not yes_no:
        b = np.linalg.solve((z * w[:, None]).T @ z + ridge, z.T @ (w * y))
        return float(b[0]), b[1:]
    b = np.zeros(z.shape[1])
    share = float(np.clip(np.average(y, weights=w), 1e-6, 1 - 1e-6))
    b[0] = np.log(share / (1 - share))
    for _ in range(40):
        p = 1 / (1 + np.exp(-np.clip(z @ b, -35, 35)))
        gradient = z.T @ (w * (y - p)) - ridge @ b
        step = np.linalg.solve((z * (w * p * (1 - p))[:, None]).T @ z + ridge, gradient)
        size = float(np.abs(step).max())
        b = b + step * min(1.0, 5.0 / size if size else 1.0)
        if size < 1e-9:
            break
    return float(b[0]), b[1:]


def _logloss(y: Floats, margin: Floats) -> Floats:
    return np.logaddexp(0.0, margin) - y * margin
