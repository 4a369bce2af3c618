"""Least squares on short series whose errors lean on the month before.

A monthly series with positive autocorrelation shows trends that are not there. Errors are taken as
first-order autoregressive; its coefficient is estimated from the residuals, corrected for the bias
that a fitted mean and trend bring (Marriott & Pope 1954; Kendall 1954), and the series is whitened
(Prais & Winsten 1954) before slopes are tested.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
#: Autocorrelation is never believed to be higher: the whitened series would hold nothing.
HIGHEST = 0.98


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Fit:
    """A fitted line in the columns of a design: estimates, their errors, residuals, degrees of freedom."""

    beta: Floats
    error: Floats
    residual: Floats
    df: int
    rss: float
    phi: float = 0.0

    def t(self, column: int) -> float:
        error = float(self.error[column])
        if error == 0.0:
            return 0.0 if self.beta[column] == 0 else float(np.sign(self.beta[column])) * np.inf
        return float(self.beta[column]) / error

    def p(self, column: int) -> float:
        """Two-sided p-value of a coefficient, by Student's t."""
        from scipy.special import stdtr

        t = self.t(column)
        return float(2 * stdtr(self.df, -abs(t))) if np.isfinite(t) else 0.0


def basis(design: Floats) -> Floats:
    """Orthonormal columns, shape (n, k), that span those of `design`, shape (n, k), n ≥ k.

    LAPACK itself: a scan asks for thousands of small ones, for which the checks of `numpy.linalg.qr` take longer.
    """
    from scipy.linalg.lapack import dgeqrf, dorgqr

    if design.shape[0] < design.shape[1]:
        return np.linalg.qr(design)[0]
    packed, scale, _, _ = dgeqrf(design)
    return np.asarray(dorgqr(packed, scale)[0])


@lru_cache(maxsize=64)
def _identity(k: int) -> Floats:
    return np.eye(k)


def ols(design: Floats, y: Floats, spent: int = 0) -> Fit:
    """Ordinary least squares by QR; `spent` degrees of freedom were used up before. Shapes (n, k), (n,)."""
    from scipy.linalg.lapack import dgeqrf, dorgqr, dtrtrs

    n, k = design.shape
    packed, scale, _, _ = dgeqrf(design)
    diagonal = np.abs(np.diag(packed))
    if n < k or diagonal.min(initial=np.inf) <= 1e-10 * diagonal.max(initial=0.0):
        beta = np.asarray(np.linalg.lstsq(design, y, rcond=None)[0], dtype=np.float64)
        inverse = np.linalg.pinv(np.triu(packed[:k]))
    else:
        q, r = dorgqr(packed, scale)[0], packed[:k]
        beta = np.asarray(dtrtrs(r, q.T @ y)[0], dtype=np.float64)
        inverse = np.asarray(dtrtrs(r, _identity(k))[0])
    residual = y - design @ beta
    rss = float(residual @ residual)
    df = max(1, n - k - spent)
    floor = 1e-24 * float(y @ y)  # below this the fit is exact and only rounding is left
    error = np.sqrt(max(rss, floor) / df * np.sum(inverse * inverse, axis=1))
    return Fit(beta=beta, error=error, residual=residual, df=df, rss=max(rss, floor))


def left_over(design: Floats, y: Floats) -> tuple[float, int]:
    """Residual sum of squares of a least-squares fit, and its number of values: enough for `bic`."""
    q = basis(design)
    residual = y - q @ (q.T @ y)
    return max(float(residual @ residual), 1e-24 * float(y @ y)), y.size


def autocorrelation(residual: Floats, trend_columns: int, margin: float = 0.0) -> float:
    """First-order autocorrelation of residuals, corrected for `trend_columns` fitted columns; at most 0.9.

    `margin` standard errors are put on top where a single short series must speak for itself.
    """
    return float(autocorrelations(residual[None], trend_columns, margin)[0])


def autocorrelations(residual: Floats, trend_columns: int, margin: float = 0.0) -> Floats:
    """The same of many series at once, shape (series, n); shape (series,)."""
    n = residual.shape[1]
    spread = np.einsum("ij,ij->i", residual, residual)
    if n < 8:
        return np.zeros(residual.shape[0])
    raw = np.einsum("ij,ij->i", residual[:, 1:], residual[:, :-1]) / np.where(spread > 0, spread, 1.0)
    phi = (raw + trend_columns / n) / max(0.3, 1 - (trend_columns + 2) / n)
    phi = phi + margin * np.sqrt((1 - np.minimum(1.0, phi * phi)) / n)
    return np.where(spread > 0, np.clip(phi, -HIGHEST, HIGHEST), 0.0)


def whiten(phi: float, *arrays: Floats) -> list[Floats]:
    """Prais–Winsten transform of arrays along their first axis."""
    turned = []
    for array in arrays:
        white = array.astype(np.float64, copy=True)
        white[1:] -= phi * array[:-1]
        white[0] *= np.sqrt(1 - phi * phi)
        turned.append(white)
    return turned


def gls(design: Floats, y: Floats, phi: float) -> Fit:
    """Regression with first-order autoregressive errors; residuals are those of the whitened series."""
    white_design, white_y = whiten(phi, design, y)
    fit = ols(white_design, white_y, spent=1)
    return Fit(beta=fit.beta, error=fit.error, residual=fit.residual, df=fit.df, rss=fit.rss, phi=phi)


def last_t(design: Floats, y: Floats) -> tuple[float, int]:
    """t of the last column of a design, with positively autoregressive errors, and its degrees of freedom."""
    phi = max(0.0, autocorrelation(ols(design, y).residual, design.shape[1]))
    fit = gls(design, y, phi)
    return (float(fit.beta[-1] / fit.error[-1]) if fit.error[-1] > 0 else float("inf")), fit.df


def bic(rss: float, n: int, parameters: int) -> float:
    """Bayesian information criterion of a Gaussian fit (Schwarz 1978); smaller is better."""
    return float(n * np.log(rss / n) + parameters * np.log(n)) if rss > 0 else -np.inf
