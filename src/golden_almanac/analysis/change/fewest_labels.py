"""Of the labels of a dimension that a change is explained by: the fewest, and those that moved away from the others.

Labels share a whole: what one gains all others seem to lack, and a search that names the surest first may name the
largest of those that stayed instead of the one that went. Of all sets of as few labels, the one is taken without which
the others moved alike; where any would do (all that is left is one label), the one that leaves the middle.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from ...findings import Slice
from .deviation_tests import Stray
from .minimal_explanation import SURE, Looked, Scales, Straying, floor_of, look_at, smallest
from .span_cube import Cube, Sums

#: Labels of a dimension among which sets are compared.
_MOST_LABELS = 60
#: Searches at most: each goes on from what the one before settled.
_MOST_ROUNDS = 3


class _Labels(NamedTuple):
    """The labels of a dimension that have rows, from the one that fell most to the one that rose most: their codes, how
    each moved, and their weights before."""

    codes: npt.NDArray[np.intp]
    moved: npt.NDArray[np.float64]
    weight: npt.NDArray[np.float64]


def explaining(
    cube: Cube, straying: Callable[[Cube], Stray], change: float, scales: Scales, *, additive: bool
) -> tuple[Straying, ...]:
    """The smallest explanation (see `minimal_explanation.smallest`), the labels of each dimension replaced by fewer, or
    by those that moved away from the rest, and what is then found beside them.

    Sums are compared in proportion (`additive`), averages by as much.
    """
    found: tuple[Straying, ...] = ()
    for _ in range(_MOST_ROUNDS):
        searched = smallest(cube, straying, change, scales, found=found)
        found = _fewest(cube, straying, change, searched, scales, additive)
        if found == searched:
            break
    return found


def _fewest(
    cube: Cube,
    straying: Callable[[Cube], Stray],
    change: float,
    found: Sequence[Straying],
    scales: Scales,
    additive: bool,
) -> tuple[Straying, ...]:
    told = list(found)
    for name in sorted(cube.labels):
        own = [one for one in told if [column for column, _ in one.where.conditions] == [name]]
        if not own:
            continue
        others = [one for one in told if one not in own]
        left = cube
        for one in others:
            left = left.kept(~left.cells_of(one.where))
        better = _better(left, _ordered(left, name, additive), name, straying, scales, own, floor_of(change, told))
        if better is not None:
            told = [*others, *better]
    return tuple(told)


def _better(
    cube: Cube,
    labels: _Labels,
    name: str,
    straying: Callable[[Cube], Stray],
    scales: Scales,
    own: Sequence[Straying],
    floor: float,
) -> list[Straying] | None:
    """Another set of labels, None where what was found is as good as any."""
    size = labels.codes.size
    if not 2 <= size <= _MOST_LABELS or not np.isfinite(labels.moved).any():
        return None
    middle = _middle(labels)
    for count in range(1, min(len(own), size - 1) + 1):
        # Those that moved away lie at the ends: so many of the lowest, the others of the highest.
        rests = [np.arange(low, low + size - count) for low in range(count + 1)]
        even = [rest for rest in rests if _even(cube, name, labels.codes[rest], straying, scales, floor)]
        if not even:
            continue
        best = min(even, key=lambda rest: (_distance(labels, rest, middle), int(rest[0])))
        away = np.setdiff1d(np.arange(size), best)
        wanted = {cube.labels[name][labels.codes[place]] for place in away}
        if wanted == {one.where.conditions[0][1] for one in own}:
            return None
        return _named(cube, name, labels.codes[best], labels.codes[away], straying, scales)
    return None


def _ordered(cube: Cube, name: str, additive: bool) -> _Labels:
    size = len(cube.labels[name])
    then, now = (span.grouped(cube.codes[name].astype(np.intp), size) for span in cube.spans[:2])
    codes = np.flatnonzero((then.rows > 0) | (now.rows > 0))
    then, now = then.kept(codes), now.kept(codes)
    moved = _moved(then, now, additive)
    order = np.lexsort((codes, moved))
    return _Labels(codes[order], moved[order], np.maximum(then.top if additive else then.bottom, 0.0)[order])


def _moved(then: Sums, now: Sums, additive: bool) -> npt.NDArray[np.float64]:
    """How each label moved: sums in proportion (as logarithms; infinite from or to nought), averages by as much."""
    with np.errstate(divide="ignore", invalid="ignore"):
        if additive:
            if (then.top < 0).any() or (now.top < 0).any():
                return np.full(then.top.shape, np.nan)
            return np.asarray(np.log(now.top) - np.log(then.top))
        return np.asarray(now.top / now.bottom - then.top / then.bottom)


def _middle(labels: _Labels) -> float:
    """The median of how labels moved, each counted by the root of its weight; of two labels, no movement."""
    known = np.isfinite(labels.moved)
    if known.sum() < 3:
        return 0.0
    weight = np.sqrt(labels.weight[known])
    place = int(np.searchsorted(np.cumsum(weight), weight.sum() / 2))
    return float(labels.moved[known][min(place, int(known.sum()) - 1)])


def _distance(labels: _Labels, rest: npt.NDArray[np.intp], middle: float) -> float:
    apart = np.abs(labels.moved[rest] - middle)
    return (
        float(np.average(apart, weights=np.sqrt(labels.weight[rest]) + 1e-12)) if np.isfinite(apart).all() else np.inf
    )


def _even(
    cube: Cube, name: str, codes: npt.NDArray[np.intp], straying: Callable[[Cube], Stray], scales: Scales, floor: float
) -> bool:
    """Whether none of some labels surely strays from the others by as much as is told."""
    if codes.size < 2:
        return True
    looked = _looked(cube, name, codes, straying, scales)
    p = looked.p_values(_many(looked, scales))
    sure = looked.tested() & (p <= SURE) & (np.abs(looked.groups.strayed.excess) >= floor)
    return not sure.any()


def _looked(
    cube: Cube, name: str, codes: npt.NDArray[np.intp], straying: Callable[[Cube], Stray], scales: Scales
) -> Looked:
    inside = cube.kept(np.isin(cube.codes[name], codes))
    return look_at(inside, name, straying(inside), scales)


def _many(looked: Looked, scales: Scales) -> int:
    return max(1, scales.kinds * int(looked.tested().sum()))


def _named(
    cube: Cube,
    name: str,
    rest: npt.NDArray[np.intp],
    away: npt.NDArray[np.intp],
    straying: Callable[[Cube], Stray],
    scales: Scales,
) -> list[Straying] | None:
    """The labels that moved away, each against the rest alone; None where one is not sure."""
    told = []
    for code in away:
        looked = _looked(cube, name, np.append(rest, code), straying, scales)
        place = int(np.searchsorted(looked.groups.numbers, code))
        p = float(looked.p_values(_many(looked, scales))[place])
        if not looked.tested()[place] or p > SURE:
            return None
        where = Slice(((name, cube.labels[name][code]),))
        told.append(Straying(where=where, excess=float(looked.groups.strayed.excess[place]), p=p))
    return told
