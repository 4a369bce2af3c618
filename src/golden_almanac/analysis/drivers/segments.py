"""Segments: slices of up to three conditions where the outcome stands out, found on one half of the rows and estimated
on the other (Athey & Imbens 2016), so that their figures are not those of a winner.

The search is best first: the slice that stands out most is refined first. A condition is added only where it takes the
slice further from the overall than what it leaves behind, by more than the search for it makes.
"""

from __future__ import annotations

import heapq
from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from ...sql import expressions
from ...stats.share_ranges import wilson
from ...tables import Table
from .effect_shapes import roundest
from .factors import Factor
from .hash_split import Hashes, mixed, thinned

Floats = npt.NDArray[np.float64]

_DEPTH, _EXPANDED, _KEPT = 3, 40, 30
#: Rows of the half that is searched; the other half is estimated on all its rows.
_MOST_SEARCHED = 50_000
_LEAST_ROWS, _LEAST_SHARE = 15, 0.005
#: A slice with more of the rows than this is what is usual, not what stands out.
_LARGEST = 0.4
#: Standard errors by which a slice must stand out to be looked at, and a condition must add.
_STANDS_OUT, _ADDS = 3.0, 3.5
#: What is told is sure at this level on the other half, all segments estimated taken together (Holm 1979).
_SURE = 0.01


@dataclass(frozen=True, slots=True, kw_only=True)
class Condition:
    """One condition: `op` is =, in, <= or >; `value` a label (None for missing), labels, or a number; `next` the least
    value above; `but` the one label that `in` leaves out."""

    factor: str
    column: str
    op: str
    value: str | float | tuple[str | None, ...] | None
    next: float | None
    sql: str
    but: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Segment:
    """A slice where the outcome stands out.

    `n`, `share` and `value` are of all rows it keeps, as a filter and an average give them; `estimate` with `low` and
    `high`
    (95%) of the `estimate_n` rows that took no part in finding it. `p` is theirs, against the rest.
    """

    conditions: tuple[Condition, ...]
    sql: str
    n: int
    share: float
    value: float
    overall: float
    estimate: float
    estimate_n: int
    low: float
    high: float
    p: float

    @property
    def lift(self) -> float | None:
        return self.value / self.overall if self.overall > 0 else None

    @property
    def direction(self) -> str:
        return "up" if self.value > self.overall else "down"


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Searched:
    """`top` share no row, best first; `every` holds all that are sure; `estimated` counts those put to the test."""

    top: tuple[Segment, ...]
    every: tuple[Segment, ...]
    estimated: int


def segments(
    table: Table,
    factors: Sequence[Factor],
    y: Floats,
    weights: Floats | None,
    hashes: Hashes,
    *,
    yes_no: bool,
    toward: str = "both",
    clusters: npt.NDArray[np.intp] | None = None,
    most: int = 5,
) -> Searched:
    """The segments of a table's rows with outcome `y` and `hashes` (see `dealing`). `toward` is higher, lower or both;
    `clusters` are weeks whose rows lean on each other: they stay in one half and make the intervals wider."""
    w = np.ones(y.size) if weights is None else weights
    # Rows of one cluster stay in one half.
    dealt = hashes if clusters is None else mixed(clusters.astype(np.uint64))
    searching = np.asarray((dealt >> np.uint64(63)) == 0)
    half = np.flatnonzero(searching)
    place = half[thinned(hashes[half], _MOST_SEARCHED)]
    coded = [factor.bins[0][place] for factor in factors]
    signs = {"higher": (1,), "lower": (-1,), "both": (1, -1)}[toward]
    free = np.ones(y.size, dtype=bool)
    top: list[Segment] = []
    every: list[Segment] = []
    estimated = 0
    while len(top) < most:
        root = None if free.all() else np.flatnonzero(free[place])
        found = []
        for sign in signs:
            found += _search(factors, coded, table, sign * y[place], w[place], root)
        paths = [_apart(factors, table, path, top, free) for path in dict.fromkeys(found)]
        whole = [path for path in dict.fromkeys(paths) if path is not None]
        made = [_estimated(factors, path, y, w, ~searching & free, yes_no, clusters) for path in whole]
        estimated += len(made)
        sure = _holm([one for one in made if one is not None])
        sure.sort(key=lambda one: (one.p, -one.n, one.sql))
        every = every if top else sure
        if not sure:
            break
        top.append(sure[0])
        free &= ~mask(factors, sure[0].conditions, y.size)
    return Searched(top=tuple(top), every=tuple(every), estimated=estimated)


def _apart(
    factors: Sequence[Factor],
    table: Table,
    path: tuple[Condition, ...],
    top: Sequence[Segment],
    free: npt.NDArray[np.bool_],
) -> tuple[Condition, ...] | None:
    """The path without the rows of segments told before: where it has some, the other labels of the one column that
    such a segment is told by. None where that would take more than three conditions, or cannot be said."""
    own = mask(factors, path, free.size)
    by_name = {factor.name: factor for factor in factors}
    for known in top:
        if not (own & mask(factors, known.conditions, free.size)).any():
            continue
        if len(known.conditions) > 1 or known.conditions[0].op != "=":
            return None
        condition = known.conditions[0]
        factor = by_name[condition.factor]
        if factor.number or condition.value is None or any(other.factor == condition.factor for other in path):
            return None
        labels = tuple(level for level in factor.levels if level != condition.value)
        if None in labels or factor.folded or len(labels) > 12:
            return None
        sql = " OR ".join(factor.equals(table, level) for level in labels)
        beside = Condition(
            factor=condition.factor,
            column=condition.column,
            op="in",
            value=labels,
            next=None,
            sql=f"({sql})",
            but=str(condition.value),
        )
        path = (*path, beside)
    return path if len(path) <= _DEPTH else None


def _search(
    factors: Sequence[Factor],
    coded: Sequence[npt.NDArray[np.intp]],
    table: Table,
    y: Floats,
    w: Floats,
    root: npt.NDArray[np.intp] | None,
) -> list[tuple[Condition, ...]]:
    """Paths whose rows lie above the others (of `root`, all for None), those that stand out most first."""
    base = slice(None) if root is None else root
    total, whole = float(w[base].sum()), float(w[base] @ y[base])
    if not total:
        return []
    size_of_all = y[base].size
    mean = whole / total
    spread = sqrt(max(float(w[base] @ (y[base] - mean) ** 2) / total, 1e-300))
    each = total / size_of_all
    least, largest = max(_LEAST_ROWS, table.minimum, int(_LEAST_SHARE * y.size)), _LARGEST * size_of_all
    wy = w * y
    queue: list[tuple[float, int, tuple[tuple[int, str, int], ...], npt.NDArray[np.intp] | None]] = [(0.0, 0, (), root)]
    seen: set[frozenset[tuple[int, str, int]]] = set()
    kept: list[tuple[float, tuple[tuple[int, str, int], ...]]] = []
    number = 0
    for _ in range(_EXPANDED):
        if not queue:
            break
        _, _, path, rows = heapq.heappop(queue)
        own_w, own_y = (total, whole) if rows is None else (float(w[rows].sum()), float(wy[rows].sum()))
        for place, factor in enumerate(factors):
            if any(one[0] == place and (not factor.number or one[1] == "=") for one in path):
                continue
            size = factor.bins[1]
            codes = coded[place] if rows is None else coded[place][rows]
            counts = np.bincount(codes, minlength=size)
            weight = np.bincount(codes, weights=w if rows is None else w[rows], minlength=size)
            sums = np.bincount(codes, weights=wy if rows is None else wy[rows], minlength=size)
            made = _choices(factor, counts, np.asarray(weight, float), np.asarray(sums, float))
            n_out, w_out, s_out = (rows.size if rows is not None else y.size) - made.n, own_w - made.w, own_y - made.s
            with np.errstate(divide="ignore", invalid="ignore"):
                inside, left = made.s / made.w, np.maximum(total - made.w, 1e-300)
                error = spread * np.sqrt(each / made.w + each / np.maximum(total - made.w, each))
                stands = (inside - (whole - made.s) / left) / error
                use = (made.n >= least) & (n_out >= 1) & (made.w > 0) & (stands >= _STANDS_OUT)
                if len(path) == _DEPTH - 1:
                    use &= made.n <= largest
                if path:
                    behind = np.where(w_out > 0, s_out / w_out, inside)
                    adds = _ADDS * spread * np.sqrt(each / made.w + each / np.maximum(w_out, each))
                    use &= inside - behind >= adds
            for at in np.flatnonzero(use):
                op, code = made.op[at], int(made.code[at])
                longer = (*path, (place, op, code))
                if frozenset(longer) in seen:
                    continue
                seen.add(frozenset(longer))
                if made.n[at] <= largest:
                    kept.append((float(stands[at]), longer))
                if len(longer) < _DEPTH:
                    number += 1
                    inner = _within(factor, op, code, codes)
                    own_rows = inner if rows is None else rows[inner]
                    heapq.heappush(queue, (-float(stands[at]), number, longer, own_rows))
    kept.sort(key=lambda one: (-one[0], len(one[1]), one[1]))
    return [_path(factors, table, path) for _, path in kept[:_KEPT]]


class _Choices(NamedTuple):
    """Conditions on a factor: operators and codes, and the rows, weight and sum of each; shape (conditions,)."""

    op: list[str]
    code: npt.NDArray[np.intp]
    n: npt.NDArray[np.intp]
    w: Floats
    s: Floats


def _choices(factor: Factor, counts: npt.NDArray[np.intp], weight: Floats, sums: Floats) -> _Choices:
    """The conditions on a factor."""
    if not factor.number:
        held = np.flatnonzero(counts)
        return _Choices(["="] * held.size, held, counts[held], weight[held], sums[held])
    edges = factor.bins[2]
    last = edges.size - int(np.isinf(edges[-1]))
    missing = np.array([last] if last < edges.size and counts[last] else [], dtype=np.intp)
    below = [np.cumsum(one[:last])[:-1] for one in (counts, weight, sums)]
    above = [one[:last].sum() - under for one, under in zip((counts, weight, sums), below, strict=True)]
    # Each cut both ways, one after the other.
    n, w, s = (
        np.concatenate([one[missing], np.stack(ways, axis=1).ravel()])
        for one, ways in zip((counts, weight, sums), zip(below, above, strict=True), strict=True)
    )
    cuts = np.arange(max(0, last - 1))
    op = ["="] * missing.size + ["<=", ">"] * cuts.size
    return _Choices(op, np.concatenate([missing, np.repeat(cuts, 2)]), n, w, s)


def _within(factor: Factor, op: str, code: int, codes: npt.NDArray[np.intp]) -> npt.NDArray[np.intp]:
    if op == "=":
        return np.flatnonzero(codes == code)
    if op == "<=":
        return np.flatnonzero(codes <= code)
    edges = factor.bins[2]
    last = edges.size - int(np.isinf(edges[-1]))
    return np.flatnonzero((codes > code) & (codes < last))


def _path(factors: Sequence[Factor], table: Table, path: tuple[tuple[int, str, int], ...]) -> tuple[Condition, ...]:
    """The path as conditions over the source, each factor's bounds said once, in the order of the factors."""
    tightest: dict[tuple[int, str], int] = {}
    for place, op, code in path:
        known = tightest.get((place, op))
        tightest[place, op] = code if known is None else (min if op == "<=" else max)(known, code)
    made = []
    for (place, op), code in sorted(tightest.items()):
        factor = factors[place]
        if not factor.number:
            level = factor.levels[code]
            sql = factor.equals(table, level)
            made.append(Condition(factor=factor.name, column=factor.column, op=op, value=level, next=None, sql=sql))
            continue
        quoted = expressions.quote_name(factor.column)
        edges = factor.bins[2]
        if op == "=":
            made.append(
                Condition(
                    factor=factor.name, column=factor.column, op="=", value=None, next=None, sql=f"{quoted} IS NULL"
                )
            )
            continue
        assert factor.values is not None
        low = float(edges[code])
        high = factor.next_above(code)
        at = roundest(low, high)
        made.append(
            Condition(factor=factor.name, column=factor.column, op=op, value=at, next=high, sql=f"{quoted} {op} {at!r}")
        )
    return tuple(made)


def mask(factors: Sequence[Factor], conditions: Sequence[Condition], n: int) -> npt.NDArray[np.bool_]:
    """The rows that meet all conditions; shape (n,)."""
    by_name = {factor.name: factor for factor in factors}
    which = np.ones(n, dtype=bool)
    for condition in conditions:
        factor = by_name[condition.factor]
        if condition.op == "in" and isinstance(condition.value, tuple):
            assert factor.codes is not None
            which &= np.isin(factor.codes, [factor.levels.index(level) for level in condition.value])
        elif not factor.number:
            assert factor.codes is not None
            which &= factor.codes == factor.levels.index(None if condition.value is None else str(condition.value))
        elif condition.value is None:
            which &= factor.missing
        else:
            assert factor.values is not None
            with np.errstate(invalid="ignore"):
                which &= factor.values <= condition.value if condition.op == "<=" else factor.values > condition.value  # type: ignore[operator]
    return which


def _estimated(
    factors: Sequence[Factor],
    path: tuple[Condition, ...],
    y: Floats,
    w: Floats,
    other: npt.NDArray[np.bool_],
    yes_no: bool,
    clusters: npt.NDArray[np.intp] | None,
) -> Segment | None:
    from scipy.special import stdtr, stdtrit

    inside = mask(factors, path, y.size)
    own, rest = inside & other, ~inside & other
    n, m = int(own.sum()), int(rest.sum())
    if n < 5 or m < 5:
        return None
    mean, error, df = _mean(y[own], w[own], None if clusters is None else clusters[own])
    beside, its_error, _ = _mean(y[rest], w[rest], None if clusters is None else clusters[rest])
    both = sqrt(error**2 + its_error**2)
    p = float(2 * stdtr(df, -abs(mean - beside) / both)) if both > 0 else (1.0 if mean == beside else 0.0)
    if yes_no and clusters is None:
        low, high = wilson(float(y[own].sum()), n)
    else:
        half = float(stdtrit(df, 0.975)) * error
        low, high = mean - half, mean + half
    overall = float(np.average(y, weights=w))
    value = float(np.average(y[inside], weights=w[inside]))
    if (value - overall) * (mean - beside) < 0:
        p = 1.0
    return Segment(
        conditions=path,
        sql=" AND ".join(condition.sql for condition in path),
        n=int(inside.sum()),
        share=float(w[inside].sum() / w.sum()),
        value=value,
        overall=overall,
        estimate=mean,
        estimate_n=n,
        low=low,
        high=high,
        p=p,
    )


def _mean(y: Floats, w: Floats, clusters: npt.NDArray[np.intp] | None) -> tuple[float, float, float]:
    """A weighted mean, its standard error (by clusters where given), and degrees of freedom."""
    mean = float(np.average(y, weights=w))
    score = w * (y - mean) / w.sum()
    if clusters is None:
        n = y.size
        return mean, sqrt(float(score @ score) * n / (n - 1)), n - 1
    sums = np.bincount(clusters, weights=score)
    groups = int(np.count_nonzero(np.bincount(clusters)))
    if groups < 3:
        return mean, float("inf"), 1.0
    own = float(score @ score) * y.size / (y.size - 1)
    return mean, sqrt(max(own, float(sums @ sums) * groups / (groups - 1))), groups - 1


def _holm(segments: list[Segment]) -> list[Segment]:
    kept = []
    for place, one in enumerate(sorted(segments, key=lambda one: one.p)):
        if one.p * (len(segments) - place) > _SURE:
            break
        kept.append(one)
    return kept
