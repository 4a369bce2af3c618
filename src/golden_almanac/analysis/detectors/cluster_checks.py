"""Tests of rows where rows of one customer, or one invoice, resemble each other: what is counted are the clusters.

The statistic is a sum over rows of something whose mean is nought by chance; its variance is that of the clusters' sums
(Liang and Zeger 1986, with the factor G/(G − 1) for G clusters), its reference Student's t with G − 1 degrees of
freedom, or with those of the clusters that count where few make most of it (Kish 1965). It is asked for what other
tests are sure of, and the less sure of all tests counts.

A number may repeat, too: the rate of a loan stands in each of its months, the price of an article in each of its sales.
What hardly varies within the labels of a column is a number of the labels, however many rows tell it again; the labels
are the sample of it then.
"""

from __future__ import annotations

from collections.abc import Hashable, Mapping, Sequence

import numpy as np
import numpy.typing as npt

from ...aggregation import Survey
from ...aggregation.measures import Measure
from ...stats.autocorrelated_fits import Floats
from ...tables import Role
from ..clusters import FEWEST, REPEATS, Clusters, accounted, key_clusters, leaning

#: What chance shows more often than this need not be looked at again.
CLEAR = 0.05


def clusters_of(survey: Survey) -> list[Clusters]:
    """What the rows that tests take belong to, by the columns that number it."""

    def make() -> list[Clusters]:
        table = survey.drawn().table
        return key_clusters(table, np.arange(table.rows, dtype=np.intp), keys_only=True)

    return survey._once(("clusters",), make)


def repeated_in(survey: Survey, held: Hashable, *numbers: Floats) -> list[Clusters]:
    """The labels within which each of some numbers hardly varies, so that its rows repeat it; `numbers` have shape
    (rows,). Found once for what is `held` under a key."""

    def make() -> list[Clusters]:
        drawn = survey.drawn()
        known = np.logical_and.reduce([np.isfinite(one) for one in numbers])
        rows, found = int(known.sum()), []
        for column in drawn.table.columns:
            if column.role not in (Role.DIMENSION, Role.KEY) or not FEWEST <= column.distinct <= rows / 2:
                continue
            codes = drawn.codes(column.name)[0].astype(np.intp)
            if all(accounted(one[known], codes[known]) >= REPEATS for one in numbers):
                found.append(Clusters(column.name, codes))
        return found

    return survey._once(("repeated", held), make)


def clustered_p(
    survey: Survey,
    parts: Floats,
    used: npt.NDArray[np.bool_],
    by: str | None = None,
    *,
    repeated: Sequence[Clusters] = (),
    side: Floats | None = None,
) -> tuple[float, float] | None:
    """t and two-sided p that the sum of `parts` is nought, by the clusters whose rows lean on each other most; None
    where none do. `parts` and `used` have shape (rows,); rows that are not used take no part. Clusters that the labels
    of `by` are, or lie within, are no sample of anything: a label is told of itself then. Beside what numbers the rows
    the number may be `repeated` in labels; by the `side` of each row, shape (rows,), it is known how many clusters
    count."""
    from scipy.special import stdtr

    found: tuple[float, float] | None = None
    for one in (*clusters_of(survey), *repeated):
        if by is not None and _within(survey, by, one):
            continue
        codes, values = one.codes[used], parts[used]
        count = leaning(values - values.mean(), np.ones(values.size), codes, FEWEST) if values.size else None
        if count is None:
            continue
        sums = np.bincount(codes, weights=values)
        variance = float(sums @ sums) * count / (count - 1)
        t = float(values.sum()) / np.sqrt(variance) if variance > 0 else 0.0
        df = count - 1.0 if side is None else min(count - 1.0, _that_count(side[used], codes))
        p = float(2 * stdtr(max(df, 0.1), -abs(t)))
        if found is None or p > found[1]:
            found = (t, p)
    return found


def _that_count(side: Floats, codes: npt.NDArray[np.intp]) -> float:
    """The degrees of freedom of clusters that are not alike: one that stands alone against many counts alone."""
    squares = np.bincount(codes, weights=side) ** 2
    return float(squares.sum() ** 2 / (squares @ squares)) - 1.0 if squares.any() else 0.0


def further_variance(
    survey: Survey,
    measure: Measure,
    by: str,
    family: Sequence[int],
    tested: Sequence[int],
    repeated: Sequence[Clusters],
) -> Mapping[int, float]:
    """What is to be added to the variance of the gap of each label's average to its siblings', since rows of a cluster
    resemble each other; nothing where they do not. Of a sample it is that of the sample, as it is between the clusters,
    and more rows of them tell no more of it."""
    drawn = survey.drawn()
    codes, values = drawn.codes(by)[0].astype(np.intp), measure.factor * drawn.values(measure.top[0][1])
    used = np.isfinite(values) & np.isin(codes, list(family))
    label, value = codes[used], values[used]
    most = dict.fromkeys(tested, 0.0)
    for one in (*clusters_of(survey), *repeated):
        if value.size == 0 or _within(survey, by, one):
            continue
        cluster = one.codes[used]
        count = leaning(value - value.mean(), np.ones(value.size), cluster, FEWEST)
        if count is None:
            continue
        whole = np.stack([np.bincount(cluster, minlength=int(cluster.max()) + 1), np.bincount(cluster, weights=value)])
        for code in tested:
            own = label == code
            part = np.zeros_like(whole)
            part[0] = np.bincount(cluster[own], minlength=whole.shape[1])
            part[1] = np.bincount(cluster[own], weights=value[own], minlength=whole.shape[1])
            n, rest = part[0].sum(), (whole - part)[0].sum()
            if not n or not rest:
                continue
            a, b = part[1].sum() / n, (whole - part)[1].sum() / rest
            left = (part[1] - a * part[0]) / n - ((whole - part)[1] - b * (whole - part)[0]) / rest
            residual = value - np.where(own, a, b)
            alone = float((residual[own] ** 2).sum()) / n**2 + float((residual[~own] ** 2).sum()) / rest**2
            most[code] = max(most[code], float(left @ left) * count / (count - 1) - alone)
    return most


def _within(survey: Survey, by: str, clusters: Clusters) -> bool:
    """Whether each label of a dimension has rows of one cluster only."""
    if by == clusters.name:
        return True
    codes, count = survey.drawn().codes(by)
    pairs = np.unique(codes.astype(np.int64) * (int(clusters.codes.max()) + 1) + clusters.codes)
    return bool(pairs.size <= count)
