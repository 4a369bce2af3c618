"""How much worse a fit foretells rows it has not seen when one factor is shuffled, within strata of what it goes with.

The fit adds up (straight and bent numbers, levels), so a shuffled factor only swaps its own part of each prediction.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from .design_matrix import Design
from .hash_split import hashed

Floats = npt.NDArray[np.float64]

_FOLDS, _SHUFFLES = 5, 3
#: Rows used: the third digit of an importance needs no more.
_MOST_ROWS = 100_000
#: A factor is shuffled within the levels of another it goes with by more than this.
_GOES_WITH = 0.2


def importances(design: Design, y: Floats, weights: Floats | None, seed: int = 20_260_101) -> tuple[Floats, float]:
    """For each factor the share of the outcome's variance lost when it is shuffled (cross-validated, five folds), and
    the share that the whole fit foretells. Nothing is negative."""
    n = y.size
    # In an order that follows from what rows hold: how they stand in their table changes no fold and no shuffle.
    rows = np.argsort(hashed(design.factors, y), kind="stable")[:: max(1, n // _MOST_ROWS)]
    chance = np.random.Generator(np.random.PCG64(seed))
    fold = chance.permutation(rows.size) % _FOLDS
    w = np.ones(n) if weights is None else weights
    x = np.concatenate([block for _, block in design.stretches(rows)]) if rows.size else np.empty((0, design.k))
    target, weight = y[rows], w[rows] / w[rows].mean()
    strata = [_stratum(design, number, rows) for number in range(len(design.factors))]
    lost = np.zeros(len(design.factors))
    spread = error = 0.0
    ridge = np.full(design.k, 1e-6 * rows.size)
    ridge[0] = 0.0
    whole = (x * weight[:, None]).T @ x
    moment = x.T @ (weight * target)
    for one in range(_FOLDS):
        test = fold == one
        xt, yt, wt = x[test], target[test], weight[test]
        gram = whole - (xt * wt[:, None]).T @ xt
        beta = np.linalg.solve(gram + np.diag(ridge) + 1e-12 * np.eye(design.k), moment - xt.T @ (wt * yt))
        residual = yt - xt @ beta
        centre = (moment[0] - float(wt @ yt)) / (weight.sum() - wt.sum())
        spread += float(wt @ (yt - centre) ** 2)
        base = float(wt @ residual**2)
        error += base
        for number, block in enumerate(design.blocks):
            part = xt[:, block] @ beta[block]
            own = strata[number][test]
            order = np.argsort(own, kind="stable")
            for _ in range(_SHUFFLES):
                mixed = np.lexsort((chance.random(own.size), own))
                swapped = np.empty_like(part)
                swapped[order] = part[mixed]
                lost[number] += (float(wt @ (residual + part - swapped) ** 2) - base) / _SHUFFLES
    # Shuffling adds twice the covariance: half of the rise in squared error is what the factor foretold.
    return np.maximum(0.0, lost / 2 / spread), max(0.0, 1 - error / spread)


def _stratum(design: Design, number: int, rows: npt.NDArray[np.intp]) -> npt.NDArray[np.intp]:
    """Strata of the factor that this one goes with most; one stratum where it goes with none."""
    own, count, _ = design.factors[number].bins
    best, strata = _GOES_WITH, np.zeros(rows.size, dtype=np.intp)
    for other, factor in enumerate(design.factors):
        if other == number:
            continue
        codes, size, _ = factor.bins
        strength = cramer(own[rows], codes[rows], count, size)
        if strength > best:
            best, strata = strength, codes[rows] * 5 // size if factor.number and size > 5 else codes[rows]
    return strata.astype(np.intp)


def cramer(first: npt.NDArray[np.intp], second: npt.NDArray[np.intp], a: int, b: int) -> float:
    """Cramér's V of two codes, corrected for chance (Bergsma 2013)."""
    n = first.size
    table = np.bincount(first * b + second, minlength=a * b).reshape(a, b).astype(float)
    table = table[table.sum(axis=1) > 0][:, table.sum(axis=0) > 0]
    r, k = table.shape
    if r < 2 or k < 2:
        return 0.0
    expected = np.outer(table.sum(axis=1), table.sum(axis=0)) / n
    phi2 = float(((table - expected) ** 2 / expected).sum()) / n
    phi2 = max(0.0, phi2 - (r - 1) * (k - 1) / (n - 1))
    least = min(r - (r - 1) ** 2 / (n - 1), k - (k - 1) ** 2 / (n - 1)) - 1
    return float(np.sqrt(phi2 / least)) if least > 0 else 0.0
