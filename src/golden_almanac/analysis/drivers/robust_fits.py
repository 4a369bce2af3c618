"""Fits with robust errors: least squares with HC3 (MacKinnon & White 1985) or, where rows of one week, or of one
customer, lean on each other, by those (Bell & McCaffrey 2002); and a logistic fit for odds. A trace of ridge keeps both
from falling over."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..clusters import Clusters, leaning
from .design_matrix import Design

Floats = npt.NDArray[np.float64]

#: Ridge per row, on columns of about unit size: enough to keep a solution, too little to move a digit of it.
_RIDGE = 1e-9
_HIGHEST_LEVERAGE = 0.999


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Robust:
    """Coefficients (k,), their covariance (k, k), degrees of freedom, residuals (n,), R², and how errors were made."""

    beta: Floats
    covariance: Floats
    df: float
    residual: Floats
    r2: float
    errors: str

    def contrast(self, weights: Floats) -> tuple[float, float]:
        """A weighted sum of coefficients and its standard error."""
        value = float(weights @ self.beta)
        return value, float(np.sqrt(max(0.0, float(weights @ self.covariance @ weights))))

    def t_p(self, value: float, error: float) -> float:
        from scipy.special import stdtr

        if error <= 0:
            return 0.0 if value else 1.0
        return float(2 * stdtr(self.df, -abs(value / error)))

    def quantile(self, level: float = 0.975) -> float:
        from scipy.special import stdtrit

        return float(stdtrit(self.df, level))

    def joint_p(self, block: slice) -> float:
        """That a whole block of coefficients is nought: Wald's test against F, with what its estimation costs."""
        from scipy.special import fdtrc

        b, v = self.beta[block], self.covariance[block, block]
        rank = b.size
        if not rank:
            return 1.0
        wald = float(b @ np.linalg.lstsq(v, b, rcond=1e-12)[0])
        df2 = max(1.0, self.df - rank + 1)
        return float(fdtrc(rank, df2, max(0.0, wald / rank * df2 / max(self.df, 1.0))))


def least_squares(
    design: Design, y: Floats, weights: Floats | None = None, clusters: Sequence[Clusters] = ()
) -> Robust:
    """Weighted least squares over all rows. Of the `clusters` whose rows lean on each other, those count that make the
    estimates least sure; of weeks and days the longer."""
    gram, moment = _sums(design, y, weights)
    diagonal = _RIDGE * design.n * np.eye(design.k)
    diagonal[0, 0] = 0.0
    inverse: Floats = np.asarray(np.linalg.inv(gram + diagonal), dtype=np.float64)
    beta = inverse @ moment
    root = np.linalg.cholesky((inverse + inverse.T) / 2)
    fitted = np.empty(design.n)
    meat = np.zeros((design.k, design.k))
    for where, x in design.stretches():
        w = 1.0 if weights is None else weights[where]
        fitted[where] = x @ beta
        h = np.minimum(np.sum((x @ root) ** 2, axis=1) * w, _HIGHEST_LEVERAGE)
        e = (y[where] - fitted[where]) * w / (1 - h)
        meat += x.T @ (x * (e * e)[:, None])
    residual = y - fitted
    covariance = inverse @ meat @ inverse
    df = max(1.0, design.n - design.k)
    how = "HC3"
    w = np.ones(design.n) if weights is None else weights
    best: tuple[float, Clusters, Floats, int] | None = None
    for one in clusters:
        count = leaning(residual, w, one.codes)
        if count is None or (best is not None and {best[1].name, one.name} == {"week", "day"}):
            continue
        own = _by_cluster(design, residual, np.asarray(w, dtype=np.float64), one.codes, inverse)
        unsure = float(np.log(np.maximum(np.diag(own), 1e-300)).sum())
        if best is None or unsure > best[0]:
            best = unsure, one, own, count
    if best is not None:
        _, chosen, own, count = best
        # The larger of both for each coefficient: neither is sure of itself in few clusters.
        larger = np.sqrt(np.maximum(1.0, np.diag(covariance) / np.maximum(np.diag(own), 1e-300)))
        covariance, df = own * np.outer(larger, larger), float(count - 1)
        how = "by week" if chosen.name in ("week", "day") else f"by {chosen.name}"
    spread = float(np.sum(w * (y - np.average(y, weights=w)) ** 2))
    r2 = 1 - float(np.sum(w * residual**2)) / spread if spread > 0 else 0.0
    return Robust(beta=beta, covariance=covariance, df=df, residual=residual, r2=r2, errors=how)


def _sums(design: Design, y: Floats, weights: Floats | None) -> tuple[Floats, Floats]:
    gram, moment = np.zeros((design.k, design.k)), np.zeros(design.k)
    for where, x in design.stretches():
        wx = x if weights is None else x * weights[where][:, None]
        gram += wx.T @ x
        moment += wx.T @ y[where]
    return gram, moment


def _by_cluster(design: Design, residual: Floats, w: Floats, codes: npt.NDArray[np.intp], inverse: Floats) -> Floats:
    """The jackknife over clusters (CR3, Bell & McCaffrey 2002): each cluster's score is what it would be had it taken
    no part in the fit, so that a month of four weeks is as unsure as four weeks are."""
    order = np.argsort(codes, kind="stable")
    ends = np.flatnonzero(np.r_[np.diff(codes[order]) != 0, True]) + 1
    meat = np.zeros((design.k, design.k))
    first = 0
    eye = np.eye(design.k)
    for last in ends.tolist():
        rows = order[first:last]
        x = design.dense(rows)
        wx = x * w[rows, None]
        score = np.linalg.solve((1 + 1e-6) * eye - (wx.T @ x) @ inverse, wx.T @ residual[rows])
        meat += np.outer(score, score)
        first = last
    groups = ends.size
    return np.asarray((groups - 1) / groups * (inverse @ meat @ inverse), dtype=np.float64)


def logistic(design: Design, y: Floats) -> tuple[Floats, bool]:
    """Logistic coefficients by Newton's steps with a trace of ridge, and whether they settled (they do not where the
    factors part yes from no without error)."""
    beta = np.zeros(design.k)
    share = float(np.clip(y.mean(), 1e-6, 1 - 1e-6))
    beta[0] = np.log(share / (1 - share))
    ridge = 1e-6 * design.n * np.eye(design.k)
    ridge[0, 0] = 0.0
    for _ in range(25):
        gram, moment = np.zeros((design.k, design.k)), np.zeros(design.k)
        for where, x in design.stretches():
            p = 1 / (1 + np.exp(-np.clip(x @ beta, -35, 35)))
            gram += x.T @ (x * (p * (1 - p))[:, None])
            moment += x.T @ (y[where] - p)
        step = np.linalg.solve(gram + ridge + 1e-12 * np.eye(design.k), moment - ridge @ beta)
        size = float(np.abs(step).max())
        beta = beta + step * min(1.0, 4.0 / size if size else 1.0)
        if size < 1e-8:
            break
    return beta, bool(size < 1e-6 and np.abs(beta[1:]).max(initial=0.0) < 12)
