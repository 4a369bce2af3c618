"""What a comparison gives: the test with the reason it was chosen, the effect, the difference, groups, pairs,
assumptions."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]

#: The closed list of tests.
TESTS = (
    "Welch's t test",
    "Mann–Whitney U test",
    "paired t test",
    "Wilcoxon signed-rank test",
    "Welch's analysis of variance",
    "Kruskal–Wallis test",
    "two-proportion z test",
    "chi-squared test",
    "Fisher's exact test",
    "cluster-robust t test",
    "cluster-robust Wald test",
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Group:
    """A group's figures; `missing` counts its rows without the outcome. Figures of an empty group are None."""

    label: str
    n: int
    mean: float | None
    median: float | None
    sd: float | None
    q1: float | None
    q3: float | None
    missing: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Sized:
    """A figure with its 95% interval; ends that cannot be given are None."""

    value: float | None
    low: float | None
    high: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Pair:
    """Two groups among many: a's figure less b's, its interval and p-value, both corrected for the number of pairs."""

    a: str
    b: str
    difference: float
    low: float | None
    high: float | None
    p: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Tested:
    """A test: statistic, degrees of freedom (None where it has none), two-sided p; effect and difference where they
    are."""

    name: str
    statistic: float | None
    df: tuple[float, ...]
    p: float
    effect_name: str
    effect: Sized
    difference: Sized | None = None
    pairs: tuple[Pair, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Compared:
    """A comparison of an outcome between groups. `table` holds the counts of a crosstab: (labels of rows, of columns,
    counts (rows, columns)); `samples` the values of each group for charts; `asked` says that the test was asked for;
    `clusters` is the column whose rows resemble each other, so that they were counted, not rows."""

    outcome: str
    by: str
    kind: str
    test: Tested
    why: str
    groups: tuple[Group, ...]
    overall: Group
    assumptions: tuple[str, ...]
    paired: str | None = None
    table: tuple[tuple[str, ...], tuple[str, ...], Any] | None = None
    samples: tuple[Floats, ...] = field(default=())
    left_out: tuple[str, ...] = ()
    asked: bool = False
    clusters: str | None = None


def described(label: str, values: Floats) -> Group:
    """Figures of a group's values, NaN being missing. Quartiles by linear interpolation."""
    known = values[np.isfinite(values)]
    missing = int(values.size - known.size)
    if not known.size:
        return Group(label=label, n=0, mean=None, median=None, sd=None, q1=None, q3=None, missing=missing)
    q1, median, q3 = (float(q) for q in np.quantile(known, (0.25, 0.5, 0.75)))
    return Group(
        label=label,
        n=int(known.size),
        mean=float(known.mean()),
        median=median,
        sd=float(known.std(ddof=1)) if known.size > 1 else None,
        q1=q1,
        q3=q3,
        missing=missing,
    )
