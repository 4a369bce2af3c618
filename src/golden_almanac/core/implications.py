"""Which findings follow from which: a parent from its part, a slice from what it is made of."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from .cells import PERIOD, Cells, PartCells, Survey
from .cells.hierarchies import parent_codes
from .detectors.difference import adjusted_p, set_against, weighted_without
from .detectors.divergence import off_path
from .detectors.siblings import MIRROR, _against, families, period_numbers
from .findings import Finding, Slice
from .measures import Measure, spoken
from .series.paths import Pooled, choose_path, prepare

#: Kinds that no slice is the reason of.
_OF_THEIR_OWN = ("outlier", "exception", "gap", "ranking")


def related_measures(survey: Survey) -> dict[frozenset[str], float]:
    """How the rows of two averaged measures go together (correlation of their columns)."""
    means = [measure for measure in survey.measures if measure.kind == "mean"]
    drawn = survey.drawn() if len(means) > 1 else None
    columns = {} if drawn is None else {measure.name: drawn.values(measure.top[0][1]) for measure in means}
    found: dict[frozenset[str], float] = {}
    for place, first in enumerate(means):
        for second in means[:place]:
            a, b = columns[first.name], columns[second.name]
            both = np.isfinite(a) & np.isfinite(b)
            if both.sum() > 30 and np.ptp(a[both]) > 0 and np.ptp(b[both]) > 0:
                found[frozenset((first.name, second.name))] = float(np.corrcoef(a[both], b[both])[0, 1])
    return found


def rests_on_a_part(survey: Survey, findings: Sequence[Finding]) -> list[tuple[str, str, str]]:
    """Pairs (parent, child): the parent's claim is gone once the child's rows are left out of it."""
    pairs = []
    for child in findings:
        if child.by is None or child.measure is None or child.candidate.implied_by is not None:
            continue
        for whole in findings:
            same = whole.by is None and whole.measure == child.measure and whole.direction == child.direction
            if same and _moving(whole, child) and _whole_rests_on(survey, whole, child):
                pairs.append((whole.id, child.id, "follows from a part of it"))
        above = survey.parents.get(child.by)
        while above is not None:
            for parent in findings:
                same = parent.by == above and parent.measure == child.measure and parent.direction == child.direction
                if (
                    same
                    and (_moving(parent, child) or parent.kind == child.kind == "difference")
                    and _rests_on(survey, parent, child)
                ):
                    pairs.append((parent.id, child.id, "follows from a part of it"))
            above = survey.parents.get(above)
    return pairs


def mirrors_of_parts(survey: Survey, findings: Sequence[Finding]) -> list[tuple[str, str, str]]:
    """Triples (finding, its reason's id, reason): a slice that only loses what parts of its siblings gain.

    A region stands back because a route of another region grows: once the routes that are told themselves are left
    out of the other regions, it no longer moves against them.
    """
    triples = []
    for one in findings:
        if one.by is None or one.kind not in ("trend", "shift") or one.candidate.implied_by is not None:
            continue
        for child in survey.dimensions:
            if survey.parents.get(child.name) != one.by:
                continue
            up = parent_codes(survey.table, child.name, one.by)
            code, labels = survey.labels(one.by).index(_label(one.where)), survey.labels(child.name)
            moving = [
                part
                for part in findings
                if part.by == child.name
                and part.measure == one.measure
                and part.kind in ("trend", "shift")
                and part.candidate.implied_by is None
                and up[labels.index(_label(part.where))] != code
            ]
            against = [part for part in moving if part.direction != one.direction]
            if not against or one.measure is None:
                continue
            told = [labels.index(_label(part.where)) for part in moving]
            inside = [int(c) for c in np.flatnonzero(up == code)]
            outside = [c for c in range(up.size) if up[c] != code and c not in told]
            merged = _merged(survey, one.measure, child.name, inside, outside) if outside else None
            if merged is not None and not _goes_on(survey, one, merged):
                triples.append((one.id, against[0].id, f"the mirror image of {against[0].where.label}"))
    return triples


def mirrors_of_siblings(survey: Survey, findings: Sequence[Finding]) -> list[tuple[str, str, str]]:
    """Triples (finding, its reason's id, reason): what a slice only seems to do because a sibling moved otherwise.

    Detectors see the mirrors of their own kind; here are those of another: a level that only differs because a
    sibling's rose, a step up beside a sibling that left its path.
    """
    triples = []
    for one in findings:
        if one.measure is None or one.by is None or one.kind not in ("trend", "shift", "divergence", "difference"):
            continue
        for other in findings:
            moving = other.kind in ("trend", "shift", "divergence") and other.kind != one.kind
            same = other.by == one.by and other.measure == one.measure and other.where != one.where
            if not moving or not same or other.direction == one.direction or other.candidate.implied_by is not None:
                continue
            if _calm_without(survey, one, other) and (
                one.kind == "difference" or not _calm_without(survey, other, one)
            ):
                triples.append((one.id, other.id, f"the mirror image of {other.where.label}"))
                break
    return triples


def _calm_without(survey: Survey, one: Finding, other: Finding) -> bool:
    """Whether a claim is gone once another slice is left out of what it is set against."""
    assert one.by is not None
    assert one.measure is not None
    labels = survey.labels(one.by)
    code, gone = labels.index(_label(one.where)), labels.index(_label(other.where))
    family = next((codes for codes, _ in families(survey, one.by) if code in codes), [])
    rest = [place for place in family if place not in (code, gone)]
    if not rest:
        return one.test.p > other.test.p
    if one.kind == "difference":
        t, p = set_against(survey, one.measure, one.by, family, code, [gone])
        return p > MIRROR or (t > 0) != (one.direction == "up")
    merged = _merged(survey, one.measure, one.by, [code], rest)
    return merged is not None and not _goes_on(survey, one, merged)


def follows_from_mix(survey: Survey, findings: Sequence[Finding]) -> list[tuple[str, str, str]]:
    """Triples for an average that only moves against its siblings because their weights shift, where that is told."""
    triples = []
    for mix in findings:
        if mix.kind != "mix" or mix.by is None or mix.measure is None or survey.timeline is None:
            continue
        if mix.figures["reversal"]:
            # That the whole moved is half of the truth, and the half that misleads.
            triples += [
                (one.id, mix.id, "the same movement of the whole")
                for one in findings
                if one.kind in ("trend", "shift", "change")
                and not one.where.conditions
                and (one.measure, one.direction) == (mix.measure, mix.direction)
            ]
        span = survey.timeline.complete
        cells = survey.cells(mix.by, PERIOD)
        top, bottom = cells.linear(mix.measure.top)[:, span], cells.linear(mix.measure.bottom)[:, span]
        if (bottom == 0).any():
            continue
        rates, weight = top / bottom, bottom.sum(axis=1)
        for one in findings:
            moves = one.kind in ("trend", "shift", "divergence") and one.by == mix.by and one.measure == mix.measure
            if not moves:
                continue
            own = cells.labels[0].index(_label(one.where))
            others = [code for code in range(weight.size) if code != own]
            # The siblings with the weights they have over the whole time.
            even = (rates[others] * weight[others, None]).sum(axis=0) / weight[others].sum()
            if not _goes_on(survey, one, rates[own] - even):
                triples.append((one.id, mix.id, "follows from the weights of the others"))
    return triples


def through_a_third(findings: Sequence[Finding]) -> list[tuple[str, str, str]]:
    """Triples for two columns that only go together because each goes with a third."""
    pairs = [one for one in findings if one.kind == "relationship"]
    told = {frozenset(one.figures["columns"]): one for one in pairs}
    triples = []
    for one in pairs:
        first, second = one.figures["columns"]
        r = one.candidate.series["adjusted"]
        own = r[frozenset((first, second))]
        for third in sorted({column for pair in told for column in pair} - {first, second}):
            sides = [frozenset((first, third)), frozenset((second, third))]
            if not all(side in told and abs(r[side]) > abs(own) for side in sides):
                continue
            a, b = (r[side] for side in sides)
            partial = (own - a * b) / np.sqrt(max(1e-9, (1 - a * a) * (1 - b * b)))
            if partial * own <= 0 or abs(partial) < 0.5 * abs(own):
                leader = max((told[side] for side in sides), key=lambda side: (side.score.total, side.id))
                triples.append((one.id, leader.id, f"follows from {spoken(third)}, which goes with both"))
                break
    return triples


def follows_from_composition(survey: Survey, findings: Sequence[Finding]) -> list[tuple[str, str, str]]:
    """Triples (finding, its reason's id, reason): what a slice does because of what it is made of.

    A vessel that sails only the growing route grows; a vessel on the late route is late. A claim by one
    dimension that is gone within the labels of another follows from that other's finding, if there is one.
    """
    pairs = []
    for one in findings:
        if one.by is None or one.measure is None or not one.where.conditions or one.kind in _OF_THEIR_OWN:
            continue
        for other in survey.dimensions:
            if other.name == one.by or _kin(survey, one.by, other.name):
                continue
            reasons = [
                r
                for r in findings
                if r.by == other.name
                and r.measure == one.measure
                and _alike(r.kind, one.kind)
                and r.candidate.implied_by is None
                and r.where.conditions
                and _may_explain(survey, r, one)
            ]
            if reasons and _gone_within(survey, one, other.name):
                pairs.append((one.id, reasons[0].id, f"follows from the {other.name} it is made of"))
                break
    return pairs


def _may_explain(survey: Survey, reason: Finding, one: Finding) -> bool:
    """Whether one claim can be the reason of another: the surer explains the less sure, never the other
    way round; and a slice that stood still while the rest moved explains nothing."""
    if one.kind == "difference":
        return reason.test.p <= one.test.p
    if _stood_still(reason):
        return False
    if _stood_still(one):
        return True
    # A vessel that sails one route only does what the route does, however sure its own test is.
    surer = reason.test.p <= one.test.p or (reason.test.p <= MIRROR and _share_rows(survey, one, reason, wholly=True))
    return surer and reason.direction == one.direction and _share_rows(survey, one, reason)


def _stood_still(one: Finding) -> bool:
    """An average or rate that moved against the rest, but by less than half of that in its own terms."""
    relative = one.figures.get("relative_change")
    if relative is None or one.measure is None or one.measure.additive:
        return False
    return bool(one.figures["change"] * relative < 0.5 * relative * relative)


def _alike(first: str, second: str) -> bool:
    return first == second or {first, second} <= {"trend", "shift"}


def _kin(survey: Survey, first: str, second: str) -> bool:
    def above(name: str) -> set[str]:
        found: set[str] = set()
        while name in survey.parents:
            name = survey.parents[name]
            found.add(name)
        return found

    return first in above(second) or second in above(first)


def _share_rows(survey: Survey, one: Finding, reason: Finding, *, wholly: bool = False) -> bool:
    """True when the two slices share a good part of the smaller's rows; `wholly`, nearly all of the first's."""
    cells = survey.cells(one.by or "", reason.by or "")
    a, b = cells.labels[0].index(_label(one.where)), cells.labels[1].index(_label(reason.where))
    both, own, others = float(cells.rows[a, b]), float(cells.rows[a].sum()), float(cells.rows[:, b].sum())
    return both >= 0.95 * own and own < others if wholly else both >= 0.25 * min(own, others)


def _gone_within(survey: Survey, one: Finding, other: str) -> bool:
    key = ("gone within", one.id, other)
    if key not in survey._cache:
        survey._cache[key] = _compute_gone_within(survey, one, other)
    return bool(survey._cache[key])


def _compute_gone_within(survey: Survey, one: Finding, other: str) -> bool:
    assert one.by is not None
    assert one.measure is not None
    code = survey.labels(one.by).index(_label(one.where))
    if one.kind == "difference":
        sign = 1.0 if one.direction == "up" else -1.0
        if one.measure.kind != "mean":
            return False
        z, p = adjusted_p(survey, one.measure, one.by, code, other)
        n = float(survey.cells(one.by).rows[code])
        # Within the other's labels the gap is a tenth of a standard deviation or less, or not sure.
        return p > MIRROR or z * sign <= 0 or abs(z) / np.sqrt(n) < 0.15
    line = survey.timeline
    assert line is not None
    cells = survey.cells(one.by, other, PERIOD)
    span = line.complete
    top = cells.linear(one.measure.top)[:, :, span]
    if one.measure.bottom:
        bottom = cells.linear(one.measure.bottom)[:, :, span]
        whole = bottom.sum(axis=0)
        with np.errstate(divide="ignore", invalid="ignore"):
            rates = np.where(whole > 0, top.sum(axis=0) / np.where(whole > 0, whole, 1.0), 0.0)
            y = (top[code] - bottom[code] * rates).sum(axis=0) / bottom[code].sum(axis=0)
    else:
        share = top[code].sum(axis=1) / np.where(top.sum(axis=(0, 2)) == 0, 1.0, top.sum(axis=(0, 2)))
        usual = (share[:, None] * top.sum(axis=0)).sum(axis=0)
        own = top[code].sum(axis=0)
        if min(own.min(), usual.min()) <= 0:
            return False
        y = np.log(own / usual)
    if not np.isfinite(y).all() or np.ptp(y) == 0:
        return bool(np.isfinite(y).all())
    return not _goes_on(survey, one, y)


def _goes_on(survey: Survey, one: Finding, y: Any) -> bool:
    """Whether a finding's claim still shows in a series, the same way round."""
    line = survey.timeline
    assert line is not None
    sign = 1.0 if one.direction == "up" else -1.0
    prepared = prepare(line.grain, period_numbers(survey), y)
    if one.kind == "divergence":
        p, gap = off_path(prepared.y, prepared.season, [], 0.0)
        return p <= MIRROR and gap * sign > 0
    path = choose_path(prepared, Pooled(phi=0.0, belief=1.0))
    return path.p <= MIRROR and (path.slope + path.jump) * sign > 0


def _moving(first: Finding, second: Finding) -> bool:
    """True when both speak of movements that began at about the same time."""
    if first.kind == second.kind == "divergence":
        return first.period == second.period
    if not {first.kind, second.kind} <= {"trend", "shift"} or first.period is None or second.period is None:
        return False
    apart = abs(int((first.period.start - second.period.start).astype(np.int64)))
    return apart <= 0.2 * max(first.period.days, second.period.days)


def _whole_rests_on(survey: Survey, whole: Finding, child: Finding) -> bool:
    """True when the whole no longer moves once the rows of a slice are left out of it."""
    assert child.by is not None
    assert child.measure is not None
    line = survey.timeline
    assert line is not None
    cells = survey.cells(child.by, PERIOD)
    code = cells.labels[0].index(_label(child.where))
    others = [c for c in range(len(cells.labels[0])) if c != code]
    top = cells.linear(child.measure.top)[others][:, line.complete].sum(axis=0)
    if child.measure.bottom:
        bottom = cells.linear(child.measure.bottom)[others][:, line.complete].sum(axis=0)
        if (bottom == 0).any():
            return False
        y = top / bottom
    else:
        y = np.log(top) if top.min() > 0 else top
    if not np.ptp(y) > 0:
        return True
    sign = 1.0 if whole.direction == "up" else -1.0

    def moving(series: Any) -> float:
        path = choose_path(prepare(line.grain, period_numbers(survey), series))
        return float(np.sign(path.slope + path.jump)) if path.p <= MIRROR else 0.0

    if moving(y) == sign:
        return False
    if not child.measure.additive:
        return True
    # The rest may only look calm because one part of it falls while another rises.
    each = cells.linear(child.measure.top)[others][:, line.complete]
    return not any(moving(np.log(own)) == -sign for own in each if own.min() > 0)


def _rests_on(survey: Survey, parent: Finding, child: Finding) -> bool:
    key = ("rests on", parent.id, child.id)
    if key not in survey._cache:
        survey._cache[key] = _compute_rests_on(survey, parent, child)
    return bool(survey._cache[key])


def _compute_rests_on(survey: Survey, parent: Finding, child: Finding) -> bool:
    assert child.by is not None
    assert parent.by is not None
    assert child.measure is not None
    up = parent_codes(survey.table, child.by, parent.by)
    code = survey.labels(parent.by).index(_label(parent.where))
    inside = survey.labels(child.by).index(_label(child.where))
    if up[inside] != code:
        return False
    if child.kind == "difference":
        return weighted_without(survey, child.measure, parent.by, code, child.by, inside) > MIRROR
    line = survey.timeline
    assert line is not None
    rest_of_parent = [int(c) for c in np.flatnonzero(up == code) if c != inside]
    outside = [int(c) for c in range(up.size) if up[c] != code]
    if not rest_of_parent or not outside:
        return True
    merged = _merged(survey, child.measure, child.by, rest_of_parent, outside)
    if merged is None:
        return False
    return not _goes_on(survey, parent, merged)


def _merged(survey: Survey, measure: Measure, by: str, inside: list[int], outside: list[int]) -> Any:
    """The tested series of several labels taken together against several others."""
    cells = survey.cells(by, PERIOD)
    order = [inside, outside]

    def fold(array: Any) -> Any:
        return np.stack([array[codes].sum(axis=0) for codes in order])

    parts = {
        part: PartCells(count=fold(one.count), total=fold(one.total), squares=fold(one.squares))
        for part, one in cells.parts.items()
    }
    both = Cells(keys=cells.keys, labels=(("inside", "outside"), cells.labels[1]), rows=fold(cells.rows), parts=parts)
    assert survey.timeline is not None
    series = _against(both, measure, 0, [1], survey.timeline.complete)
    return None if series is None else series[2]


def _label(where: Slice) -> str | None:
    return where.conditions[0][1]
