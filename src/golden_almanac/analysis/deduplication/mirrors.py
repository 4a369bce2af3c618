"""Findings that are the other half of another: when one of three grows the other two lose share."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from ...aggregation import Survey
from ...aggregation.hierarchies import parent_codes
from ...findings import Finding
from ...stats.autocorrelated_fits import Floats
from ...support.phrasing import phrased
from ..detectors.difference import set_against
from ..detectors.families import families, labelled
from ..detectors.tested_series import MIRROR
from .remainders import Deciding, decided, goes_on, label, put_together, remainder, same_way


def mirrors_of_parts(survey: Survey, findings: Sequence[Finding]) -> list[tuple[str, str, str]]:
    """Triples (finding, its reason's id, reason): a slice that only loses what parts of its siblings gain.

    A region stands back because a route of another region grows: once the routes that are told themselves are left
    out of the other regions, it no longer moves against them.
    """
    asked: list[tuple[Finding, Finding]] = []
    jobs: list[Deciding[bool]] = []
    for finding in findings:
        if finding.by is None or finding.definition.movement != "path" or finding.candidate.implied_by is not None:
            continue
        for child in survey.dimensions:
            if survey.parents.get(child.name) != finding.by:
                continue
            up = parent_codes(survey.table, child.name, finding.by)
            code, labels = survey.labels(finding.by).index(label(finding.where)), survey.labels(child.name)
            moving = [
                part
                for part in findings
                if part.by == child.name
                and part.measure == finding.measure
                and part.definition.movement == "path"
                and part.candidate.implied_by is None
                and up[labels.index(label(part.where))] != code
            ]
            against = [part for part in moving if part.direction != finding.direction]
            if not against or finding.measure is None:
                continue
            told = [labels.index(label(part.where)) for part in moving]
            inside = [int(c) for c in np.flatnonzero(up == code)]
            outside = [c for c in range(up.size) if up[c] != code and c not in told]
            merged = put_together(survey, finding.measure, child.name, inside, outside) if outside else None
            if merged is not None:
                asked.append((finding, against[0]))
                jobs.append(goes_on(finding, merged))
    still = decided(survey, jobs)
    return [_mirror(finding, other) for (finding, other), goes in zip(asked, still, strict=True) if not goes]


def _mirror(finding: Finding, other: Finding) -> tuple[str, str, str]:
    return finding.id, other.id, phrased("the mirror image of {label}", label=str(other.where.label))


def mirrors_of_siblings(survey: Survey, findings: Sequence[Finding]) -> list[tuple[str, str, str]]:
    """Triples (finding, its reason's id, reason): what a slice only seems to do because a sibling moved otherwise.

    Detectors see the mirrors of their own kind; here are those of another: a level that only differs because a
    sibling's rose, a step up beside a sibling that left its path.
    """
    beside: dict[tuple[str | None, str], list[Finding]] = {}
    for other in findings:
        if other.definition.moves and other.candidate.implied_by is None and other.measure is not None:
            beside.setdefault((other.by, other.measure.name), []).append(other)
    found = decided(survey, [_mirrored(survey, finding, beside) for finding in findings])
    return [_mirror(finding, other) for finding, other in zip(findings, found, strict=True) if other is not None]


def _mirrored(
    survey: Survey, finding: Finding, beside: Mapping[tuple[str | None, str], Sequence[Finding]]
) -> Deciding[Finding | None]:
    """The sibling whose other half a finding is, of those that move `beside` it by dimension and measure."""
    if finding.measure is None or finding.by is None:
        return None
    if not (finding.definition.moves or finding.kind == "difference"):
        return None
    others = [
        other
        for other in beside.get((finding.by, finding.measure.name), [])
        if other.kind != finding.kind and other.where != finding.where and other.direction != finding.direction
    ]
    calm = yield from _calm_without(survey, finding, others)
    for other in (other for other, is_calm in zip(others, calm, strict=True) if is_calm):
        if finding.kind == "difference" or not (yield from _calm_without(survey, other, [finding]))[0]:
            return other
    return None


def _calm_without(survey: Survey, finding: Finding, others: Sequence[Finding]) -> Deciding[list[bool]]:
    """Whether a claim is gone once another slice is left out of what it is set against, for each of the others."""
    if not others:
        return []
    assert finding.by is not None
    assert finding.measure is not None
    labels = survey.labels(finding.by)
    code = labels.index(label(finding.where))
    family = next((codes for codes, _ in families(survey, finding.by) if code in codes), [])
    calm = [False] * len(others)
    merged: dict[int, Floats] = {}
    for place, other in enumerate(others):
        gone = labels.index(label(other.where))
        rest = [one for one in family if one not in (code, gone)]
        if not rest:
            calm[place] = finding.test.p > other.test.p
        elif finding.kind == "difference":
            family = next((codes for codes, _ in labelled(survey, finding.by) if code in codes), [])
            t, p = set_against(survey, finding.measure, finding.by, family, code, [gone])
            calm[place] = p > MIRROR or (t > 0) != (finding.direction == "up")
        else:
            series = put_together(survey, finding.measure, finding.by, [code], rest)
            if series is not None:
                merged[place] = series
    ways = yield [remainder(finding, series) for series in merged.values()]
    for place, way in zip(merged, ways, strict=True):
        calm[place] = not same_way(finding, way)
    return calm
