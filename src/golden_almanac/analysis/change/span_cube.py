"""The rows of several spans of days grouped as finely as the dimensions allow, side by side.

What is searched for the smallest explanation: cells of all dimensions at once, so that any slice of them is a sum.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from ...aggregation import Only, Survey
from ...aggregation.exact_sums import added
from ...aggregation.hierarchies import parent_codes
from ...aggregation.measures import Measure, Part
from ...aggregation.rollup import Base, numbered
from ...findings import Slice
from ...stats.autocorrelated_fits import Floats
from ...tables import Period

Codes = npt.NDArray[np.integer]


@dataclass(frozen=True, slots=True, eq=False)
class Sums:
    """Sums over the rows of each cell in one span, arrays of shape (cells,), nought where it has none; or in many,
    each compared by itself, arrays of shape (cells, spans).

    `top` over `bottom` is the measure; `tt`, `tb` and `bb` are sums over rows of their squares and products, of which
    variances are made. For measures that add up `bottom` counts rows.
    """

    rows: Floats
    top: Floats
    bottom: Floats
    tt: Floats
    tb: Floats
    bb: Floats

    def grouped(self, number: npt.NDArray[np.intp], size: int) -> Sums:
        """Sums per group; `number` is the group of each cell."""
        return self._each(lambda one: np.asarray(np.bincount(number, weights=one, minlength=size), dtype=np.float64))

    def kept(self, which: npt.NDArray[np.bool_] | npt.NDArray[np.intp]) -> Sums:
        return self._each(lambda one: one[which])

    def whole(self) -> Sums:
        """The sums over all cells; arrays of shape (1,)."""
        return self._each(lambda one: one.sum(axis=0, keepdims=True))

    def plus(self, other: Sums) -> Sums:
        mine, theirs = self._arrays(), other._arrays()
        return Sums(*(a + b for a, b in zip(mine, theirs, strict=True)))

    def without(self, other: Sums) -> Sums:
        """These sums less others."""
        mine, theirs = self._arrays(), other._arrays()
        return Sums(*(a - b for a, b in zip(mine, theirs, strict=True)))

    def _each(self, turn: Callable[[Floats], Floats]) -> Sums:
        return Sums(*(turn(array) for array in self._arrays()))

    def _arrays(self) -> tuple[Floats, ...]:
        return self.rows, self.top, self.bottom, self.tt, self.tb, self.bb


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Cube:
    """Cells of several spans: `codes[dimension]` gives each cell's label by its place in `labels[dimension]`."""

    labels: dict[str, tuple[str | None, ...]]
    codes: dict[str, Codes]
    spans: tuple[Sums, ...]
    inside: dict[str, str]

    @property
    def count(self) -> int:
        return int(self.spans[0].rows.size)

    def kept(self, which: npt.NDArray[np.bool_] | npt.NDArray[np.intp]) -> Cube:
        """Some of the cells."""
        return replace(
            self,
            codes={name: codes[which] for name, codes in self.codes.items()},
            spans=tuple(span.kept(which) for span in self.spans),
        )

    def nested(self, dimensions: Sequence[str]) -> bool:
        """Whether one of the dimensions lies within another: crossing them tells nothing more."""
        for name in dimensions:
            above = self.inside.get(name)
            while above is not None:
                if above in dimensions:
                    return True
                above = self.inside.get(above)
        return False

    def cells_of(self, where: Slice) -> npt.NDArray[np.bool_]:
        """Which cells lie in a slice; shape (cells,)."""
        which = np.ones(self.count, dtype=bool)
        for name, label in where.conditions:
            which &= self.codes[name] == self.labels[name].index(label)
        return which


def cube(survey: Survey, measure: Measure, spans: Sequence[Period], where: Slice) -> Cube:
    """Group the rows of a slice in each span by all dimensions that the slice leaves open."""
    fixed = {column for column, _ in where.conditions}
    names = [column.name for column in survey.dimensions if column.name not in fixed]
    above = set(survey.parents.values())
    own = [name for name in names if name not in above or not _told_by_child(survey, name, names)]
    parts = _parts(measure)
    bases = [survey.kept(Only(where.conditions, (span.start, span.end))).from_rows(own, parts) for span in spans]
    ends = np.cumsum([0, *(base.count for base in bases)])
    total = int(ends[-1])
    if own:
        joint = [(np.concatenate([base.codes[name] for base in bases]), bases[0].sizes[name]) for name in own]
        number, held = numbered(joint)
        size = int(held[0].size)
    else:
        number, held, size = np.zeros(total, dtype=np.int32), [], 1
    made = []
    for base, first, last in zip(bases, ends[:-1], ends[1:], strict=True):
        made.append(_sums(base, measure).grouped(number[first:last].astype(np.intp), size))
    codes: dict[str, Codes] = dict(zip(own, held, strict=True))
    while missing := [name for name in names if name not in codes]:
        for child, parent in survey.parents.items():
            if parent in missing and child in codes and parent not in codes:
                codes[parent] = parent_codes(survey.table, child, parent)[codes[child]]
    return Cube(
        labels={name: survey.labels(name) for name in names},
        codes={name: codes[name] for name in names},
        spans=tuple(made),
        inside=dict(survey.parents),
    )


def _told_by_child(survey: Survey, name: str, names: Sequence[str]) -> bool:
    """Whether a dimension can be read off one that lies within it, directly or not."""
    return any(child in names for child, parent in survey.parents.items() if parent == name)


def _parts(measure: Measure) -> list[Part]:
    """The sums over rows that a measure and its variance are made of."""
    cross = _cross(measure)
    return [*(part for part in measure.parts if part.sql), *([] if cross is None else [cross])]


def _cross(measure: Measure) -> Part | None:
    """The product of what a ratio divides, row by row; None where it is told by other sums."""
    if measure.kind != "ratio" or len(measure.top) != 1 or len(measure.bottom) != 1:
        return None
    (_, top), (_, bottom) = measure.top[0], measure.bottom[0]
    if top.kind != "sum" or bottom.kind != "sum":
        return None
    return Part("sum", f"({top.sql}) * ({bottom.sql})")


def _sums(base: Base, measure: Measure) -> Sums:
    rows = base.rows

    def total(part: Part) -> Floats:
        if part.kind == "count":
            return base.parts[part].count if part.sql else rows
        return added(base.parts[part].sums)

    def squares(part: Part) -> Floats:
        if part.kind == "count":
            return base.parts[part].count if part.sql else rows
        return added(base.parts[part].squares)

    def linear(terms: tuple[tuple[float, Part], ...]) -> Floats:
        return np.asarray(sum((weight * total(part) for weight, part in terms), np.zeros(rows.size)))

    def spread(terms: tuple[tuple[float, Part], ...]) -> Floats:
        return np.asarray(sum((weight * weight * squares(part) for weight, part in terms), np.zeros(rows.size)))

    factor = measure.factor
    top, tt = factor * linear(measure.top), factor * factor * spread(measure.top)
    if not measure.bottom:
        return Sums(rows=rows, top=top, bottom=rows, tt=tt, tb=top, bb=rows)
    bottom, bb = linear(measure.bottom), spread(measure.bottom)
    cross = _cross(measure)
    if cross is not None:
        tb = factor * measure.top[0][0] * measure.bottom[0][0] * total(cross)
    elif all(part.kind == "count" for _, part in measure.bottom):
        tb = top  # what is divided by counts one for each row that has it
    else:
        tb = np.zeros(rows.size)
    return Sums(rows=rows, top=top, bottom=bottom, tt=tt, tb=tb, bb=bb)
