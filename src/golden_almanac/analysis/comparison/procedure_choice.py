"""Which test: from the outcome, the number of groups, their sizes and shapes. The reason is kept with the result."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import numpy.typing as npt

from ...aggregation.measure_names import spoken
from ...support.errors import ColumnError, RequestError
from ...support.phrasing import Phrase, figure, named, phrased
from ...tables import Role, Table
from ...tables.disclosure import OTHER
from ..drivers.outcome import LEAST_ROWS, Outcome, outcome_of, unweighted
from .cluster_tests import MANY, TWO
from .clustered_comparison import by_cluster, leaning_clusters
from .comparison_results import TESTS, Compared, Group, Tested, described
from .count_tests import chi_squared, fisher, pairs_of_shares, two_proportions
from .group_samples import LEAST, MOST_GROUPS, Parted, described_groups, groups_of
from .mean_tests import paired_t, welch, welch_anova
from .rank_tests import kruskal, mann_whitney, wilcoxon

Floats = npt.NDArray[np.float64]

_OF_SHARES = ("two-proportion z test", "chi-squared test", "Fisher's exact test")
CLUSTERED = (TWO, MANY)


def compare(
    table: Table, outcome: str, by: str, *, paired: str | None = None, event: str | None = None, test: str | None = None
) -> Compared:
    """Compare an outcome between the groups of a column; see `ga.compare`."""
    if test is not None and test not in TESTS:
        raise RequestError("The test", test, "one of " + ", ".join(TESTS))
    column = table.column(by, "the groups")
    if column.type not in ("text", "boolean") and column.role is not Role.DIMENSION and column.distinct > MOST_GROUPS:
        raise ColumnError(
            column.name,
            f"The column {column.name!r} has {column.distinct:,} different values, too many for groups.",
            "Compare by a column of labels; for two numbers use relate.",
        )
    other = table.column(outcome, "the outcome") if _named(table, outcome) else None
    if other is not None and other.name == column.name:
        raise RequestError("The groups", by, "another column than the outcome")
    if other is not None and event is None and other.type == "text":
        labels = [label for label in table.labels(other.name) if label is not None]
        if len(labels) != 2:
            return _crossed(table, other.name, column.name, labels)
    if paired is not None:
        return _paired(table, outcome, column.name, paired, test)
    about = unweighted(outcome_of(table, outcome, event, least=2 * LEAST), "compare")
    parted = groups_of(about, column.name)
    clusters = leaning_clusters(about, column.name, parted) if test is None or test in CLUSTERED else None
    if clusters is not None:
        return by_cluster(about, column.name, parted, clusters, test)
    if test in CLUSTERED:
        raise RequestError("The test", test, "one for rows that stand alone: no column numbers rows that are alike")
    return (_shares if about.yes_no else _numbers)(about, column.name, parted, test)


def _named(table: Table, text: str) -> bool:
    return any(name.casefold() == text.strip().strip('"').casefold() for name in table.names)


def _numbers(about: Outcome, by: str, parted: Parted, test: str | None) -> Compared:
    labels, samples, missing, left, _ = parted
    told = [_shape(label, values) for label, values in zip(labels, samples, strict=True)]
    flat = [label for label, values in zip(labels, samples, strict=True) if float(values.var()) == 0.0]
    fit = all(one[0] for one in told) and not flat
    assumptions = [one[1] for one in told[:6]]
    if flat:
        assumptions.append(
            phrased("{label} does not vary at all, so variances cannot be compared.", label=str(flat[0]))
        )
    two = len(labels) == 2
    name = test or (
        ("Welch's t test" if two else "Welch's analysis of variance")
        if fit
        else ("Mann–Whitney U test" if two else "Kruskal–Wallis test")
    )
    small, large = (min(values.size for values in samples), max(values.size for values in samples))
    if fit:
        spreads = [float(values.std(ddof=1)) for values in samples]
        ratio = max(spreads) / min(spreads)
        why: str = phrased(
            "{groups} of numbers, {low} to {high} rows each: enough for means in spite of their skewness; {spreads}",
            groups=_so_many(len(labels)),
            low=small,
            high=large,
            spreads=phrased(
                "spreads differ {ratio}-fold, which this test allows for", ratio=figure(ratio, 1 if ratio < 10 else 0)
            )
            if ratio >= 1.3
            else phrased("spreads are much alike"),
        )
    else:
        why = phrased(
            "some group is too small for its skewness, or does not vary, so ranks are compared instead of means"
        )
    if test is not None:
        why = phrased("asked for; {why}", why=why) if _fits(test, len(labels)) else why
    if not _fits(name, len(labels)):
        raise RequestError("The test", name, f"one for {len(labels)} groups of numbers")
    made = _run(name, samples, labels)
    groups = described_groups(labels, samples, missing)
    return Compared(
        outcome=about.name,
        by=by,
        kind="numbers",
        test=made,
        why=why,
        asked=test is not None and _fits(test, len(labels)),
        groups=tuple(groups),
        overall=replace(described("all", about.values), missing=about.table.rows - about.n),
        assumptions=(*assumptions, phrased("Rows are taken to be independent of each other.")),
        samples=tuple(samples),
        left_out=tuple(left),
    )


def _so_many(number: int) -> Phrase:
    return phrased("two groups") if number == 2 else phrased("{n} groups", n=number)


def _fits(name: str, groups: int) -> bool:
    many = ("Welch's analysis of variance", "Kruskal–Wallis test")
    return name in many if groups > 2 else name in ("Welch's t test", "Mann–Whitney U test", *many)


def _run(name: str, samples: Sequence[Floats], labels: Sequence[str]) -> Tested:
    if name == "Welch's t test":
        return welch(samples[0], samples[1])
    if name == "Mann–Whitney U test":
        return mann_whitney(samples[0], samples[1])
    if name == "Kruskal–Wallis test":
        return kruskal(samples, labels)
    return welch_anova(samples, labels)


def _shape(label: str, values: Floats) -> tuple[bool, str]:
    """Whether a mean of so many values of such skewness is near enough to normal (Cochran 1977: n > 25 G₁²)."""
    n = values.size
    sd = float(values.std())
    skew = float(np.mean(((values - values.mean()) / sd) ** 3)) if sd else 0.0
    needed = 25 * skew * skew
    fit = n >= 8 and n > needed
    places = {"label": label, "n": int(n), "skewness": figure(skew, 2), "needed": max(8, int(needed))}
    if fit:
        told = phrased("{label}: {n} rows with skewness {skewness}; means need about {needed}: enough.", **places)
    else:
        told = phrased("{label}: {n} rows with skewness {skewness}; means need about {needed}: too few.", **places)
    return fit, told


def _shares(about: Outcome, by: str, parted: Parted, test: str | None) -> Compared:
    labels, samples, missing, left, _ = parted
    yes, n = [float(values.sum()) for values in samples], [float(values.size) for values in samples]
    table = np.array([[a, b - a] for a, b in zip(yes, n, strict=True)])
    expected = np.outer(table.sum(axis=1), table.sum(axis=0)) / table.sum()
    least = float(expected.min())
    two = len(labels) == 2
    name = test or ("two-proportion z test" if least >= 5 else "Fisher's exact test") if two else "chi-squared test"
    if name not in _OF_SHARES:
        raise RequestError("The test", name, "one of " + ", ".join(_OF_SHARES) + " for a yes/no outcome")
    made = {
        "two-proportion z test": lambda: two_proportions(yes, n),
        "Fisher's exact test": lambda: fisher(table),
        "chi-squared test": lambda: chi_squared(table),
    }[name]()
    if not two:
        made = replace(made, pairs=pairs_of_shares(yes, n, labels))
    places = {"groups": _so_many(len(labels)), "least": figure(least, 1)}
    if name == "Fisher's exact test":
        why = phrased(
            "a yes/no outcome in {groups}; the smallest expected count is {least}, too small for the others", **places
        )
    elif least >= 5:
        why = phrased("a yes/no outcome in {groups}; the smallest expected count is {least}, enough for it", **places)
    else:
        why = phrased(
            "a yes/no outcome in {groups}; the smallest expected count is {least}: take it with care", **places
        )
    groups = described_groups(labels, samples, missing)
    return Compared(
        outcome=about.name,
        by=by,
        kind="shares",
        test=made,
        why=why,
        groups=tuple(groups),
        overall=replace(described("all", about.values), missing=about.table.rows - about.n),
        assumptions=(
            phrased("The smallest expected count is {least} (5 are asked for).", least=figure(least, 1)),
            phrased("Rows are taken to be independent of each other."),
        ),
        table=(tuple(labels), ("yes", "no"), table),
        left_out=tuple(left),
    )


def _crossed(table: Table, outcome: str, by: str, labels: list[str]) -> Compared:
    if len(labels) < 2:
        raise ColumnError(outcome, f"The column {outcome!r} has one label only.", "Compare one with two or more.")
    own, own_labels = table.codes(outcome)
    groups, group_labels = table.codes(by)
    counts = np.zeros((len(group_labels), len(own_labels)))
    np.add.at(counts, (groups, own), 1.0)
    rows = [i for i, label in enumerate(group_labels) if label is not None and counts[i].sum() > 0]
    columns = [j for j, label in enumerate(own_labels) if label is not None and counts[:, j].sum() > 0]
    left = []
    for every, kept, what in ((group_labels, rows, by), (own_labels, columns, outcome)):
        if len(kept) > MOST_GROUPS:
            raise ColumnError(
                what,
                f"The column {what!r} has {len(kept)} labels, too many for a crosstab.",
                f"Choose one with at most {MOST_GROUPS}.",
            )
        if len(every) > len(kept):
            left.append(phrased("rows without {column}", column=named(what, spoken(what))))
    kept_counts = counts[np.ix_(rows, columns)]
    if min(kept_counts.shape) < 2 or kept_counts.sum() < LEAST_ROWS:
        raise ColumnError(
            by, f"There are too few rows or labels of {outcome!r} by {by!r} to compare.", "Loosen the condition."
        )
    kept_counts, named_rows = _disclosed(kept_counts, [str(group_labels[i]) for i in rows], table.minimum, by)
    expected = np.outer(kept_counts.sum(axis=1), kept_counts.sum(axis=0)) / kept_counts.sum()
    few = float((expected < 5).mean())
    made = fisher(kept_counts) if kept_counts.shape == (2, 2) and expected.min() < 5 else chi_squared(kept_counts)
    why = phrased(
        "two columns of labels ({rows} by {columns})", rows=kept_counts.shape[0], columns=kept_counts.shape[1]
    )
    names = named_rows
    return Compared(
        outcome=outcome,
        by=by,
        kind="labels",
        test=made,
        why=why,
        groups=tuple(
            Group(label=name, n=int(kept_counts[i].sum()), mean=None, median=None, sd=None, q1=None, q3=None, missing=0)
            for i, name in enumerate(names)
        ),
        overall=Group(
            label="all", n=int(kept_counts.sum()), mean=None, median=None, sd=None, q1=None, q3=None, missing=0
        ),
        assumptions=(
            phrased(
                "{share}% of the cells have an expected count below 5 (20% at most are asked for).",
                share=f"{100 * few:.0f}",
            )
            if few
            else phrased("No cell has an expected count below 5."),
            phrased("Rows are taken to be independent of each other."),
        ),
        table=(tuple(names), tuple(str(own_labels[j]) for j in columns), kept_counts),
        left_out=tuple(left),
    )


def _disclosed(counts: Floats, labels: list[str], minimum: int, by: str) -> tuple[Floats, list[str]]:
    """A crosstab whose cells have as many rows as a group must have, or none: rows of it are put together until they
    do. Raises ColumnError where too few are left."""
    if minimum < 2:
        return counts, labels
    while ((counts > 0) & (counts < minimum)).any():
        if len(labels) < 3:
            raise ColumnError(
                by,
                f"The crosstab by {by!r} would have cells of fewer than {minimum} rows.",
                "Compare by a column with fewer labels, or keep more rows.",
            )
        # The row with a small cell, and the smallest of the others.
        small = int(np.flatnonzero(((counts > 0) & (counts < minimum)).any(axis=1))[0])
        order = [int(at) for at in np.argsort(counts.sum(axis=1), kind="stable") if at != small]
        other = next((at for at in order if labels[at] == OTHER), order[0])
        counts[other] += counts[small]
        labels = [OTHER if at == other else label for at, label in enumerate(labels)]
        counts = np.delete(counts, small, axis=0)
        labels = [label for at, label in enumerate(labels) if at != small]
    return counts, labels


def _paired(table: Table, outcome: str, by: str, paired: str, test: str | None) -> Compared:
    about = unweighted(outcome_of(table, outcome), "compare")
    key = table.column(paired, "the pairs").name
    codes, labels = table.codes(by)
    keys, names = table.codes(key)
    own, pair = codes[about.rows], keys[about.rows]
    seen = [i for i in np.unique(own).tolist() if labels[i] is not None]
    if len(seen) != 2:
        raise RequestError(
            "The groups of a paired comparison", by, f"a column with two labels; it has {len(seen)} with the outcome"
        )
    sides = []
    for place in seen:
        which = (own == place) & np.array([name is not None for name in names])[pair]
        count = np.bincount(pair[which], minlength=len(names))
        if (count > 1).any():
            twice = names[int(np.flatnonzero(count > 1)[0])]
            raise ColumnError(
                key,
                f"{key} {twice} stands {int(count.max())} times with {by} {labels[place]}, so its rows cannot be "
                f"paired.",
                "Name a column that tells each row of a group apart, or keep other rows.",
            )
        values = np.full(len(names), np.nan)
        values[pair[which]] = about.values[which]
        sides.append(values)
    both = np.isfinite(sides[0]) & np.isfinite(sides[1])
    if both.sum() < 5:
        raise ColumnError(
            key,
            f"Only {int(both.sum())} values of {key!r} stand in both groups; at least 5 pairs are needed.",
            "Name the column that says which rows belong together.",
        )
    a, b = sides[0][both], sides[1][both]
    fit, told = _shape(phrased("the differences"), a - b)
    name = test or ("paired t test" if fit else "Wilcoxon signed-rank test")
    if name not in ("paired t test", "Wilcoxon signed-rank test"):
        raise RequestError("The test", name, "the paired t test or the Wilcoxon signed-rank test")
    made = paired_t(a, b) if name == "paired t test" else wilcoxon(a, b)
    of_pairs = {"n": int(a.size), "key": named(key, spoken(key))}
    if fit:
        why = phrased("{n} pairs by {key}; their differences are near enough to normal for a mean", **of_pairs)
    else:
        why = phrased(
            "{n} pairs by {key}; their differences are too few for their skewness, so ranks are compared", **of_pairs
        )
    two = [str(labels[i]) for i in seen]
    single = int((np.isfinite(sides[0]) ^ np.isfinite(sides[1])).sum())
    return Compared(
        outcome=about.name,
        by=by,
        kind="pairs",
        test=made,
        why=why,
        groups=tuple(described(label, values) for label, values in zip(two, (a, b), strict=True)),
        overall=described("difference", a - b),
        assumptions=(told, phrased("Pairs are taken to be independent of each other.")),
        paired=key,
        samples=(a, b),
        left_out=(phrased("{n} values of {key} that stand in one group only", n=single, key=named(key, spoken(key))),)
        if single
        else (),
    )
