"""Tests of means: Welch's t, paired t, Welch's analysis of variance with Games–Howell pairs."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations
from math import sqrt

import numpy as np
import numpy.typing as npt

from ...stats.mean_gap import mean_gap
from ...stats.studentized_range import range_p, range_quantile
from .comparison_results import Pair, Sized, Tested

Floats = npt.NDArray[np.float64]


def welch(a: Floats, b: Floats) -> Tested:
    """Welch's t test of two means (Welch 1947), with Hedges' g and its interval (Hedges & Olkin 1985)."""
    from scipy.special import stdtr, stdtrit

    gap, error, df = mean_gap(a, b)
    t = gap / error if error else (0.0 if gap == 0 else float(np.sign(gap)) * np.inf)
    p = float(2 * stdtr(df, -abs(t)))
    half = float(stdtrit(df, 0.975)) * error
    return Tested(
        name="Welch's t test",
        statistic=t,
        df=(df,),
        p=p,
        effect_name="Hedges' g",
        effect=_hedges(a, b),
        difference=Sized(value=gap, low=gap - half, high=gap + half),
    )


def _hedges(a: Floats, b: Floats) -> Sized:
    n, m = a.size, b.size
    pooled = sqrt(((n - 1) * float(a.var(ddof=1)) + (m - 1) * float(b.var(ddof=1))) / (n + m - 2))
    if pooled == 0:
        return Sized(value=None, low=None, high=None)
    small = 1 - 3 / (4 * (n + m) - 9)
    g = small * float(a.mean() - b.mean()) / pooled
    error = sqrt((n + m) / (n * m) + g * g / (2 * (n + m)))
    return Sized(value=g, low=g - 1.959964 * error, high=g + 1.959964 * error)


def paired_t(a: Floats, b: Floats) -> Tested:
    """Student's t of the differences of pairs (a less b); the effect is their mean in standard deviations of theirs."""
    from scipy.special import stdtr, stdtrit

    d = a - b
    n, sd = d.size, float(d.std(ddof=1))
    error, gap = sd / sqrt(n), float(d.mean())
    t = gap / error if error else (0.0 if gap == 0 else float(np.sign(gap)) * np.inf)
    half = float(stdtrit(n - 1, 0.975)) * error
    size = gap / sd if sd else None
    spread = None if size is None else 1.959964 * sqrt(1 / n + size**2 / (2 * n))
    effect = (
        Sized(value=None, low=None, high=None)
        if size is None or spread is None
        else Sized(value=size, low=size - spread, high=size + spread)
    )
    return Tested(
        name="paired t test",
        statistic=t,
        df=(float(n - 1),),
        p=float(2 * stdtr(n - 1, -abs(t))),
        effect_name="Cohen's d of the differences",
        effect=effect,
        difference=Sized(value=gap, low=gap - half, high=gap + half),
    )


def welch_anova(groups: Sequence[Floats], labels: Sequence[str]) -> Tested:
    """Welch's analysis of variance (Welch 1951) with pairs by Games & Howell (1976); η² with the interval of its
    noncentral F (Steiger 2004)."""
    from scipy.special import fdtrc

    k = len(groups)
    n = np.array([group.size for group in groups], dtype=float)
    mean = np.array([group.mean() for group in groups])
    w = n / np.array([group.var(ddof=1) for group in groups])
    total = w.sum()
    centre = float((w * mean).sum() / total)
    lam = float(np.sum((1 - w / total) ** 2 / (n - 1)))
    f = float(np.sum(w * (mean - centre) ** 2) / (k - 1)) / (1 + 2 * (k - 2) * lam / (k * k - 1))
    df1, df2 = float(k - 1), (k * k - 1) / (3 * lam)
    every = np.concatenate(list(groups))
    between = float(np.sum(n * (mean - every.mean()) ** 2))
    eta = between / float(np.sum((every - every.mean()) ** 2))
    return Tested(
        name="Welch's analysis of variance",
        statistic=f,
        df=(df1, df2),
        p=float(fdtrc(df1, df2, f)),
        effect_name="η²",
        effect=_eta_interval(eta, df1, float(n.sum() - k), float(n.sum())),
        pairs=games_howell(groups, labels),
    )


def _eta_interval(eta: float, df1: float, df2: float, n: float) -> Sized:
    """η² with the interval of its noncentral F (of the classical table, whose η² it is)."""
    from scipy.special import ncfdtr

    f = eta / (1 - eta) * df2 / df1 if eta < 1 else float("inf")
    if not np.isfinite(f):
        return Sized(value=eta, low=None, high=None)

    def bound(level: float) -> float:
        low, high = 0.0, 10.0
        if float(ncfdtr(df1, df2, 0.0, f)) < level:
            return 0.0
        while float(ncfdtr(df1, df2, high, f)) > level and high < 1e7:
            high *= 2
        for _ in range(60):
            middle = (low + high) / 2
            low, high = (middle, high) if float(ncfdtr(df1, df2, middle, f)) > level else (low, middle)
        return (low + high) / 2 / ((low + high) / 2 + n)

    return Sized(value=eta, low=bound(0.975), high=bound(0.025))


def games_howell(groups: Sequence[Floats], labels: Sequence[str]) -> tuple[Pair, ...]:
    """All pairs of means against the studentised range, variances unequal."""
    k = len(groups)
    made = []
    for i, j in combinations(range(k), 2):
        a, b = groups[i], groups[j]
        va, vb = float(a.var(ddof=1)) / a.size, float(b.var(ddof=1)) / b.size
        gap, error = float(a.mean() - b.mean()), sqrt((va + vb) / 2)
        df = (va + vb) ** 2 / (va**2 / (a.size - 1) + vb**2 / (b.size - 1))
        half = range_quantile(0.05, k, df) * error
        made.append(
            Pair(
                a=labels[i],
                b=labels[j],
                difference=gap,
                low=gap - half,
                high=gap + half,
                p=range_p(abs(gap) / error, k, df),
            )
        )
    return tuple(made)
