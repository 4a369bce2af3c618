"""Tests of rows where rows of one customer, or one invoice, resemble each other: what is counted are the clusters.

The statistic is a sum over rows of something whose mean is nought by chance; its variance is that of the clusters' sums
(Liang and Zeger 1986, with the factor G/(G − 1) for G clusters), its reference Student's t with G − 1 degrees of
freedom. It is asked for what other tests are sure of, and the less sure of all tests counts.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from ...aggregation import Survey
from ...stats.autocorrelated_fits import Floats
from ..clusters import Clusters, key_clusters, leaning

#: What chance shows more often than this need not be looked at again.
CLEAR = 0.05


def clusters_of(survey: Survey) -> list[Clusters]:
    """What the rows that tests take belong to, by the columns that number it."""

    def make() -> list[Clusters]:
        table = survey.drawn().table
        return key_clusters(table, np.arange(table.rows, dtype=np.intp), keys_only=True)

    return survey._once(("clusters",), make)


def clustered_p(
    survey: Survey, parts: Floats, used: npt.NDArray[np.bool_], by: str | None = None
) -> tuple[float, float] | None:
    """t and two-sided p that the sum of `parts` is nought, by the clusters whose rows lean on each other most; None
    where none do. `parts` and `used` have shape (rows,); rows that are not used take no part. Clusters that the labels
    of `by` are, or lie within, are no sample of anything: a label is told of itself then."""
    from scipy.special import stdtr

    found: tuple[float, float] | None = None
    for one in clusters_of(survey):
        if by is not None and _within(survey, by, one):
            continue
        codes, values = one.codes[used], parts[used]
        count = leaning(values - values.mean(), np.ones(values.size), codes) if values.size else None
        if count is None:
            continue
        sums = np.bincount(codes, weights=values)
        variance = float(sums @ sums) * count / (count - 1)
        t = float(values.sum()) / np.sqrt(variance) if variance > 0 else 0.0
        p = float(2 * stdtr(count - 1, -abs(t)))
        if found is None or p > found[1]:
            found = (t, p)
    return found


def _within(survey: Survey, by: str, clusters: Clusters) -> bool:
    """Whether each label of a dimension has rows of one cluster only."""
    if by == clusters.name:
        return True
    codes, count = survey.drawn().codes(by)
    pairs = np.unique(codes.astype(np.int64) * (int(clusters.codes.max()) + 1) + clusters.codes)
    return bool(pairs.size <= count)
