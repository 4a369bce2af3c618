"""The slices that a change is explained by, with their figures, and what is left without them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial
from itertools import combinations

import numpy as np

from ...aggregation import Survey
from ...aggregation.measures import Measure
from ...findings import Slice
from ...tables import Period
from .compared_periods import earlier_years
from .contributions import ratio, status
from .deviation_tests import Stray, by_amount, by_rate, by_weight
from .fewest_labels import explaining
from .label_evidence import Evidence, evidence_of
from .minimal_explanation import Straying, scales_of, smallest, spans_of, testable
from .slice_dispersion import dispersion
from .span_cube import Cube, Sums, cube

#: Rises and falls offset each other when the lesser makes at least so much of the greater, and the whole moves by
#: less than so much of the greater.
_BOTH_WAYS, _FLAT = 0.4, 0.6


@dataclass(frozen=True, slots=True, kw_only=True)
class Named:
    """A slice that explains a change, or a part of it.

    `how` is amount (a sum moved otherwise than in proportion), rate (an average moved otherwise than that of the rest)
    or mix (its weight moved). `baseline` and `value` are its own; `change` is its contribution to the whole's change,
    `excess` how much of that is beyond what it would be had it moved as the rest did. `status` is kept, new or ended.
    """

    where: Slice
    how: str
    baseline: float | None
    value: float | None
    change: float
    excess: float
    share: float | None
    status: str
    weight_before: float
    weight_now: float
    p: float

    @property
    def told(self) -> float:
        """What is told of it: a sum's own change; of an average the part beyond how the rest moved."""
        return self.change if self.how == "amount" else self.excess


@dataclass(frozen=True, slots=True, kw_only=True)
class Smallest:
    """The slices named, largest excess first; `explained` is the share of the change they make (None for none), and
    `rest_before` and `rest_now` the measure of the rows outside them (None where that cannot be told). `searched` is
    False where there was no dimension to look along, or too few rows to tell anything from chance; `evidence` says of
    each dimension looked along what its labels could have shown."""

    slices: tuple[Named, ...]
    explained: float | None
    rest_before: float | None
    rest_now: float | None
    searched: bool
    change: float
    evidence: tuple[Evidence, ...] = ()

    @property
    def offset(self) -> bool:
        """Whether the slices named went both ways and so made up for each other."""
        ups = sum(slice_.told for slice_ in self.slices if slice_.told > 0)
        downs = -sum(slice_.told for slice_ in self.slices if slice_.told < 0)
        most = max(ups, downs)
        return min(ups, downs) >= _BOTH_WAYS * most > 0 and max(abs(ups - downs), abs(self.change)) <= _FLAT * most


NOTHING = Smallest(slices=(), explained=None, rest_before=None, rest_now=None, searched=False, change=0.0)


def name_slices(
    survey: Survey, measure: Measure, where: Slice, now: Period, then: Period, value0: float, value1: float
) -> Smallest:
    """The smallest explanation of the change from `value0` to `value1`."""
    fixed = {column for column, _ in where.conditions}
    if measure.kind == "other" or not [column for column in survey.dimensions if column.name not in fixed]:
        return NOTHING
    line = survey.timeline
    assert line is not None
    pairs = [(then, now), *earlier_years(line, now, then)]
    cells = cube(survey, measure, [span for pair in pairs for span in pair], where)
    change = value1 - value0
    crossed = [pair for pair in combinations(sorted(cells.labels), 2) if not cells.nested(pair)]
    usual = {
        names: dispersion(survey, measure, where, names, now, then)
        for names in (*((name,) for name in sorted(cells.labels)), *crossed)
    }
    known = {names: one for names, one in usual.items() if one is not None}
    if not testable(cells, known):
        return NOTHING
    if measure.additive:
        scales = scales_of(cells, by_amount, known)
        amounts = explaining(cells, lambda _: by_amount, change, scales, additive=True)
        found = [("amount", one) for one in amounts]
        evidence = evidence_of(cells, by_amount, scales, additive=True)
    else:
        scales = scales_of(cells, _by_rate(cells), known)
        rates = explaining(cells, _by_rate, change, scales, additive=False)
        evidence = evidence_of(cells, _by_rate(cells), scales, additive=False)
        weights = smallest(cells, lambda _: by_weight, change, scales_of(cells, by_weight, {}, 1), deepest=1)
        found = [*(("rate", rate) for rate in rates), *(("mix", weight) for weight in weights)]
        most = max([abs(change), *(abs(one.excess) for _, one in found)])
        found = [(how, one) for how, one in found if abs(one.excess) >= 0.1 * most]
    found = [(how, one) for how, one in found if _large_enough(cells, one.where, survey.table.minimum)]
    found.sort(key=lambda entry: (-abs(entry[1].excess), entry[1].where.label))
    slices = tuple(_named(cells, measure, how, one, value0, value1) for how, one in found)
    return _left(cells, measure, slices, change, evidence)


def _large_enough(cells: Cube, where: Slice, minimum: int) -> bool:
    """Whether a slice has, in both periods, as many rows as a group must have, or none."""
    inside = cells.cells_of(where)
    return all(not 0 < span.rows[inside].sum() < minimum for span in cells.spans[:2])


def _by_rate(cells: Cube) -> Stray:
    """Averages against the rest's, whose change is told without what went through the weights of its parts."""
    spans = [cells.spans[:2]]
    earlier = spans_of(cells).earlier
    if earlier is not None:
        spans.append(earlier)
    mixes = {name: [_mix(cells, name, *pair) for pair in spans] for name in sorted(cells.labels)}
    return partial(by_rate, mixes={name: (own[0], own[-1]) for name, own in mixes.items()})


def _mix(cells: Cube, name: str, then: Sums, now: Sums) -> float:
    """How much of the change of the whole went through the weights of a dimension's labels."""
    size = len(cells.labels[name])
    before, after = (one.grouped(cells.codes[name].astype(np.intp), size) for one in (then, now))
    if not before.bottom.sum() or not after.bottom.sum():
        return 0.0
    parts = ratio(cells.labels[name], before.top, before.bottom, after.top, after.bottom)
    return sum(part.mix or 0.0 for part in parts)


def _named(cells: Cube, measure: Measure, how: str, straying: Straying, value0: float, value1: float) -> Named:
    inside = cells.cells_of(straying.where)
    then, now = (span.kept(inside).whole() for span in cells.spans[:2])
    whole0, whole1 = (span.whole() for span in cells.spans[:2])
    top0, top1, bottom0, bottom1 = (float(x[0]) for x in (then.top, now.top, then.bottom, now.bottom))
    all0, all1 = float(whole0.bottom[0]), float(whole1.bottom[0])
    if measure.additive:
        before: float | None = top0
        value: float | None = top1
        change = top1 - top0
    else:
        # The slice and all others, so that the two contributions add up to the change.
        tops = [np.array([a, float(b.top[0]) - a]) for a, b in ((top0, whole0), (top1, whole1))]
        bottoms = [np.array([a, b - a]) for a, b in ((bottom0, all0), (bottom1, all1))]
        parts = ratio(("", "others"), tops[0], bottoms[0], tops[1], bottoms[1])
        before, value, change = parts[0].baseline, parts[0].value, parts[0].change
    whole = value1 - value0
    return Named(
        where=straying.where,
        how=how,
        baseline=before,
        value=value,
        change=change,
        excess=straying.excess,
        share=change / whole if whole else None,
        status=status(float(then.rows[0]), float(now.rows[0])),
        weight_before=bottom0 / all0 if all0 else 0.0,
        weight_now=bottom1 / all1 if all1 else 0.0,
        p=straying.p,
    )


def _left(
    cells: Cube, measure: Measure, slices: Sequence[Named], change: float, evidence: tuple[Evidence, ...]
) -> Smallest:
    outside = np.ones(cells.count, dtype=bool)
    for named in slices:
        if named.how != "mix":
            outside &= ~cells.cells_of(named.where)
    then, now = (span.kept(outside).whole() for span in cells.spans[:2])
    before, value = float(then.top[0]), float(now.top[0])
    if measure.additive:
        explained = (change - (value - before)) / change if slices and change else None
    else:
        before = before / float(then.bottom[0]) if then.bottom[0] else np.nan
        value = value / float(now.bottom[0]) if now.bottom[0] else np.nan
        explained = sum(named.excess for named in slices) / change if slices and change else None
    told = bool(outside.any()) and np.isfinite(before) and np.isfinite(value)
    return Smallest(
        slices=tuple(slices),
        explained=explained,
        rest_before=before if told else None,
        rest_now=value if told else None,
        searched=True,
        change=change,
        evidence=evidence,
    )
