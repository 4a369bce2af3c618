"""Slices that follow from what they are made of, and relations that run through a third column."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from ...aggregation import PERIOD, Survey
from ...aggregation.measure_names import spoken
from ...aggregation.measures import Measure
from ...findings import Finding
from ...stats.autocorrelated_fits import Floats
from ...support.phrasing import named, phrased
from ..detectors.difference import adjusted_p
from ..detectors.tested_series import MIRROR
from ..known_series import known_series
from .remainders import Deciding, decided, goes_on, label


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


def follows_from_mix(survey: Survey, findings: Sequence[Finding]) -> list[tuple[str, str, str]]:
    """Triples for an average that only moves against its siblings because their weights shift, where that is told."""
    triples: list[tuple[str, str, str]] = []
    for mix in findings:
        if mix.kind != "mix" or mix.by is None or mix.measure is None or survey.timeline is None:
            continue
        if mix.figures["reversal"]:
            # That the whole moved is half of the truth, and the half that misleads.
            triples += [
                (finding.id, mix.id, phrased("the same movement of the whole"))
                for finding in findings
                if (finding.definition.movement == "path" or finding.kind == "change")
                and not finding.where.conditions
                and (finding.measure, finding.direction) == (mix.measure, mix.direction)
            ]
        span = known_series(survey).span
        cells = survey.cells(mix.by, PERIOD)
        top, bottom = cells.linear(mix.measure.top)[:, span], cells.linear(mix.measure.bottom)[:, span]
        if (bottom == 0).any():
            continue
        rates, weight = top / bottom, bottom.sum(axis=1)
        even: dict[str, Floats] = {}
        moved = [one for one in findings if one.definition.moves and one.by == mix.by and one.measure == mix.measure]
        for finding in moved:
            own = cells.labels[0].index(label(finding.where))
            others = [code for code in range(weight.size) if code != own]
            # The siblings with the weights they have over the whole time.
            even[finding.id] = rates[own] - (rates[others] * weight[others, None]).sum(axis=0) / weight[others].sum()
        still = decided(survey, [goes_on(finding, even[finding.id]) for finding in moved])
        triples += [
            (finding.id, mix.id, phrased("follows from the weights of the others"))
            for finding, goes in zip(moved, still, strict=True)
            if not goes
        ]
    return triples


#: A third column explains two when it goes with each about as closely as they do.
_AS_CLOSE = 0.95


def through_a_third(findings: Sequence[Finding]) -> list[tuple[str, str, str]]:
    """Triples for two columns that only go together because each goes with a third."""
    pairs = [finding for finding in findings if finding.kind == "relationship"]
    told = {frozenset(pair.figures["columns"]): pair for pair in pairs}
    triples: list[tuple[str, str, str]] = []
    for one in pairs:
        first, second = one.figures["columns"]
        r = one.candidate.series["adjusted"]
        own = r[frozenset((first, second))]
        for third in sorted({column for pair in told for column in pair} - {first, second}):
            sides = [frozenset((first, third)), frozenset((second, third))]
            # What a third is made of is no relation to tell, but explains one all the same.
            if not all(side in r and abs(r[side]) > _AS_CLOSE * abs(own) for side in sides):
                continue
            if not any(side in told and abs(r[side]) > abs(own) for side in sides):
                continue
            a, b = (r[side] for side in sides)
            partial = (own - a * b) / np.sqrt(max(1e-9, (1 - a * a) * (1 - b * b)))
            if partial * own <= 0 or abs(partial) < 0.5 * abs(own):
                leader = max(
                    (told[side] for side in sides if side in told), key=lambda side: (side.score.total, side.id)
                )
                triples.append(
                    (
                        one.id,
                        leader.id,
                        phrased("follows from {name}, which goes with both", name=named(third, spoken(third))),
                    )
                )
                break
    return triples


def follows_from_composition(survey: Survey, findings: Sequence[Finding]) -> list[tuple[str, str, str]]:
    """Triples (finding, its reason's id, reason): what a slice does because of what it is made of.

    A vessel that sails only the growing route grows; a vessel on the late route is late. A claim by one
    dimension that is gone within the labels of another follows from that other's finding, if there is one.
    """
    reasons: dict[tuple[str, Measure], list[Finding]] = {}
    for one in findings:
        if one.by is not None and one.measure is not None and one.where.conditions and not one.candidate.implied_by:
            reasons.setdefault((one.by, one.measure), []).append(one)
    found = decided(survey, [_made_of(survey, finding, reasons) for finding in findings])
    return [triple for triple in found if triple is not None]


def _made_of(
    survey: Survey, finding: Finding, known: Mapping[tuple[str, Measure], Sequence[Finding]]
) -> Deciding[tuple[str, str, str] | None]:
    """The triple of one finding, whose reasons are among those `known` by dimension and measure."""
    if finding.by is None or finding.measure is None or not finding.where.conditions or not finding.definition.of_parts:
        return None
    for other in (*survey.dimensions, *survey.flags):
        if other.name == finding.by or _kin(survey, finding.by, other.name):
            continue
        reasons = [
            r
            for r in known.get((other.name, finding.measure), ())
            if r.definition.story == finding.definition.story and _may_explain(survey, r, finding)
        ]
        if reasons and (yield from _gone_within(survey, finding, other.name)):
            return finding.id, reasons[0].id, phrased("follows from the {measure} it is made of", measure=other.name)
    return None


def _may_explain(survey: Survey, reason: Finding, finding: Finding) -> bool:
    """Whether one claim can be the reason of another: the surer explains the less sure, never the other
    way round; and a slice that stood still while the rest moved explains nothing."""
    if finding.kind == "difference":
        return reason.test.p <= finding.test.p
    if _stood_still(reason):
        return False
    if _stood_still(finding):
        return True
    # A vessel that sails one route only does what the route does, however sure its own test is.
    surer = reason.test.p <= finding.test.p or (
        reason.test.p <= MIRROR and _share_rows(survey, finding, reason, wholly=True)
    )
    return surer and reason.direction == finding.direction and _share_rows(survey, finding, reason)


def _stood_still(finding: Finding) -> bool:
    """An average or rate that moved against the rest, but by less than half of that in its own terms."""
    relative = finding.figures.get("relative_change")
    if relative is None or finding.measure is None or finding.measure.additive:
        return False
    return bool(finding.figures["change"] * relative < 0.5 * relative * relative)


def _kin(survey: Survey, first: str, second: str) -> bool:
    def above(name: str) -> set[str]:
        found: set[str] = set()
        while name in survey.parents:
            name = survey.parents[name]
            found.add(name)
        return found

    return first in above(second) or second in above(first)


def _share_rows(survey: Survey, finding: Finding, reason: Finding, *, wholly: bool = False) -> bool:
    """True when the two slices share a good part of the smaller's rows; `wholly`, nearly all of the first's."""
    cells = survey.cells(finding.by or "", reason.by or "")
    a, b = cells.labels[0].index(label(finding.where)), cells.labels[1].index(label(reason.where))
    both, own, others = float(cells.rows[a, b]), float(cells.rows[a].sum()), float(cells.rows[:, b].sum())
    return both >= 0.95 * own and own < others if wholly else both >= 0.25 * min(own, others)


def _gone_within(survey: Survey, finding: Finding, other: str) -> Deciding[bool]:
    assert finding.by is not None
    assert finding.measure is not None
    code = survey.labels(finding.by).index(label(finding.where))
    if finding.kind == "difference":
        sign = 1.0 if finding.direction == "up" else -1.0
        if finding.measure.kind != "mean":
            return False
        z, p = adjusted_p(survey, finding.measure, finding.by, code, other)
        n = float(survey.cells(finding.by).rows[code])
        # Within the other's labels the gap is a tenth of a standard deviation or less, or not sure.
        return p > MIRROR or z * sign <= 0 or abs(z) / np.sqrt(n) < 0.15
    cells = survey.cells(finding.by, other, PERIOD)
    span = known_series(survey).span
    top = cells.linear(finding.measure.top)[:, :, span]
    if finding.measure.bottom:
        bottom = cells.linear(finding.measure.bottom)[:, :, span]
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
    return not (yield from goes_on(finding, y))
