"""The smallest explanation of a change: the fewest slices without which the rest has changed evenly.

Slices of one, two and three dimensions are looked at, the best first: that which strays most from what the rest did,
in standard errors, less what as many slices would show by chance. Its rows are taken out, and the search is made again
on what is left, until nothing strays. Slices of three dimensions are looked for within those of two that stray most.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np
import numpy.typing as npt

from ...findings import Slice
from ...stats.autocorrelated_fits import Floats
from .deviation_tests import Spans, Stray, Strayed
from .slice_dispersion import Dispersion
from .span_cube import Cube

#: A slice is named when chance would make one like it, anywhere among those looked at, less often than this.
SURE = 0.01
#: Slices named at most, dimensions crossed at most, pairs of labels within which triples are looked for.
_MOST, _DEEPEST, _BEAM = 5, 3, 24
#: A slice must stray by so much of the whole's change, or of what the first slice strays by.
_FLOOR = 0.1
#: Degrees of freedom of a slice: half its rows, at least so many where earlier comparisons tell how calm it is.
_MOST_DF, _LEAST_DF = 200.0, 12.0
#: Rows in both spans together below which a slice cannot be told from chance, unless earlier comparisons tell.
_FEWEST_ROWS = 16
#: The least dispersion believed: rounding alone makes more.
_CALMEST = 1e-4


@dataclass(frozen=True, slots=True, kw_only=True)
class Straying:
    """A slice that strays: by how much of the whole's change (`excess`), and how often chance would show the like."""

    where: Slice
    excess: float
    p: float


@dataclass(frozen=True, slots=True, kw_only=True)
class _Best:
    dimensions: tuple[str, ...]
    codes: tuple[int, ...]
    excess: float
    gain: float
    p: float


def smallest(
    cube: Cube,
    straying: Callable[[Cube], Stray],
    change: float,
    scales: Scales,
    deepest: int = _DEEPEST,
    found: Sequence[Straying] = (),
) -> tuple[Straying, ...]:
    """The slices that make the rest change evenly, in the order found; none where all changed evenly.

    `straying` tells, for the cells left, how to measure how far slices stray, by the `scales` of the whole cube. `cube`
    holds both spans and, in pairs after them, the same spans of earlier years. The search goes on from those `found`.
    """
    left, told = cube, list(found)
    for one in told:
        left = left.kept(~left.cells_of(one.where))
    while len(told) < _MOST and left.count > 1:
        floor = floor_of(change, told)
        best = _best(left, straying(left), deepest, scales, floor)
        if best is None:
            break
        held = dict(zip(best.dimensions, best.codes, strict=True))
        where = Slice(tuple((name, labels[held[name]]) for name, labels in cube.labels.items() if name in held))
        # A piece named before is part of what holds it and strays as well.
        pieces = [one for one in told if set(where.conditions) <= set(one.where.conditions)]
        told = [one for one in told if one not in pieces]
        excess = best.excess + sum(piece.excess for piece in pieces)
        told.append(Straying(where=where, excess=excess, p=min([best.p, *(piece.p for piece in pieces)])))
        inside = np.ones(left.count, dtype=bool)
        for name, code in held.items():
            inside &= left.codes[name] == code
        left = left.kept(~inside)
    return tuple(told)


def floor_of(change: float, found: Sequence[Straying]) -> float:
    """How much a slice must stray by to be named beside those found."""
    return _FLOOR * max([abs(change), *(abs(one.excess) for one in found)])


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Scales:
    """How far slices stray by chance, as times the spread of their rows: of each dimension and pair; `told` holds the
    degrees of freedom where earlier comparisons tell it."""

    single: Mapping[str, float]
    paired: Mapping[tuple[str, ...], float]
    told: Mapping[tuple[str, ...], float]
    #: Sets of dimensions crossed that are looked at: each pays for all.
    kinds: int

    @property
    def middle(self) -> float:
        """One scale for all: which of two slices is the better one must not hang on how calm their kinds happen to
        be."""
        return float(np.median([*self.single.values(), *self.paired.values()]))


def scales_of(
    cube: Cube, stray: Stray, dispersion: Mapping[tuple[str, ...], Dispersion], deepest: int = _DEEPEST
) -> Scales:
    """The scales of a cube; `dispersion` is that of the labels of a dimension, where earlier comparisons show it."""
    names, spans = sorted(cube.labels), spans_of(cube)
    whole = spans.turned(lambda one: one.whole())
    paired: dict[tuple[str, ...], float] = {}
    for pair in _pairs(cube, deepest):
        earlier = dispersion.get(pair)
        if earlier is None:
            one = _grouped(cube, spans, pair, whole, stray)
            paired[pair] = max(1.0, one.strayed.dispersion(one.spans) or 1.0)
        else:
            paired[pair] = earlier.times
    usual = float(np.median(list(paired.values()))) if paired else 1.0
    # What makes the labels of a dimension stray makes their parts stray: a part is no calmer than the labels it has.
    single = {name: max(_CALMEST, dispersion[(name,)].times if (name,) in dispersion else usual) for name in names}
    told = {key: one.df for key, one in dispersion.items()}
    return Scales(single=single, paired=paired, told=told, kinds=min(deepest, len(names)))


def _pairs(cube: Cube, deepest: int) -> list[tuple[str, ...]]:
    names = sorted(cube.labels)
    return [pair for pair in combinations(names, 2) if not cube.nested(pair)] if deepest > 1 else []


def testable(cube: Cube, dispersion: Mapping[tuple[str, ...], Dispersion]) -> bool:
    """Whether any slice of one dimension can be told from chance."""
    spans = spans_of(cube)
    for name, labels in cube.labels.items():
        rows = (spans.then.rows + spans.now.rows) if cube.count else np.zeros(0)
        held = np.bincount(cube.codes[name], weights=rows, minlength=len(labels))
        if (held >= (1 if (name,) in dispersion else _FEWEST_ROWS)).any():
            return True
    return False


def spans_of(cube: Cube) -> Spans:
    """A cube's spans, those of earlier years put together."""
    then, now, *more = cube.spans
    if not more:
        return Spans(then=then, now=now)
    earlier_then, earlier_now = more[0], more[1]
    for one, other in zip(more[2::2], more[3::2], strict=True):
        earlier_then, earlier_now = earlier_then.plus(one), earlier_now.plus(other)
    return Spans(then=then, now=now, earlier=(earlier_then, earlier_now))


def _best(cube: Cube, stray: Stray, deepest: int, scales: Scales, floor: float) -> _Best | None:
    """The slice that strays most for its kind."""
    spans = spans_of(cube)
    whole = spans.turned(lambda one: one.whole())
    kinds, scale = scales.kinds, scales.middle
    looked = [look_at(cube, name, stray, scales) for name in sorted(cube.labels)]
    best = _surest(looked, kinds, scale, floor)
    by_pair = [
        Looked(
            names=pair,
            dispersion=max(scales.paired[pair], *(scales.single[name] for name in pair)),
            told=scales.told.get(pair, 0.0),
            groups=_grouped(cube, spans, pair, whole, stray),
        )
        for pair in _pairs(cube, deepest)
    ]
    best = _better(best, _surest(by_pair, kinds, scale, floor))
    if deepest > 2 and len(cube.labels) > 2:
        triples = list(_within(cube, spans, whole, stray, by_pair, scales.single))
        best = _better(best, _surest(triples, kinds, scale, floor))
    return best


def look_at(cube: Cube, name: str, stray: Stray, scales: Scales) -> Looked:
    """The labels of a dimension, and how far each strays from the others."""
    spans = spans_of(cube)
    groups = _grouped(cube, spans, (name,), spans.turned(lambda one: one.whole()), stray)
    return Looked(names=(name,), dispersion=scales.single[name], told=scales.told.get((name,), 0.0), groups=groups)


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Groups:
    """Slices by some dimensions: their numbers (row-major over `sizes`), sums and how far they stray."""

    numbers: npt.NDArray[np.intp]
    sizes: tuple[int, ...]
    spans: Spans
    strayed: Strayed


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Looked:
    """Slices by some dimensions, looked at together."""

    names: tuple[str, ...]
    dispersion: float
    groups: _Groups
    #: The degrees of freedom of the dispersion where earlier comparisons tell it, else nought.
    told: float
    #: How many slices of these dimensions there are; those looked at, unless told otherwise.
    possible: int | None = None

    def tested(self) -> npt.NDArray[np.bool_]:
        """Which of the slices can be told from chance; shape (slices,)."""
        rows = self.groups.spans.then.rows + self.groups.spans.now.rows
        return np.asarray(rows >= (1 if self.told else _FEWEST_ROWS))

    def df(self) -> Floats:
        """Degrees of freedom of each slice."""
        rows = self.groups.spans.then.rows + self.groups.spans.now.rows
        if not self.told:
            return np.asarray(np.clip(rows / 2, 3.0, _MOST_DF))
        # What few comparisons tell, many rows do not make surer.
        few = self.told < _LEAST_DF
        return np.asarray(np.clip(rows / 2, min(_LEAST_DF, self.told), self.told if few else _MOST_DF))

    def p_values(self, many: int) -> Floats:
        """How often chance would show, among so many slices, one that strays as far."""
        from scipy.special import stdtr

        far = np.sqrt(self.groups.strayed.squared / self.dispersion)
        return np.asarray(np.minimum(1.0, 2 * many * stdtr(self.df(), -far)))


def _grouped(
    cube: Cube, spans: Spans, names: Sequence[str], whole: Spans, stray: Stray, within: tuple[str, ...] = ()
) -> _Groups:
    sizes = tuple(len(cube.labels[name]) for name in names)
    number = np.zeros(cube.count, dtype=np.intp)
    for name, size in zip(names, sizes, strict=True):
        number = number * size + cube.codes[name]
    held, place = np.unique(number, return_inverse=True) if _sparse(sizes, cube.count) else _dense(number, sizes)
    own = spans.turned(lambda one: one.grouped(place, held.size))
    return _Groups(numbers=held, sizes=sizes, spans=own, strayed=stray(own, whole, (*within, *names)))


def _sparse(sizes: tuple[int, ...], cells: int) -> bool:
    return bool(np.prod(np.array(sizes, dtype=np.float64)) > 4 * cells + 4096)


def _dense(
    number: npt.NDArray[np.intp], sizes: tuple[int, ...]
) -> tuple[npt.NDArray[np.intp], npt.NDArray[np.intp]]:  # fmt: skip
    return np.arange(int(np.prod(sizes)), dtype=np.intp), number


def _within(
    cube: Cube, spans: Spans, whole: Spans, stray: Stray, by_pair: Sequence[Looked], single: Mapping[str, float]
) -> Iterable[Looked]:
    """Slices of three dimensions within the pairs of labels that stray most, a third dimension at a time."""
    ranked = sorted(
        (
            (float(one.groups.strayed.evidence[place] / one.dispersion), one.names, int(one.groups.numbers[place]), one)
            for one in by_pair
            for place in np.argsort(-one.groups.strayed.evidence, kind="stable")[:_BEAM]
        ),
        key=lambda entry: (-entry[0], entry[1:3]),
    )[:_BEAM]
    for _, names, number, one in ranked:
        first, second = divmod(number, one.groups.sizes[1])
        inside = np.flatnonzero((cube.codes[names[0]] == first) & (cube.codes[names[1]] == second))
        part = cube.kept(inside)
        for third in sorted(set(cube.labels) - set(names)):
            dimensions = (*names, third)
            if cube.nested(dimensions):
                continue
            groups = _grouped(part, spans_of(part), (third,), whole, stray, names)
            sizes = (*one.groups.sizes, *groups.sizes)
            yield Looked(
                names=dimensions,
                dispersion=max(one.dispersion, single[third]),
                groups=_Groups(
                    numbers=np.asarray(number * groups.sizes[0] + groups.numbers),
                    sizes=sizes,
                    spans=groups.spans,
                    strayed=groups.strayed,
                ),
                told=one.told,
                possible=int(one.tested().sum()) * groups.sizes[0],
            )


def _surest(looked: Sequence[Looked], kinds: int, scale: float, floor: float) -> _Best | None:
    """Of the slices that surely stray, by at least `floor`, the one that does most; p-values pay for all of a kind."""
    possible: dict[tuple[str, ...], int] = {}
    for one in looked:
        told = int(one.tested().sum())
        possible[tuple(sorted(one.names))] = one.possible if one.possible is not None else told
    many = max(1, kinds * sum(possible.values()))
    best: _Best | None = None
    for one in looked:
        strayed = one.groups.strayed
        p = one.p_values(many)
        sure = one.tested() & (p <= SURE) & (np.abs(strayed.excess) >= floor)
        evidence = np.where(sure, strayed.evidence, 0.0)
        if not evidence.size or evidence.max() <= 0:
            continue
        place = int(np.argmax(evidence))
        # Where earlier comparisons never strayed at all, whatever does is beyond measure.
        gain = float(evidence[place]) / max(scale, np.finfo(float).tiny) - 2 * float(np.log(many))
        if best is None or (gain, one.names) > (best.gain, best.dimensions):
            number, codes = int(one.groups.numbers[place]), list[int]()
            for size in reversed(one.groups.sizes):
                number, code = divmod(number, size)
                codes.append(code)
            best = _Best(
                dimensions=one.names,
                codes=tuple(reversed(codes)),
                excess=float(strayed.excess[place]),
                gain=gain,
                p=float(p[place]),
            )
    return best


def _better(one: _Best | None, other: _Best | None) -> _Best | None:
    """The one that gains more; of such that gain alike, that of fewer dimensions (the first)."""
    if one is None or other is None:
        return one or other
    return other if other.gain > one.gain + 1e-9 * abs(one.gain) else one
