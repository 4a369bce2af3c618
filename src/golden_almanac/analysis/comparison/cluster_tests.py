"""Tests of means where rows of one cluster resemble each other: what is counted are the clusters.

The means are those of the rows; their covariance is that of the clusters' sums of residuals (Liang and Zeger 1986),
each widened by what its mean took of it (Bell and McCaffrey 2002), which also holds where a cluster has rows in several
groups. The degrees of freedom are those of so many clusters of equal size as know the variance as well.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations
from math import sqrt

import numpy as np
import numpy.typing as npt

from .comparison_results import Pair, Sized, Tested

Floats = npt.NDArray[np.float64]
#: Names of the tests of two groups, and of more.
TWO, MANY = "cluster-robust t test", "cluster-robust Wald test"


def cluster_means(samples: Sequence[Floats], clusters: Sequence[npt.NDArray[np.intp]], labels: Sequence[str]) -> Tested:
    """The means of groups, each with the codes of its rows' clusters."""
    from scipy.special import fdtrc, stdtr, stdtrit

    means = np.array([values.mean() for values in samples])
    covariance, df = _covariance(samples, clusters, means)
    k = len(samples)
    if k == 2:
        gap = float(means[0] - means[1])
        error = sqrt(max(0.0, float(covariance[0, 0] + covariance[1, 1] - 2 * covariance[0, 1])))
        t = gap / error if error else (0.0 if gap == 0 else float(np.sign(gap)) * np.inf)
        half = float(stdtrit(df, 0.975)) * error
        return Tested(
            name=TWO,
            statistic=t,
            df=(df,),
            p=float(2 * stdtr(df, -abs(t))),
            effect_name="Hedges' g",
            effect=Sized(value=None, low=None, high=None),
            difference=Sized(value=gap, low=gap - half, high=gap + half),
        )
    contrasts = np.column_stack([np.ones(k - 1), -np.eye(k - 1)])
    gaps = contrasts @ means
    wald = float(gaps @ np.linalg.lstsq(contrasts @ covariance @ contrasts.T, gaps, rcond=1e-12)[0])
    df1, df2 = float(k - 1), max(1.0, df - k + 2)
    f = max(0.0, wald / df1 * df2 / df)
    return Tested(
        name=MANY,
        statistic=f,
        df=(df1, df2),
        p=float(fdtrc(df1, df2, f)),
        effect_name="η²",
        effect=Sized(value=None, low=None, high=None),
        pairs=_pairs(means, covariance, df, labels),
    )


def _covariance(
    samples: Sequence[Floats], clusters: Sequence[npt.NDArray[np.intp]], means: Floats
) -> tuple[Floats, float]:
    """The covariance of the means, shape (groups, groups), and its degrees of freedom."""
    size = 1 + max(int(codes.max()) for codes in clusters)
    shares = np.column_stack([np.bincount(codes, minlength=size) / codes.size for codes in clusters])
    sums = np.column_stack(
        [
            np.bincount(codes, weights=(values - mean) / values.size, minlength=size)
            for values, codes, mean in zip(samples, clusters, means, strict=True)
        ]
    )
    # A group of one cluster knows nothing of how clusters differ: what it has is left as it is.
    scores = sums / np.sqrt(np.where(shares < 1, 1 - shares, 1.0))
    weights = (shares**2).sum(axis=1)
    worth = float(weights.sum() ** 2 / (weights @ weights))
    return np.asarray(scores.T @ scores), max(1.0, worth - 1)


def _pairs(means: Floats, covariance: Floats, df: float, labels: Sequence[str]) -> tuple[Pair, ...]:
    """All pairs of means, corrected for their number (Bonferroni)."""
    from scipy.special import stdtr, stdtrit

    made = []
    every = list(combinations(range(means.size), 2))
    for i, j in every:
        gap = float(means[i] - means[j])
        error = sqrt(max(0.0, float(covariance[i, i] + covariance[j, j] - 2 * covariance[i, j])))
        half = float(stdtrit(df, 1 - 0.025 / len(every))) * error
        p = float(2 * stdtr(df, -abs(gap / error))) if error else float(gap == 0)
        made.append(
            Pair(a=labels[i], b=labels[j], difference=gap, low=gap - half, high=gap + half, p=min(1.0, p * len(every)))
        )
    return tuple(made)
