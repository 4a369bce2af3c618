"""Tests of ranks: Mann–Whitney, Wilcoxon, Kruskal–Wallis with Dunn's pairs."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations
from math import sqrt

import numpy as np
import numpy.typing as npt

from .comparison_results import Pair, Sized, Tested

Floats = npt.NDArray[np.float64]
#: Values of a side beyond which pairwise differences are taken from its quantiles.
_MOST = 1500


def ranked(values: Floats) -> tuple[Floats, float]:
    """Ranks from 1, ties sharing their middle, and Σ(t³ − t) over ties of t."""
    order = np.argsort(values, kind="stable")
    sorted_ = values[order]
    starts = np.flatnonzero(np.r_[True, sorted_[1:] != sorted_[:-1]])
    lengths = np.diff(np.append(starts, values.size))
    ranks = np.empty(values.size)
    ranks[order] = np.repeat(starts + (lengths + 1) / 2, lengths)
    lengths = lengths.astype(float)
    return ranks, float(np.sum(lengths**3 - lengths))


def mann_whitney(a: Floats, b: Floats, level: float = 0.05) -> Tested:
    """U of the first group, normal approximation corrected for ties and continuity (Mann & Whitney 1947); the effect is
    P(a > b) + P(a = b)/2 with its interval (Newcombe 2006, method 5); the difference is Hodges & Lehmann's (1963)."""
    from scipy.special import ndtr

    n, m = float(a.size), float(b.size)
    ranks, ties = ranked(np.concatenate([a, b]))
    u = float(ranks[: a.size].sum()) - n * (n + 1) / 2
    total = n + m
    spread = sqrt(n * m / 12 * (total + 1 - ties / (total * (total - 1))))
    away = max(0.0, abs(u - n * m / 2) - 0.5)
    z = away / spread if spread else 0.0
    wins = u / (n * m)
    return Tested(
        name="Mann–Whitney U test",
        statistic=u,
        df=(),
        p=float(min(1.0, 2 * ndtr(-z))),
        effect_name="chance that the first is larger",
        effect=_wins(wins, n, m),
        difference=hodges_lehmann(a, b, level),
    )


def _wins(theta: float, n: float, m: float) -> Sized:
    """Newcombe's score-like interval of P(a > b)."""
    star = (n + m) / 2 - 1

    def error(t: float) -> float:
        return sqrt(max(0.0, t * (1 - t) * (1 + star * (1 - t) / (2 - t) + star * t / (1 + t)) / (n * m)))

    ends = []
    for sign in (-1, 1):
        low, high = (0.0, theta) if sign < 0 else (theta, 1.0)
        for _ in range(60):
            middle = (low + high) / 2
            outside = abs(theta - middle) > 1.959964 * error(middle)
            if sign < 0:
                low, high = (middle, high) if outside else (low, middle)
            else:
                low, high = (low, middle) if outside else (middle, high)
        ends.append((low + high) / 2)
    return Sized(value=theta, low=ends[0], high=ends[1])


def hodges_lehmann(a: Floats, b: Floats, level: float = 0.05) -> Sized:
    """Median of all differences a − b, and the interval that Mann–Whitney's test does not refuse."""
    from scipy.special import ndtri

    n, m = a.size, b.size
    x, y = _thin(a), _thin(b)
    gaps = np.sort((x[:, None] - y[None, :]).ravel())
    half = float(ndtri(1 - level / 2)) * sqrt(n * m * (n + m + 1) / 12) / (n * m)
    low, high = (int(np.clip(round((0.5 + sign * half) * gaps.size), 0, gaps.size - 1)) for sign in (-1, 1))
    return Sized(value=float(np.median(gaps)), low=float(gaps[low]), high=float(gaps[high]))


def _thin(values: Floats) -> Floats:
    if values.size <= _MOST:
        return values
    return np.asarray(np.quantile(values, (np.arange(_MOST) + 0.5) / _MOST))


def wilcoxon(a: Floats, b: Floats) -> Tested:
    """Signed ranks of the pairs (Wilcoxon 1945), pairs without a difference left out: exact up to 25 pairs without
    ties, else normal, corrected for ties and continuity. The effect is the rank-biserial correlation (Kerby 2014)."""
    from scipy.special import ndtr

    d = a - b
    d = d[d != 0]
    n = d.size
    if not n:
        return Tested(
            name="Wilcoxon signed-rank test",
            statistic=0.0,
            df=(),
            p=1.0,
            effect_name="rank-biserial correlation",
            effect=Sized(value=0.0, low=None, high=None),
            difference=Sized(value=0.0, low=0.0, high=0.0),
        )
    ranks, ties = ranked(np.abs(d))
    plus = float(ranks[d > 0].sum())
    whole = n * (n + 1) / 2
    if n <= 25 and not ties:
        p = min(1.0, 2 * _signed_tail(n, min(plus, whole - plus)))
    else:
        spread = sqrt(n * (n + 1) * (2 * n + 1) / 24 - ties / 48)
        p = float(min(1.0, 2 * ndtr(-max(0.0, abs(plus - whole / 2) - 0.5) / spread)))
    every = np.sort(_walsh(a - b))
    from scipy.special import ndtri

    half = float(ndtri(0.975)) * sqrt(n * (n + 1) * (2 * n + 1) / 24) / whole
    ends = [float(every[int(np.clip(round((0.5 + s * half) * every.size), 0, every.size - 1))]) for s in (-1, 1)]
    r = (2 * plus - whole) / whole
    # Fisher's z with the variance of a rank correlation of pairs.
    z, e = np.arctanh(np.clip(r, -0.999999, 0.999999)), 1.959964 * sqrt((2 * (2 * n + 1)) / (3 * n * (n + 1)))
    return Tested(
        name="Wilcoxon signed-rank test",
        statistic=plus,
        df=(),
        p=p,
        effect_name="rank-biserial correlation",
        effect=Sized(value=r, low=float(np.tanh(z - e)), high=float(np.tanh(z + e))),
        difference=Sized(value=float(np.median(every)), low=ends[0], high=ends[1]),
    )


def _signed_tail(n: int, w: float) -> float:
    """P(W ≤ w) by counting the subsets of 1…n."""
    ways = np.zeros(n * (n + 1) // 2 + 1)
    ways[0] = 1.0
    for rank in range(1, n + 1):
        ways[rank:] += ways[:-rank].copy()
    return float(ways[: int(w) + 1].sum() / 2.0**n)


def _walsh(d: Floats) -> Floats:
    """Means of all pairs of differences, each with itself."""
    x = _thin(d) if d.size > _MOST else d
    i, j = np.triu_indices(x.size)
    return np.asarray((x[i] + x[j]) / 2)


def kruskal(groups: Sequence[Floats], labels: Sequence[str]) -> Tested:
    """Kruskal–Wallis (1952) corrected for ties, pairs by Dunn (1964) with Holm's correction; the effect is ε² with a
    bootstrap interval (resampled 400 times, always the same)."""
    from scipy.special import chdtrc, ndtr

    sizes = np.array([group.size for group in groups], dtype=float)
    total = float(sizes.sum())
    ranks, ties = ranked(np.concatenate(list(groups)))
    h, means = _h(ranks, sizes, ties)
    shared = total * (total + 1) / 12 - ties / (12 * (total - 1))
    raw = []
    for i, j in combinations(range(len(groups)), 2):
        error = sqrt(shared * (1 / sizes[i] + 1 / sizes[j]))
        z = (means[i] - means[j]) / error if error else 0.0
        raw.append((i, j, float(2 * ndtr(-abs(z)))))
    adjusted = holm([p for _, _, p in raw])
    pairs = []
    for (i, j, _), p in zip(raw, adjusted, strict=True):
        gap = hodges_lehmann(groups[i], groups[j], 0.05 / len(raw))
        assert gap.value is not None
        pairs.append(Pair(a=labels[i], b=labels[j], difference=gap.value, low=gap.low, high=gap.high, p=p))
    return Tested(
        name="Kruskal–Wallis test",
        statistic=h,
        df=(float(len(groups) - 1),),
        p=float(chdtrc(len(groups) - 1, h)),
        effect_name="ε²",
        effect=_epsilon(groups, h / (total - 1)),
        pairs=tuple(pairs),
    )


def _h(ranks: Floats, sizes: Floats, ties: float) -> tuple[float, Floats]:
    total = float(sizes.sum())
    ends = np.cumsum(sizes).astype(int)
    means = np.array([part.mean() for part in np.split(ranks, ends[:-1])])
    h = 12 / (total * (total + 1)) * float(np.sum(sizes * (means - (total + 1) / 2) ** 2))
    return h / (1 - ties / (total**3 - total)) if ties < total**3 - total else 0.0, means


def _epsilon(groups: Sequence[Floats], value: float) -> Sized:
    chance = np.random.Generator(np.random.PCG64(20_260_101))
    thin = [group if group.size <= 2000 else _thin(group) for group in groups]
    sizes = np.array([one.size for one in thin], dtype=float)
    made = []
    for _ in range(400):
        drawn = [one[chance.integers(0, one.size, one.size)] for one in thin]
        ranks, ties = ranked(np.concatenate(drawn))
        made.append(_h(ranks, sizes, ties)[0] / (sizes.sum() - 1))
    low, high = np.quantile(made, (0.025, 0.975))
    return Sized(value=value, low=float(min(low, value)), high=float(max(high, value)))


def holm(p: Sequence[float]) -> list[float]:
    """Holm's (1979) adjusted p-values, in the order given."""
    order = sorted(range(len(p)), key=lambda i: p[i])
    made, running = [0.0] * len(p), 0.0
    for place, i in enumerate(order):
        running = max(running, min(1.0, p[i] * (len(p) - place)))
        made[i] = running
    return made
