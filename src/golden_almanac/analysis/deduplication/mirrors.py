"""Findings that are the other half of another: when one of three grows the other two lose share."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ...aggregation import Survey
from ...aggregation.hierarchies import parent_codes
from ...findings import Finding
from ...support.phrasing import phrased
from ..detectors.difference import set_against
from ..detectors.families import families
from ..detectors.tested_series import MIRROR
from .remainders import go_on, goes_on, label, put_together


def mirrors_of_parts(survey: Survey, findings: Sequence[Finding]) -> list[tuple[str, str, str]]:
    """Triples (finding, its reason's id, reason): a slice that only loses what parts of its siblings gain.

    A region stands back because a route of another region grows: once the routes that are told themselves are left
    out of the other regions, it no longer moves against them.
    """
    triples: list[tuple[str, str, str]] = []
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
            if merged is not None and not goes_on(survey, finding, merged):
                triples.append(
                    (
                        finding.id,
                        against[0].id,
                        phrased("the mirror image of {label}", label=str(against[0].where.label)),
                    )
                )
    return triples


def mirrors_of_siblings(survey: Survey, findings: Sequence[Finding]) -> list[tuple[str, str, str]]:
    """Triples (finding, its reason's id, reason): what a slice only seems to do because a sibling moved otherwise.

    Detectors see the mirrors of their own kind; here are those of another: a level that only differs because a
    sibling's rose, a step up beside a sibling that left its path.
    """
    triples: list[tuple[str, str, str]] = []
    beside: dict[tuple[str | None, str | None], list[Finding]] = {}
    for other in findings:
        if other.definition.moves and other.candidate.implied_by is None and other.measure is not None:
            beside.setdefault((other.by, other.measure.name), []).append(other)
    for finding in findings:
        if (
            finding.measure is None
            or finding.by is None
            or not (finding.definition.moves or finding.kind == "difference")
        ):
            continue
        others = [
            other
            for other in beside.get((finding.by, finding.measure.name), [])
            if other.kind != finding.kind and other.where != finding.where and other.direction != finding.direction
        ]
        for other, calm in zip(others, _calm_without(survey, finding, others), strict=True):
            if calm and (finding.kind == "difference" or not _calm_without(survey, other, [finding])[0]):
                triples.append(
                    (finding.id, other.id, phrased("the mirror image of {label}", label=str(other.where.label)))
                )
                break
    return triples


def _calm_without(survey: Survey, finding: Finding, others: Sequence[Finding]) -> list[bool]:
    """Whether a claim is gone once another slice is left out of what it is set against, for each of the others."""
    if not others:
        return []
    assert finding.by is not None
    assert finding.measure is not None
    labels = survey.labels(finding.by)
    code = labels.index(label(finding.where))
    family = next((codes for codes, _ in families(survey, finding.by) if code in codes), [])
    calm, series, asked = [False] * len(others), [], []
    for place, other in enumerate(others):
        gone = labels.index(label(other.where))
        rest = [one for one in family if one not in (code, gone)]
        if not rest:
            calm[place] = finding.test.p > other.test.p
        elif finding.kind == "difference":
            t, p = set_against(survey, finding.measure, finding.by, family, code, [gone])
            calm[place] = p > MIRROR or (t > 0) != (finding.direction == "up")
        else:
            merged = put_together(survey, finding.measure, finding.by, [code], rest)
            if merged is not None:
                series.append(merged)
                asked.append(place)
    if series:
        departure = finding.definition.movement == "departure"
        still = go_on(survey, departure, [finding.direction] * len(series), np.stack(series))
        for place, goes in zip(asked, still, strict=True):
            calm[place] = not goes
    return calm
