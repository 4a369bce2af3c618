"""Findings that another finding implies are folded under it, with the reason."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ...findings.finding import Finding, Slice
from ...support.phrasing import phrased

#: Two series that move together so closely tell one story.
_ALIKE = 0.6
#: The correlation of their rows from which two averages are one story.
_GO_TOGETHER = 0.3


def folds(
    findings: Sequence[Finding],
    related_measures: dict[frozenset[str], float],
    implied: Sequence[tuple[str, str, str]] = (),
) -> dict[str, tuple[str, str]]:
    """For each finding implied by another: the other's id and the reason.

    `findings` are in order of score, best first; `related_measures` maps pairs of measure names to
    the correlation of their rows; `implied` are triples (id, id of what
    implies it, reason) known from elsewhere.
    """
    folded: dict[str, tuple[str, str]] = {}
    by_slice = {
        (finding.kind, finding.measure.name if finding.measure else "", finding.where): finding for finding in findings
    }

    def top(name: str) -> str:
        while name in folded:
            name = folded[name][0]
        return name

    for name, leader, reason in implied:
        if name not in folded and top(leader) != name:
            folded[name] = (leader, reason)
    for gap in findings:
        for other in findings if gap.kind == "gap" and gap.where.conditions and gap.id not in folded else ():
            if other.definition.moves and other.where == gap.where and other.id not in folded:
                folded[other.id] = (gap.id, phrased("follows from the periods without rows"))
    for place, finding in enumerate(findings):
        if finding.id in folded:
            continue
        mirror = finding.candidate.implied_by
        if mirror is not None:
            source = _mirrored(finding, mirror[0], by_slice)
            if source is not None and top(source.id) != finding.id:
                folded[finding.id] = (source.id, phrased(mirror[1], label=mirror[0]))
                continue
        for better in findings[:place]:
            if better.id in folded:
                continue
            same = _same_story(better, finding, related_measures)
            if same is not None:
                folded[finding.id] = (better.id, same)
                break
    # What hangs under a folded finding hangs under the one that is told.
    return {name: (top(leader), reason) for name, (leader, reason) in folded.items()}


def _mirrored(finding: Finding, label: str, by_slice: dict[tuple[str, str, Slice], Finding]) -> Finding | None:
    measure = finding.measure.name if finding.measure else ""
    column = finding.by or ""
    for (_, name, where), other in by_slice.items():
        sibling = other.by == column or not where.conditions
        if _same_kind(other, finding) and name == measure and sibling and where.label == label:
            return other
    return None


def _same_kind(first: Finding, second: Finding) -> bool:
    return first.kind == second.kind or (first.definition.moves and second.definition.moves)


def _same_story(better: Finding, one: Finding, related: dict[frozenset[str], float]) -> str | None:
    mixed = [pair.kind == "mix" for pair in (better, one)]
    if any(mixed) and all(is_mix or pair.definition.moves for is_mix, pair in zip(mixed, (better, one), strict=True)):
        whole = better.measure == one.measure and better.direction == one.direction and not better.where.conditions
        return phrased("the same movement of the whole") if whole and not one.where.conditions else None
    if not _same_kind(better, one):
        return None
    if better.kind == "concentration":
        same = better.by == one.by and set(better.figures["top"]) & set(one.figures["top"])
        return phrased("the same labels in another measure") if same else None
    if better.kind == "ranking":
        what = better.figures["what"]
        if better.by != one.by or what != one.figures["what"]:
            return None
        who = [finding.figures["order"][0] if what == "first" else finding.where for finding in (better, one)]
        return phrased("the same order in another measure") if who[0] == who[1] else None
    if better.where != one.where or better.definition.stands_alone:
        return None
    if better.figures.get("cycle") != one.figures.get("cycle"):
        return None
    if better.kind == one.kind == "shift" and better.measure == one.measure and better.period != one.period:
        # Two steps of one series are two stories.
        return None
    if better.kind == "spike":
        spans = better.period, one.period
        if spans[0] is None or spans[1] is None or spans[0].start > spans[1].end or spans[1].start > spans[0].end:
            return None
        return (
            phrased("the same time") if better.measure == one.measure else phrased("the same time, in another measure")
        )
    first, second = better.candidate.series.get("y"), one.candidate.series.get("y")
    if first is not None and second is not None and len(first) == len(second):
        together = abs(float(np.corrcoef(first, second)[0, 1]))
        alike = together >= _ALIKE and _may_be_one(better, one, related)
        return phrased("the same movement in another measure") if alike else None
    if better.kind == "exception":
        return phrased("the same rows, in another measure")
    names = frozenset(m.name for m in (better.measure, one.measure) if m)
    return (
        phrased("the same rows, in a measure that goes with it")
        if abs(related.get(names, 0.0)) >= _GO_TOGETHER
        else None
    )


def _may_be_one(better: Finding, one: Finding, related: dict[frozenset[str], float]) -> bool:
    """Whether two measures that move alike may be one story: amounts are (more of everything), and so are averages
    whose rows go together; that delays rise while revenue does are two."""
    if better.measure is None or one.measure is None or better.measure.additive == one.measure.additive:
        return True
    columns = [{part.column for part in finding.measure.parts} for finding in (better, one) if finding.measure]
    if columns[0] & columns[1]:
        return True
    return abs(related.get(frozenset((better.measure.name, one.measure.name)), 0.0)) >= _GO_TOGETHER
