"""Groups whose rows resemble each other by what they belong to: what is counted are the customers, not their visits."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ...aggregation.measure_names import spoken
from ...support.errors import RequestError
from ...support.phrasing import named, phrased
from ..clusters import Clusters, key_clusters, leaning
from ..drivers.outcome import Outcome
from .cluster_tests import cluster_means
from .comparison_results import Compared, described
from .group_samples import Parted, described_groups


def leaning_clusters(about: Outcome, by: str, parted: Parted) -> Clusters | None:
    """What rows belong to, where those of one resemble each other beyond their group: the column of the largest
    clusters of which that is so."""
    places = np.concatenate(parted.places)
    residual = np.concatenate([values - values.mean() for values in parted.samples])
    values = np.concatenate(parted.samples)
    every = key_clusters(about.table, about.rows[places], {by, *about.columns}, values=values)
    return next((one for one in every if leaning(residual, np.ones(residual.size), one.codes) is not None), None)


def by_cluster(about: Outcome, by: str, parted: Parted, clusters: Clusters, test: str | None) -> Compared:
    """Means (or shares) of groups, their uncertainty by clusters."""
    labels, samples, missing, left, _ = parted
    ends = np.cumsum([values.size for values in samples])[:-1]
    codes = np.split(clusters.codes, ends)
    made = cluster_means(samples, codes, labels)
    if test is not None and test != made.name:
        raise RequestError("The test", test, f"one for {len(labels)} groups")
    column = named(clusters.name, spoken(clusters.name))
    count = int(clusters.codes.max()) + 1
    return Compared(
        outcome=about.name,
        by=by,
        kind="shares" if about.yes_no else "numbers",
        test=made,
        why=phrased(
            "rows of one {column} resemble each other, so the {n} of them are counted, not the rows",
            column=column,
            n=count,
        ),
        asked=test is not None,
        groups=tuple(described_groups(labels, samples, missing)),
        overall=replace(described("all", about.values), missing=about.table.rows - about.n),
        assumptions=(phrased("Rows of different {column} are taken to be independent of each other.", column=column),),
        samples=tuple(samples),
        left_out=tuple(left),
        clusters=clusters.name,
    )
