"""Tests of counts: two proportions, chi-squared, Fisher's exact test."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations
from math import exp, log, sqrt

import numpy as np
import numpy.typing as npt

from ...stats.exact_tests import fisher_p
from ...stats.share_ranges import wilson
from .comparison_results import Pair, Sized, Tested
from .rank_tests import holm

Floats = npt.NDArray[np.float64]


def difference_of(yes: Sequence[float], n: Sequence[float]) -> Sized:
    """Difference of two shares with Newcombe's (1998, method 10) interval, from Wilson's of each."""
    p1, p2 = yes[0] / n[0], yes[1] / n[1]
    l1, u1 = wilson(yes[0], n[0])
    l2, u2 = wilson(yes[1], n[1])
    gap = p1 - p2
    return Sized(
        value=gap, low=gap - sqrt((p1 - l1) ** 2 + (u2 - p2) ** 2), high=gap + sqrt((u1 - p1) ** 2 + (p2 - l2) ** 2)
    )


def two_proportions(yes: Sequence[float], n: Sequence[float]) -> Tested:
    """The z test of two shares, pooled; the effect is the risk ratio (Katz 1978)."""
    from scipy.special import ndtr

    pooled = (yes[0] + yes[1]) / (n[0] + n[1])
    error = sqrt(pooled * (1 - pooled) * (1 / n[0] + 1 / n[1]))
    gap = yes[0] / n[0] - yes[1] / n[1]
    z = gap / error if error else 0.0
    ratio = Sized(value=None, low=None, high=None)
    if yes[0] and yes[1]:
        value = (yes[0] / n[0]) / (yes[1] / n[1])
        spread = 1.959964 * sqrt(1 / yes[0] - 1 / n[0] + 1 / yes[1] - 1 / n[1])
        ratio = Sized(value=value, low=value * exp(-spread), high=value * exp(spread))
    return Tested(
        name="two-proportion z test",
        statistic=z,
        df=(),
        p=float(2 * ndtr(-abs(z))),
        effect_name="risk ratio",
        effect=ratio,
        difference=difference_of(yes, n),
    )


def chi_squared(counts: Floats) -> Tested:
    """Pearson's chi-squared of a table of counts, without Yates' correction; the effect is Cramér's V with the interval
    of its noncentral chi-squared (Smithson 2003)."""
    from scipy.special import chdtrc

    total = float(counts.sum())
    expected = np.outer(counts.sum(axis=1), counts.sum(axis=0)) / total
    statistic = float(((counts - expected) ** 2 / expected).sum())
    r, c = counts.shape
    df = float((r - 1) * (c - 1))
    least = min(r, c) - 1
    return Tested(
        name="chi-squared test",
        statistic=statistic,
        df=(df,),
        p=float(chdtrc(df, statistic)),
        effect_name="Cramér's V",
        effect=Sized(
            value=sqrt(statistic / total / least),
            low=_v(statistic, df, total, least, 0.975),
            high=_v(statistic, df, total, least, 0.025),
        ),
    )


def _v(statistic: float, df: float, total: float, least: int, level: float) -> float:
    from scipy.special import chndtr

    if float(chndtr(statistic, df, 0.0)) < level:
        return 0.0
    low, high = 0.0, max(10.0, 2 * statistic)
    while float(chndtr(statistic, df, high)) > level and high < 1e8:
        high *= 2
    for _ in range(60):
        middle = (low + high) / 2
        low, high = (middle, high) if float(chndtr(statistic, df, middle)) > level else (low, middle)
    return min(1.0, sqrt((low + high) / 2 / total / least))


def fisher(counts: Floats) -> Tested:
    """Fisher's exact test of a two by two table (1935), two-sided by the tables no likelier than this one; the effect
    is the odds ratio (half a row added to each cell where one is empty) with Woolf's interval."""
    a, b = (float(v) for v in counts[0])
    c, d = (float(v) for v in counts[1])
    more = 0.5 if 0 in (a, b, c, d) else 0.0
    ratio = (a + more) * (d + more) / ((b + more) * (c + more))
    spread = 1.959964 * sqrt(sum(1 / (v + more) for v in (a, b, c, d)))
    return Tested(
        name="Fisher's exact test",
        statistic=None,
        df=(),
        p=fisher_p(counts),
        effect_name="odds ratio",
        effect=Sized(value=ratio, low=exp(log(ratio) - spread), high=exp(log(ratio) + spread)),
        difference=difference_of((a, c), (a + b, c + d)),
    )


def pairs_of_shares(yes: Sequence[float], n: Sequence[float], labels: Sequence[str]) -> tuple[Pair, ...]:
    """All pairs of groups by their shares, Holm's correction over them; intervals are each its own."""
    found = []
    for i, j in combinations(range(len(labels)), 2):
        pair = ((yes[i], yes[j]), (n[i], n[j]))
        table = np.array([[yes[i], n[i] - yes[i]], [yes[j], n[j] - yes[j]]])
        expected = np.outer(table.sum(axis=1), table.sum(axis=0)) / table.sum()
        one = two_proportions(*pair) if expected.min() >= 5 else fisher(table)
        found.append((i, j, one))
    adjusted = holm([one.p for _, _, one in found])
    made = []
    for (i, j, one), p in zip(found, adjusted, strict=True):
        assert one.difference is not None
        assert one.difference.value is not None
        made.append(
            Pair(
                a=labels[i],
                b=labels[j],
                difference=one.difference.value,
                low=one.difference.low,
                high=one.difference.high,
                p=p,
            )
        )
    return tuple(made)
