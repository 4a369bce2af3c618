"""Least squares on many short series at once: one factorisation where they share a design, one call where they do not.

The same fits as in `autocorrelated_fits`, with a first axis for the series. A scan asks for thousands of them, and a
Python call for each would take longer than the arithmetic.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from .autocorrelated_fits import HIGHEST, Floats, gls

#: Values from which memory is looked for beyond the period before, and the most periods it is looked for in.
_LONG, _MOST_LAGS = 60, 12


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Fits:
    """Fits of many series: estimates and errors, shape (series, columns), what is left over, shape (series,), with
    `df` degrees of freedom of its own, and so many more that siblings `known` of the variance, shape (series,)."""

    beta: Floats
    error: Floats
    df: int
    rss: Floats
    known: Floats

    def moderated(self, variance: Floats, known: Floats) -> Fits:
        """The same where siblings know the variance of each series, with so many degrees of freedom, both of shape
        (series,): weighed with the series' own (Smyth 2004)."""
        own = self.rss / self.df
        with np.errstate(divide="ignore", invalid="ignore"):
            ratio = np.sqrt((self.rss + known * variance) / (self.df + known) / own)
        error = self.error * np.where(own > 0, ratio, 1.0)[:, None]
        return replace(self, error=error, known=known)

    def t(self, column: int) -> Floats:
        beta, error = self.beta[:, column], self.error[:, column]
        with np.errstate(divide="ignore", invalid="ignore"):
            found = np.asarray(beta / error)
        return np.asarray(np.where(error == 0, np.where(beta == 0, 0.0, np.sign(beta) * np.inf), found))

    def p(self, column: int) -> Floats:
        """Two-sided p-values of a coefficient, by Student's t."""
        from scipy.special import stdtr

        t: Floats = np.abs(self.t(column))
        found: Floats = np.where(
            np.isfinite(t), 2 * stdtr(self.df + self.known, -np.where(np.isfinite(t), t, 0.0)), 0.0
        )
        return found


def residuals(q: Floats, y: Floats) -> Floats:
    """What orthonormal columns `q`, shape (n, k), leave of each series in `y`, shape (series, n)."""
    return np.asarray(y - (y @ q) @ q.T)


def left_over(residual: Floats, y: Floats) -> Floats:
    """Residual sums of squares, shape (series,): never below the rounding of the values themselves."""
    squares, floor = np.einsum("ij,ij->i", residual, residual), 1e-24 * np.einsum("ij,ij->i", y, y)
    return np.asarray(np.maximum(squares, floor))


def bic(rss: Floats, n: int, parameters: int) -> Floats:
    """Bayesian information criterion of Gaussian fits (Schwarz 1978); smaller is better."""
    with np.errstate(divide="ignore"):
        return np.asarray(n * np.log(rss / n) + parameters * np.log(n))


def gls_each(designs: Floats, y: Floats, phi: Floats) -> Fits:
    """Regressions with first-order autoregressive errors, a memory `phi` for each series.

    `designs` have shape (n, k), shared, or (series, n, k); `y` (series, n). Where columns depend on each other the
    series is fitted by itself (see `autocorrelated_fits.gls`).
    """
    n, k = designs.shape[-2:]
    white_y = _whitened(y[:, :, None], phi)[:, :, 0]
    white = _whitened(np.broadcast_to(designs, (y.shape[0], n, k)), phi)
    q, r = np.linalg.qr(white)
    diagonal = np.abs(np.diagonal(r, axis1=1, axis2=2))
    lean = diagonal.min(axis=1) <= 1e-10 * diagonal.max(axis=1)
    if lean.any():
        r[lean] = np.eye(k)
    inverse = np.linalg.inv(r)
    beta = np.einsum("sij,sj->si", inverse, np.einsum("snk,sn->sk", q, white_y))
    residual = white_y - np.einsum("snk,sk->sn", white, beta)
    rss = left_over(residual, white_y)
    df = max(1, n - k - 1)
    error = np.sqrt(rss / df)[:, None] * np.sqrt(np.einsum("sij,sij->si", inverse, inverse))
    for place in np.flatnonzero(lean):
        one = gls(designs if designs.ndim == 2 else designs[place], y[place], float(phi[place]))
        beta[place], error[place], rss[place] = one.beta, one.error, one.rss
    return Fits(beta=beta, error=error, df=df, rss=rss, known=np.zeros(y.shape[0]))


def lasting(residual: Floats, spent: int) -> Floats:
    """The first-order memory that would make the long-run variance what an autoregression of higher order, its order by
    AIC, says it is: what remembers longer than its first lag shows makes slower waves. `residual`: shape (series, n);
    `spent` columns were fitted; shape (series,), nought for fewer than sixty values."""
    series, n = residual.shape
    best = np.zeros(series)
    if n < _LONG:
        return best
    most = min(_MOST_LAGS, n // 10)
    gamma = np.stack([np.einsum("ij,ij->i", residual[:, lag:], residual[:, : n - lag]) for lag in range(most + 1)]) / n
    # Levinson and Durbin: the Yule–Walker equations order by order.
    error, coefficients = gamma[0].copy(), np.empty((series, 0))
    score = n * np.log(np.maximum(error, 1e-300))
    for order in range(1, most + 1):
        ahead = np.einsum("ij,ij->i", coefficients, gamma[order - 1 : 0 : -1].T) if order > 1 else 0.0
        with np.errstate(divide="ignore", invalid="ignore"):
            reflection = np.where(error > 0, (gamma[order] - ahead) / error, 0.0)
        coefficients = np.hstack([coefficients - reflection[:, None] * coefficients[:, ::-1], reflection[:, None]])
        error = error * (1 - reflection**2)
        now = n * np.log(np.maximum(error, 1e-300)) + 2 * order
        better = now < score
        score = np.where(better, now, score)
        # Each column fitted hides as much of the sum as it does of a first-order coefficient.
        total = np.minimum(HIGHEST, (coefficients.sum(axis=1) + spent / n) / max(0.3, 1 - (spent + 2) / n))
        with np.errstate(divide="ignore", invalid="ignore"):
            ratio = error / np.maximum(1 - total, 1e-6) ** 2 / gamma[0]
            best = np.where(better & (gamma[0] > 0), (ratio - 1) / (ratio + 1), best)
    return best


def _whitened(arrays: Floats, phi: Floats) -> Floats:
    """Prais–Winsten transform along the second axis, a memory for each series; shape (series, n, k)."""
    memory = phi[:, None, None]
    white = np.array(arrays, dtype=np.float64)
    white[:, 1:] -= memory * arrays[:, :-1]
    white[:, :1] *= np.sqrt(1 - memory * memory)
    return white
