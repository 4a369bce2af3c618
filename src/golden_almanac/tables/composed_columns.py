"""Columns that others make up but for some noise: an amount of quantity and price less a discount, a profit of nights
at a rate less their cost.

Like the identities that hold to the last digit they are bookkeeping: that an amount goes with its quantity is no
discovery.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import combinations
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from . import Table

Floats = npt.NDArray[np.float64]
#: Rows looked at, the fewest that tell, and columns beyond which nothing is looked for.
_ROWS, _LEAST_ROWS, _MOST_COLUMNS = 2000, 50, 12
#: The share of a column's variance that noise may leave: of a product (on the log scale), of a sum.
_NOISE, _LEFT = 0.05, 0.01
#: Larger values have no squares; smaller ones are nought.
_LARGEST = 1e100
_TINY = 1e-100
#: A part makes at least this share of what it is part of.
_PART = 0.05
#: Directions of columns that hardly differ by more than this, in squares, are one.
_NEARLY_NOTHING = 1e-13
#: How far from one the weight of a part of a sum may be.
_NEAR_ONE = 0.03


def composed_pairs(table: Table, columns: Sequence[str]) -> set[frozenset[str]]:
    """Pairs of a column and a part that makes it up, kept with the table."""
    key = ("composed pairs", *columns)
    if key not in table._cache:
        table._cache[key] = _pairs(table, list(columns)[:_MOST_COLUMNS])
    found: set[frozenset[str]] = table._cache[key]
    return found


def _pairs(table: Table, columns: list[str]) -> set[frozenset[str]]:
    sample = table.sample() or table
    if len(columns) < 3:
        return set()
    values = np.column_stack([sample.numbers(name) for name in columns])
    known = values[np.isfinite(values).all(axis=1)]
    known = known[np.lexsort(known.T)] if known.size else known
    picked = known[:: max(1, known.shape[0] // _ROWS)]
    if picked.shape[0] < _LEAST_ROWS:
        return set()
    sizes = np.abs(picked).max(axis=0)
    varied = [place for place in range(len(columns)) if 0 < sizes[place] < _LARGEST and np.ptp(picked[:, place]) > 0]
    moments = _Moments.of(picked, varied)
    factors, parts = {}, {}
    for place in varied:
        others = [j for j in varied if j != place]
        factors[place] = _factors(picked, place, others)
        parts[place] = factors[place] | _terms(moments, place, others)
    found: set[frozenset[str]] = set()
    for place, direct in parts.items():
        # What a part is a product of is part of the whole, too: hours of labour, of what is paid.
        within = direct.union(*(factors[j] for j in direct)) - {place}
        found |= {frozenset((columns[place], columns[j])) for j in within}
    return found


def _factors(values: Floats, place: int, others: list[int]) -> set[int]:
    """Two columns whose product a positive column is, but for noise."""
    positive = [j for j in (place, *others) if values[:, j].min() >= 0]
    if place not in positive:
        return set()
    for a, b in combinations([j for j in positive if j != place], 2):
        use = (values[:, [place, a, b]] > 0).all(axis=1)
        if use.sum() < _LEAST_ROWS:
            continue
        logs = np.log(values[use][:, [place, a, b]])
        whole, own = float(np.var(logs[:, 0])), np.var(logs[:, 1:], axis=0)
        left = float(np.var(logs[:, 0] - logs[:, 1] - logs[:, 2]))
        if whole > 0 and left <= _NOISE * whole and own.min() >= _PART * whole:
            return {a, b}
    return set()


class _Moments(NamedTuple):
    """Centred columns, and the products of pairs of them, each scaled to a standard deviation of one: how they go
    together, their standard deviations before, and the place of each product."""

    together: Floats
    spread: Floats
    product: dict[tuple[int, int], int]

    @classmethod
    def of(cls, values: Floats, varied: list[int]) -> _Moments:
        pairs = list(combinations(varied, 2))
        # Columns that do not vary, or have no squares, take no part.
        values = np.where(np.isin(np.arange(values.shape[1]), varied), values, 0.0)
        even = values / np.maximum(_TINY, np.abs(values).max(axis=0))
        columns = np.column_stack([values, *(even[:, a] * even[:, b] for a, b in pairs)])
        columns = columns - columns.mean(axis=0)
        spread = np.std(columns, axis=0)
        scaled = columns / np.where(spread > 0, spread, 1.0)
        product = {pair: values.shape[1] + at for at, pair in enumerate(pairs)}
        return cls(scaled.T @ scaled / values.shape[0], spread, product)

    def weights(self, place: int, columns: list[int]) -> tuple[Floats, float]:
        """The weights of columns that add up to one, all of a standard deviation of one, and the share of its variance
        that they leave."""
        own = self.together[columns, place]
        beta = np.linalg.lstsq(self.together[np.ix_(columns, columns)], own, rcond=_NEARLY_NOTHING)[0]
        return np.asarray(beta), max(0.0, float(1 - beta @ own))


def _terms(moments: _Moments, place: int, others: list[int]) -> set[int]:
    """The columns that a column is a sum of, one of them perhaps a product of two, but for noise."""
    shares, left = moments.weights(place, others)
    near_one = np.abs(np.abs(shares * moments.spread[place] / moments.spread[others]) - 1) <= _NEAR_ONE
    parts = [j for j, share, one in zip(others, shares, near_one, strict=True) if abs(share) >= _PART and one]
    large = int(np.sum(np.abs(shares) >= _PART))
    if left <= _LEFT and len(parts) >= 2 and len(parts) == large:
        return set(parts)
    if left <= _LEFT:
        # Other columns tell it already; a product adds nothing that is its own.
        return set()
    for a, b in combinations(others, 2):
        both = moments.product[a, b]
        if not moments.spread[both] > 0:
            continue
        rest = [j for j in others if j not in (a, b)]
        shares, left = moments.weights(place, [both, *rest])
        if left <= _LEFT and abs(shares[0]) >= _PART:
            return {a, b, *(j for j, share in zip(rest, shares[1:], strict=True) if abs(share) >= _PART)}
    return set()
