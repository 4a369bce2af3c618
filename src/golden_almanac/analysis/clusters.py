"""Rows that belong together: the lines of one invoice, the visits of one customer, by the columns that number them."""

from __future__ import annotations

from collections.abc import Collection
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from ..stats.autocorrelated_fits import Floats
from ..tables import Role, Table
from ..tables.meaning.name_words import of_individual, words

#: Clusters there must be for a variance between them, and rows in each on average.
LEAST_CLUSTERS, _LEAST_ROWS = 12, 2.0
#: Clusters that resemble themselves are told by an F test at this level.
_LEANING = 0.01
#: Rows whose spread within clusters is this share of that between them are alike but for their last digits.
_SAME = 1e-12
#: A number repeats where the labels of a column account for so much of its spread, and there are so many of them.
REPEATS, FEWEST = 0.8, 8
#: Dimensions of more labels than this number things as keys do.
_MANY = 60


class Clusters(NamedTuple):
    """Codes of the rows, shape (rows,), by what they belong together: a column, or "week" or "day"."""

    name: str
    codes: npt.NDArray[np.intp]


def key_clusters(
    table: Table,
    rows: npt.NDArray[np.intp],
    without: Collection[str] = (),
    *,
    keys_only: bool = False,
    values: Floats | None = None,
) -> list[Clusters]:
    """The columns that number what several rows belong to, those of the largest clusters first; rows without a number
    stand alone. Labels do where their column's name says that they are people or machines, one by one; with
    `keys_only`, others number nothing however many there are; and so do those within which the `values` of the rows
    hardly vary."""
    found = []
    for column in table.columns:
        many = not keys_only and column.role is Role.DIMENSION and column.distinct > _MANY
        alone = column.role is Role.DIMENSION and of_individual(words(column.name))
        numbers = column.role is Role.KEY or many or alone
        if values is not None and not numbers and column.role is Role.DIMENSION:
            numbers = accounted(values, table.codes(column.name)[0][rows].astype(np.intp)) >= REPEATS
        if not numbers or column.name in without or not LEAST_CLUSTERS <= column.distinct <= rows.size / _LEAST_ROWS:
            continue
        codes, labels = table.codes(column.name)
        own = codes[rows].astype(np.intp)
        if None in labels:
            blank = np.flatnonzero(own == labels.index(None))
            own[blank] = len(labels) + np.arange(blank.size)
        own = np.unique(own, return_inverse=True)[1].astype(np.intp)
        if LEAST_CLUSTERS <= own.max() + 1 <= rows.size / _LEAST_ROWS:
            found.append(Clusters(column.name, own))
    return sorted(found, key=lambda one: (int(one.codes.max()), one.name))


def leaning(residual: Floats, w: Floats, codes: npt.NDArray[np.intp], fewest: int = LEAST_CLUSTERS) -> int | None:
    """The number of clusters, where there are enough and their rows lean on each other; else None."""
    from scipy.special import fdtrc

    counts = np.bincount(codes)
    used = counts > 0
    groups = int(used.sum())
    if groups < fewest or groups > residual.size / _LEAST_ROWS:
        return None
    score = residual * np.sqrt(w)
    sums = np.bincount(codes, weights=score, minlength=counts.size)[used]
    between = float(np.sum(sums**2 / counts[used]))
    within = float(score @ score) - between
    df1, df2 = groups - 1, residual.size - groups
    if df2 < 1 or between <= 0:
        return None
    if within <= _SAME * between:
        # Rows of a cluster that are all alike lean on each other as much as rows can.
        return groups
    return groups if float(fdtrc(df1, df2, between / df1 / (within / df2))) < _LEANING else None


def accounted(values: Floats, codes: npt.NDArray[np.intp]) -> float:
    """The share of the spread of a number that groups of rows account for, less what chance would (Ezekiel 1930)."""
    counts = np.bincount(codes)
    used = counts > 0
    groups, n = int(used.sum()), values.size
    if groups < FEWEST or n < 2 * groups:
        return 0.0
    centred = values - values.mean()
    sums = np.bincount(codes, weights=centred)[used]
    whole = float(centred @ centred)
    left = whole - float((sums**2 / counts[used]).sum())
    return 1.0 - left / (n - groups) * (n - 1) / whole if whole > 0 else 0.0
