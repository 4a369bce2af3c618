"""Findings that are the other half of another: when one of three grows the other two lose share."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ...aggregation import Survey
from ...aggregation.hierarchies import parent_codes
from ...findings import Finding
from ...support.phrasing import phrased
from ..detectors.difference import set_against
from ..detectors.peer_series import MIRROR, families
from .remainders import goes_on, label, put_together


def mirrors_of_parts(survey: Survey, findings: Sequence[Finding]) -> list[tuple[str, str, str]]:
    """Triples (finding, its reason's id, reason): a slice that only loses what parts of its siblings gain.

    A region stands back because a route of another region grows: once the routes that are told themselves are left
    out of the other regions, it no longer moves against them.
    """
    triples: list[tuple[str, str, str]] = []
    for one in findings:
        if one.by is None or one.definition.movement != "path" or one.candidate.implied_by is not None:
            continue
        for child in survey.dimensions:
            if survey.parents.get(child.name) != one.by:
                continue
            up = parent_codes(survey.table, child.name, one.by)
            code, labels = survey.labels(one.by).index(label(one.where)), survey.labels(child.name)
            moving = [
                part
                for part in findings
                if part.by == child.name
                and part.measure == one.measure
                and part.definition.movement == "path"
                and part.candidate.implied_by is None
                and up[labels.index(label(part.where))] != code
            ]
            against = [part for part in moving if part.direction != one.direction]
            if not against or one.measure is None:
                continue
            told = [labels.index(label(part.where)) for part in moving]
            inside = [int(c) for c in np.flatnonzero(up == code)]
            outside = [c for c in range(up.size) if up[c] != code and c not in told]
            merged = put_together(survey, one.measure, child.name, inside, outside) if outside else None
            if merged is not None and not goes_on(survey, one, merged):
                triples.append(
                    (one.id, against[0].id, phrased("the mirror image of {label}", label=str(against[0].where.label)))
                )
    return triples


def mirrors_of_siblings(survey: Survey, findings: Sequence[Finding]) -> list[tuple[str, str, str]]:
    """Triples (finding, its reason's id, reason): what a slice only seems to do because a sibling moved otherwise.

    Detectors see the mirrors of their own kind; here are those of another: a level that only differs because a
    sibling's rose, a step up beside a sibling that left its path.
    """
    triples: list[tuple[str, str, str]] = []
    for one in findings:
        if one.measure is None or one.by is None or not (one.definition.moves or one.kind == "difference"):
            continue
        for other in findings:
            moving = other.definition.moves and other.kind != one.kind
            same = other.by == one.by and other.measure == one.measure and other.where != one.where
            if not moving or not same or other.direction == one.direction or other.candidate.implied_by is not None:
                continue
            if _calm_without(survey, one, other) and (
                one.kind == "difference" or not _calm_without(survey, other, one)
            ):
                triples.append((one.id, other.id, phrased("the mirror image of {label}", label=str(other.where.label))))
                break
    return triples


def _calm_without(survey: Survey, one: Finding, other: Finding) -> bool:
    """Whether a claim is gone once another slice is left out of what it is set against."""
    assert one.by is not None
    assert one.measure is not None
    labels = survey.labels(one.by)
    code, gone = labels.index(label(one.where)), labels.index(label(other.where))
    family = next((codes for codes, _ in families(survey, one.by) if code in codes), [])
    rest = [place for place in family if place not in (code, gone)]
    if not rest:
        return one.test.p > other.test.p
    if one.kind == "difference":
        t, p = set_against(survey, one.measure, one.by, family, code, [gone])
        return p > MIRROR or (t > 0) != (one.direction == "up")
    merged = put_together(survey, one.measure, one.by, [code], rest)
    return merged is not None and not goes_on(survey, one, merged)
