"""Tests over periods: what a group does month by month against others, with the months as the sample.

Rows of one day share their weather, rows of one month their season; taking each row as independent
evidence would make chance look certain. The periods are the sample instead, with their
autocorrelation allowed for.
"""

from __future__ import annotations

import numpy as np

from ...aggregation import Survey
from ...stats.autocorrelated_fits import Floats, autocorrelation, autocorrelations

#: Fewer periods than this cannot speak.
LEAST_BLOCKS = 8
#: Fewer siblings than this do not know their autocorrelation together.
LEAST_POOLED = 5


def test_name(survey: Survey, over_periods: str, of_rows: str) -> str:
    """What a test is called: that over periods where there are enough of them to speak, else that of the rows."""
    line = survey.timeline
    return of_rows if line is None or line.complete_count < LEAST_BLOCKS else over_periods


def leaning(differences: Floats, weights: Floats) -> float:
    """First-order autocorrelation of differences about their weighted mean, both of shape (periods,); nought where
    there are too few."""
    known = np.isfinite(differences) & (weights > 0)
    d, w = differences[known], weights[known]
    return autocorrelation(d - float(np.average(d, weights=w)), 1) if d.size >= LEAST_BLOCKS else 0.0


def block_test(differences: Floats, weights: Floats, pooled: float | None = None) -> tuple[float, float]:
    """t and two-sided p that the weighted mean of `differences` is nought; both of shape (periods,).

    Student's t on weighted means, degrees of freedom by the effective number of periods (Kish 1965),
    the variance inflated by (1 + r)/(1 − r) for positive first-order autocorrelation r: its own, or that `pooled` over
    siblings, who know it better, unless its own is higher by more than a standard error.
    """
    t, p = block_tests(differences[None], weights[None], pooled)
    return float(t[0]), float(p[0])


def block_tests(differences: Floats, weights: Floats, pooled: float | None = None) -> tuple[Floats, Floats]:
    """The same of many at once, both of shape (tests, periods): t and p, shape (tests,)."""
    known = np.isfinite(differences) & (weights > 0)
    t, p = np.zeros(known.shape[0]), np.ones(known.shape[0])
    if known.all():
        return _weighted(differences, weights, pooled) if known.shape[1] >= LEAST_BLOCKS else (t, p)
    # Those that are known in the same periods go together.
    masks, which = np.unique(np.packbits(known, axis=1), axis=0, return_inverse=True)
    for place in range(masks.shape[0]):
        alike = np.flatnonzero(which.reshape(-1) == place)
        use = np.flatnonzero(known[alike[0]])
        if use.size >= LEAST_BLOCKS:
            t[alike], p[alike] = _weighted(differences[alike][:, use], weights[alike][:, use], pooled)
    return t, p


def _weighted(d: Floats, w: Floats, pooled: float | None) -> tuple[Floats, Floats]:
    from scipy.special import stdtr

    whole = w.sum(axis=1)
    mean = np.einsum("ij,ij->i", d, w) / whole
    effective = whole**2 / np.einsum("ij,ij->i", w, w)
    left = d - mean[:, None]
    spread = np.einsum("ij,ij,ij->i", w, left, left) / whole * effective / np.maximum(1.0, effective - 1)
    own = autocorrelations(left, 1)
    r = np.maximum(0.0, own if pooled is None else np.maximum(pooled, own - 1 / np.sqrt(d.shape[1])))
    variance = spread / effective * (1 + r) / (1 - r)
    with np.errstate(divide="ignore", invalid="ignore"):
        t = np.where(variance > 0, mean / np.sqrt(variance), np.where(mean == 0, 0.0, np.sign(mean) * np.inf))
    p = np.where(np.isinf(t), 0.0, 2 * stdtr(np.maximum(1.0, effective - 1), -np.abs(t)))
    return t, np.where((variance <= 0) & (mean == 0), 1.0, p)


def block_test_each(differences: Floats) -> tuple[Floats, Floats]:
    """The same of many at once, shape (tests, periods), all periods known and alike: t and p, shape (tests,)."""
    from scipy.special import stdtr

    n = differences.shape[1]
    if n < LEAST_BLOCKS:
        return np.zeros(differences.shape[0]), np.ones(differences.shape[0])
    mean = differences.mean(axis=1)
    left = differences - mean[:, None]
    r = np.maximum(0.0, autocorrelations(left, 1))
    variance = np.einsum("ij,ij->i", left, left) / max(1, n - 1) / n * (1 + r) / (1 - r)
    with np.errstate(divide="ignore", invalid="ignore"):
        t = np.where(variance > 0, mean / np.sqrt(variance), np.where(mean == 0, 0.0, np.sign(mean) * np.inf))
    p = np.where(np.isinf(t), 0.0, 2 * stdtr(max(1.0, n - 1), -np.abs(t)))
    return t, np.where((variance <= 0) & (mean == 0), 1.0, p)
