"""A linear regression with its table of coefficients, its fit, and what its residuals say."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import sqrt

import numpy as np
import numpy.typing as npt

from ...stats.least_squares import HOPELESS, solve
from ...support.errors import ColumnError, RequestError
from ...support.phrasing import phrased
from ...tables import Table
from ..drivers.outcome import Outcome, outcome_of, unweighted
from .terms import Term, terms_of

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True, kw_only=True)
class Coefficient:
    """A term: estimate, its classical and its robust (HC3) error, t, p and the 95% interval from the classical one;
    `vif` how many times its variance is larger for going with the other terms; `factor` what it belongs to, `level`
    the label of it that it stands for, where it is one of labels."""

    term: str
    estimate: float
    error: float
    error_hc3: float
    t: float
    p: float
    low: float
    high: float
    vif: float | None
    factor: str = ""
    level: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Regression:
    """A fitted regression. Without an intercept R² is of the plain sums of squares. `notes` are the diagnostics in
    figures,
    (name, figures) pairs that words turn into sentences."""

    outcome: Outcome
    factors: tuple[str, ...]
    intercept: bool
    coefficients: tuple[Coefficient, ...]
    n: int
    r2: float
    adjusted_r2: float
    f: float | None
    df: tuple[float, float]
    p: float | None
    residual_sd: float
    condition: float
    settled: bool
    fitted: Floats
    residual: Floats
    leverage: Floats
    rows: npt.NDArray[np.intp]
    notes: tuple[tuple[str, dict[str, float | str]], ...]
    bases: tuple[str, ...]
    left_out: tuple[str, ...]


def regress(
    table: Table, outcome: str, factors: Sequence[str], *, intercept: bool = True, event: str | None = None
) -> Regression:
    """Fit the outcome to the factors; see `ga.regress`."""
    if not factors:
        raise RequestError("The factors", "nothing", "at least one column or expression")
    # Few rows are enough where a degree of freedom is left.
    about = unweighted(outcome_of(table, outcome, event, least=3), "regress")
    for factor in factors:
        if factor.strip().strip('"').casefold() == about.name.casefold():
            raise RequestError("The factor", factor, "another column than the outcome")
    terms, known, bases = terms_of(about.table, list(dict.fromkeys(factors)), intercept)
    has = np.zeros(about.table.rows, dtype=bool)
    has[about.rows] = True
    place = np.flatnonzero(has & known)
    full = np.full(about.table.rows, np.nan)
    full[about.rows] = about.values
    y = full[place]
    own = [replace(term, values=(term.values[0][place], term.values[1][place])) for term in terms]
    kept, gone = _independent(own)
    n, k = y.size, len(kept)
    if n <= k:
        raise ColumnError(
            about.name,
            f"Only {n:,} rows have the outcome and all factors, too few for {k} terms.",
            "Name fewer factors, or keep more rows.",
        )
    solved = solve([one.values for one in kept], y)
    return _made(about, factors, intercept, kept, gone, bases, y, place, solved)


def _independent(terms: Sequence[Term]) -> tuple[list[Term], list[str]]:
    """Terms that are no combination of those before them: each column's part outside their span, by its own size."""
    kept: list[Term] = []
    gone: list[str] = []
    basis: list[Floats] = []
    for term in terms:
        x = term.values[0]
        size = float(np.linalg.norm(x))
        if size == 0.0:
            gone.append(phrased("{term}: it is nought in every row", term=term.name))
            continue
        rest = x / size
        for _ in range(2):
            for q in basis:
                rest = rest - q * float(q @ rest)
        left = float(np.linalg.norm(rest))
        if left < 1e-13:
            gone.append(phrased("{term}: it is a combination of the other terms", term=term.name))
            continue
        basis.append(rest / left)
        kept.append(term)
    return kept, gone


def _made(
    about: Outcome,
    factors: Sequence[str],
    intercept: bool,
    kept: list[Term],
    gone: list[str],
    bases: list[str],
    y: Floats,
    place: npt.NDArray[np.intp],
    solved: object,
) -> Regression:
    from scipy.special import fdtrc, stdtr, stdtrit

    from ...stats.least_squares import Solved

    assert isinstance(solved, Solved)
    n, k = y.size, len(kept)
    df = n - k
    whole = float(np.sum((y - y.mean()) ** 2)) if intercept else float(y @ y)
    # What is left below the rounding of the outcome itself is nothing.
    rss = solved.rss if solved.rss > 1e-28 * max(float(y @ y), 1e-300) else 0.0
    variance = rss / df
    x = np.column_stack([term.values[0] for term in kept])
    leverage = np.clip(np.einsum("ij,jk,ik->i", x, solved.inverse, x), 0.0, 1.0)
    scores = solved.residual / np.maximum(1 - leverage, 1e-10)
    robust = solved.inverse @ ((x * (scores**2)[:, None]).T @ x) @ solved.inverse
    t95 = float(stdtrit(df, 0.975))
    coefficients = []
    for j, term in enumerate(kept):
        error = sqrt(max(0.0, variance * float(solved.inverse[j, j])))
        b = float(solved.beta[j])
        t = b / error if error else (0.0 if b == 0 else float(np.sign(b)) * float("inf"))
        spread = float(np.sum((x[:, j] - x[:, j].mean()) ** 2)) if intercept else float(x[:, j] @ x[:, j])
        vif = spread * float(solved.inverse[j, j]) if term.name != "intercept" else None
        coefficients.append(
            Coefficient(
                term=term.name,
                estimate=b,
                error=error,
                error_hc3=sqrt(max(0.0, float(robust[j, j]))),
                t=t,
                p=float(2 * stdtr(df, -abs(t))) if np.isfinite(t) else 0.0,
                low=b - t95 * error,
                high=b + t95 * error,
                vif=vif,
                factor=term.factor,
                level=term.level,
            )
        )
    slopes = k - intercept
    r2 = 1 - rss / whole if whole else 0.0
    f = ((whole - rss) / slopes / variance) if slopes and variance else None
    return Regression(
        outcome=about,
        factors=tuple(factors),
        intercept=intercept,
        coefficients=tuple(coefficients),
        n=n,
        r2=r2,
        adjusted_r2=1 - (1 - r2) * (n - intercept) / df,
        f=f,
        df=(float(slopes), float(df)),
        p=None if f is None else float(fdtrc(slopes, df, f)),
        residual_sd=sqrt(variance),
        condition=solved.condition,
        settled=solved.settled,
        fitted=y - solved.residual,
        residual=solved.residual,
        leverage=leverage,
        rows=place,
        notes=tuple(_notes(solved, x, leverage, coefficients, variance, n, k)),
        bases=tuple(bases),
        left_out=tuple(gone),
    )


def _notes(
    solved: object, x: Floats, leverage: Floats, coefficients: Sequence[Coefficient], variance: float, n: int, k: int
) -> list[tuple[str, dict[str, float | str]]]:
    from scipy.special import chdtrc

    from ...stats.least_squares import Solved

    assert isinstance(solved, Solved)
    found: list[tuple[str, dict[str, float | str]]] = []
    residual = solved.residual
    if not solved.settled or solved.condition > HOPELESS:
        found.append(("ill-conditioned", {"condition": solved.condition}))
    high = [coefficient for coefficient in coefficients if coefficient.vif is not None and coefficient.vif > 10]
    if high:
        worst = max(high, key=lambda one: one.vif or 0.0)
        found.append(("collinear", {"term": worst.term, "vif": worst.vif or 0.0, "count": float(len(high))}))
    sd = float(residual.std())
    if sd > 0 and n >= 20 and variance > 0:
        skew, tails = float(np.mean((residual / sd) ** 3)), float(np.mean((residual / sd) ** 4)) - 3
        # Jarque & Bera 1980.
        p = float(chdtrc(2, n / 6 * (skew**2 + tails**2 / 4)))
        found.append(("residuals", {"skew": skew, "tails": tails, "p": p}))
        # White 1980, in its short form: do the squares go with the fit and its square?
        squares, fitted = residual**2, x @ solved.beta
        scale = float(np.ptp(fitted)) or 1.0
        centred = (fitted - fitted.mean()) / scale
        q = np.linalg.qr(np.column_stack([np.ones(n), centred, centred**2]))[0]
        about = squares - squares.mean()
        share = float(np.sum((q.T @ about) ** 2)) / max(float(about @ about), 1e-300)
        found.append(("spread", {"p": float(chdtrc(2, n * min(1.0, share)))}))
    if variance > 0 and n > k + 2:
        cook = residual**2 * leverage / (k * variance * np.maximum(1 - leverage, 1e-10) ** 2)
        worst_row = int(np.argmax(cook))
        found.append(
            ("leverage", {"row": float(worst_row), "cook": float(cook[worst_row]), "many": float((cook > 4 / n).sum())})
        )
    return found
