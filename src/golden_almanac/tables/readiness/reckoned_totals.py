"""Labels that add up to others though nothing says so: gross profit among its lines, a region among its countries.

Each label is a row of figures, one a period (and a label of the other columns). It is a total where it equals the sum
of a run of labels just before it or just behind it, as statements are written, or of some of the smaller ones, found by
least squares whose weights must come out as noughts and ones; in every amount, in nearly every period, and so exactly
that chance would not do it.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
import numpy.typing as npt

from .. import Column, Role, Table

Floats = npt.NDArray[np.float64]

#: Labels there must be, and may be; periods in which the sum must hold; the share of them in which it does.
_FEWEST, _MOST, _PERIODS, _MOSTLY = 3, 80, 3, 0.95
#: Figures of labels by period fill so much of their table; rows of events, each at a place of its own, do not.
_FILLED = 0.5
#: A sum that is off by more than this share of what it is equal to is another; how often chance may make one so near.
NEAR, _CHANCE = 0.005, 1e-6


def reckoned(table: Table, column: Column, amounts: Sequence[str]) -> list[str]:
    """The labels of a column that are sums of others in all amounts; none where a period has several rows a label."""
    codes, labels = table.codes(column.name)
    group, groups = _periods(table, column, codes)
    cell = codes.astype(np.int64) * groups + group
    if groups < _PERIODS or not _FEWEST <= len(labels) <= _MOST or cell.size < _FILLED * groups * len(labels):
        return []
    if np.unique(cell).size < cell.size:
        return []
    figures = np.full((len(amounts), len(labels) * groups), np.nan)
    for place, name in enumerate(amounts):
        figures[place, cell] = table.numbers(name)
    matrix = figures.reshape(len(amounts), len(labels), groups)
    # As the file has them, not as the alphabet does.
    order = np.argsort(np.unique(codes, return_index=True)[1], kind="stable")
    found = _in_runs(matrix, order)
    found |= _of_smaller(matrix, found)
    told = [labels[code] for code in sorted(found)]
    return [label for label in told if label is not None] if len(found) <= len(labels) / 2 else []


def _periods(table: Table, column: Column, codes: npt.NDArray[np.int32]) -> tuple[npt.NDArray[np.int64], int]:
    """Which rows stand side by side, and how many places there are; a column in which every label has one of its own
    (its code, its section) tells none apart."""

    def apart(own: npt.NDArray[np.int64]) -> bool:
        pairs = codes.astype(np.int64) * (int(own.max(initial=0)) + 1) + own
        return bool(np.unique(pairs).size > np.unique(codes).size)

    group = side_by_side(table, column, apart)
    return group, int(group.max(initial=0)) + 1


def side_by_side(table: Table, column: Column, apart: Callable[[npt.NDArray[np.int64]], bool]) -> npt.NDArray[np.int64]:
    """A number for the date and the labels of other columns of each row, shape (rows,), by those columns whose codes
    tell rows `apart`."""
    group = np.zeros(table.rows, dtype=np.int64)
    for other in table.columns:
        if other.role is Role.TIME:
            own = np.unique(table.days(other.name), return_inverse=True)[1].astype(np.int64)
        elif other.role is Role.DIMENSION and other.name != column.name and other.type == "text":
            own = table.codes(other.name)[0].astype(np.int64)
            if not apart(own):
                continue
        else:
            continue
        group = np.unique(group * (int(own.max(initial=0)) + 2) + own + 1, return_inverse=True)[1].astype(np.int64)
    return group


def _in_runs(matrix: Floats, order: npt.NDArray[np.intp]) -> set[int]:
    """Labels that are sums of the run of others that ends just before them, or begins just behind them; totals that are
    found take no part in those that follow."""
    found: set[int] = set()
    for direction in (order, order[::-1]):
        leaves: list[int] = []
        for code in direction.tolist():
            if code in found:
                continue
            sums = np.cumsum(matrix[:, leaves[::-1]], axis=1) if leaves else matrix[:, :0]
            runs = [sums[:, terms - 1] for terms in range(2, len(leaves) + 1)]
            if any(_equal(matrix[:, code], run, terms + 2, len(runs)) for terms, run in enumerate(runs)):
                found.add(code)
            else:
                leaves.append(code)
    return found


def _of_smaller(matrix: Floats, found: set[int]) -> set[int]:
    """Labels that are sums of some smaller ones, whichever they are; asked where there are more periods than those."""
    _, labels, groups = matrix.shape
    held: npt.NDArray[np.bool_] = np.isfinite(matrix) & (np.nan_to_num(matrix) >= 0)
    whole: npt.NDArray[np.bool_] = np.asarray(held.all(axis=2).all(axis=0))
    by_size = np.argsort(np.nansum(matrix[0], axis=1), kind="stable")
    by_size = by_size[whole[by_size]]
    more: set[int] = set()
    smaller: list[int] = []
    for code in by_size.tolist():
        if code in found:
            continue
        if 2 <= len(smaller) < groups - 1:
            weights = np.linalg.lstsq(matrix[0, smaller].T, matrix[0, code], rcond=None)[0]
            parts = [one for one, weight in zip(smaller, weights, strict=True) if weight > 0.5]
            clear = bool((np.minimum(np.abs(weights), np.abs(weights - 1)) < 0.05).all())
            if (
                clear
                and len(parts) >= 2
                and _equal(matrix[:, code], matrix[:, parts].sum(axis=1), len(parts), 2**labels)
            ):
                more.add(code)
                continue
        smaller.append(code)
    return more


def _equal(own: Floats, sums: Floats, terms: int, tried: float) -> bool:
    """Whether figures equal sums of so many terms but for rounding, and chance would not do it; both have shape
    (amounts, periods)."""
    told = False
    for mine, theirs in zip(own, sums, strict=True):
        known = np.isfinite(mine) & np.isfinite(theirs) & (mine != 0)
        if known.sum() < _PERIODS:
            continue
        unit = last_digit(mine[known]) * (1 + terms) / 2
        off, size = np.abs(mine[known] - theirs[known]), np.abs(mine[known])
        if unit > NEAR * float(np.median(size)) or np.mean(off <= unit * 1.001) < _MOSTLY:
            return False
        chance = np.log(np.minimum(1.0, 2 * unit / size)).sum() + np.log(max(1.0, tried))
        told = told or bool(chance <= np.log(_CHANCE))
    return told


def last_digit(values: Floats) -> float:
    """The last digit that values are written with."""
    for decimals in range(7):
        if np.allclose(np.round(values, decimals), values, rtol=0, atol=1e-9 * max(1.0, float(np.abs(values).max()))):
            return float(10.0**-decimals)
    return 1e-6
