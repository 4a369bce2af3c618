"""What is kept of all that detectors found: sure enough among all tests, above its floor, and told once."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..aggregation import Survey
from ..aggregation.measures import Measure, lead_measure
from ..findings import Candidate, Finding, Test
from ..findings.scoring import score
from ..stats.false_discovery import LEVEL, MOST_RANK, q_values
from .deduplication import (
    follows_from_composition,
    follows_from_mix,
    mirrors_of_parts,
    mirrors_of_siblings,
    related_measures,
    rests_on_a_part,
    through_a_third,
)
from .deduplication.folding import folds
from .scan_options import Steering

#: Small effects told of a column asked for by name, and the surest that are looked at for them.
_MOST_SMALL, _MOST_LOOKED = 3, 12
#: Where the whole goes is asked first, by few tests: three times the room for error costs all others some 3% of theirs.
_WHOLE = 3.0


def weigh(survey: Survey, candidates: Sequence[Candidate], steering: Steering) -> tuple[list[Finding], list[Finding]]:
    """Findings to tell and findings folded under them.

    One story shows in many tests (revenue, passengers and vehicles of a route all rise), and each of
    them would buy room for a false claim that is folded under nothing. So discoveries are counted by
    story: the step-up procedure runs over all tests, but its ranks count only what is told.
    """
    lead = lead_measure(survey.measures)
    first = q_values([candidate.p for candidate in candidates], [_weight(candidate) for candidate in candidates])
    kept = [
        _found(survey, candidate, float(q), lead, steering)
        for candidate, q in zip(candidates, first, strict=True)
        if q <= LEVEL and candidate.matters
    ]
    related = related_measures(survey)
    # What each test has paid for the weight of its kind.
    mean = _mean_weight(candidates)
    paid = {one.id: min(1.0, one.test.p * mean / _weight(one.candidate)) for one in kept}
    while True:
        best_first = _by_story(kept, lead)
        implied = [pair for part, those in _by_survey(survey, best_first) for pair in _implied(part, those)]
        implied += through_a_third(best_first)
        under = folds(best_first, related, implied)
        told = [one for one in best_first if one.id not in under]
        p = [paid[one.id] for one in told] + [1.0] * (len(candidates) - len(told))
        again = {one.id: float(q) for one, q in zip(told, q_values(p, most_rank=MOST_RANK), strict=False)}
        dropped = {name for name, q in again.items() if q > LEVEL}
        if not dropped:
            break
        kept = [one for one in kept if one.id not in dropped]
    told = [
        replace(
            one,
            test=replace(one.test, q=again[one.id]),
            score=score(
                one.candidate, again[one.id], leading=one.measure == lead, interest=steering.interest(one.candidate)
            ),
        )
        for one in told
    ]
    told = [_with_reach_of_whole(one, best_first, implied) for one in told]
    return told, [replace(one, folded_under=under[one.id]) for one in best_first if one.id in under]


def _found(survey: Survey, candidate: Candidate, q: float, lead: Measure, steering: Steering) -> Finding:
    return Finding(
        candidate=candidate,
        test=Test(name=candidate.test, statistic=candidate.statistic, p=candidate.p, q=q),
        score=score(candidate, q, leading=candidate.measure == lead, interest=steering.interest(candidate)),
        _table=found_in(survey, candidate).table,
    )


def sure_but_small(
    survey: Survey, candidates: Sequence[Candidate], told: Sequence[Finding], steering: Steering, asked: Sequence[str]
) -> list[Finding]:
    """The surest effects below their floors along each column asked for, where nothing else is told of it: a list that
    a person asked for is not empty for being small. They are discoveries beside those told."""
    lead = lead_measure(survey.measures)
    empty = [name for name in dict.fromkeys(asked) if not any(name in _along(one) for one in told)]
    found: list[Finding] = []
    for name in empty:
        below = [one for one in candidates if one.by == name and one.floor and one.agrees and not one.large]
        surest = sorted((one for one in below if one.check is not None), key=lambda one: (one.p, one.id))[:_MOST_LOOKED]
        mine = _by_story([_found(survey, one, one.p, lead, steering) for one in surest if one.p <= LEVEL], lead)
        under = folds(mine, related_measures(survey))
        found += sorted((one for one in mine if one.id not in under), key=lambda one: (one.test.p, one.id))[
            :_MOST_SMALL
        ]
    mean = _mean_weight(candidates)
    p = [min(1.0, one.test.p * mean / _weight(one.candidate)) for one in (*told, *found)]
    q = q_values([*p, *[1.0] * (len(candidates) - len(p))], most_rank=MOST_RANK)[len(told) : len(p)]
    return [
        replace(_found(survey, one.candidate, float(sure), lead, steering), small=True)
        for one, sure in zip(found, q, strict=True)
        if sure <= LEVEL
    ]


def _mean_weight(candidates: Sequence[Candidate]) -> float:
    return float(np.mean([_weight(candidate) for candidate in candidates])) if candidates else 1.0


def _weight(candidate: Candidate) -> float:
    """The share of the room for error that a test gets: its kind's, and more for the path of the whole."""
    whole = candidate.kind.movement == "path" and not candidate.where.conditions and candidate.weight == 1.0
    return candidate.kind.weight * candidate.weight * (_WHOLE if whole else 1.0)


def _along(finding: Finding) -> list[str]:
    columns = finding.along
    return [columns] if isinstance(columns, str) else list(columns or ())


def found_in(survey: Survey, candidate: Candidate) -> Survey:
    """What a candidate was found in."""
    found: Survey = candidate.survey or survey
    return found


def _by_survey(survey: Survey, findings: Sequence[Finding]) -> list[tuple[Survey, list[Finding]]]:
    """Findings by what they were found in: only those can follow from each other by arithmetic."""
    parts: dict[int, tuple[Survey, list[Finding]]] = {}
    for finding in findings:
        part = found_in(survey, finding.candidate)
        parts.setdefault(id(part), (part, []))[1].append(finding)
    return list(parts.values())


def _implied(survey: Survey, findings: Sequence[Finding]) -> list[tuple[str, str, str]]:
    return [
        *rests_on_a_part(survey, findings),
        *mirrors_of_parts(survey, findings),
        *mirrors_of_siblings(survey, findings),
        *follows_from_mix(survey, findings),
        *follows_from_composition(survey, findings),
    ]


def _with_reach_of_whole(
    finding: Finding, findings: Sequence[Finding], implied: Sequence[tuple[str, str, str]]
) -> Finding:
    """A part that moves the whole reaches as far as the whole."""
    wholes = {name for name, leader, _ in implied if leader == finding.id}
    reach = max((other.score.reach for other in findings if other.id in wholes and other.by is None), default=0.0)
    if reach <= finding.score.reach:
        return finding
    total = finding.score.total * (reach / finding.score.reach) ** (1 / 3)
    return replace(finding, score=replace(finding.score, reach=reach, total=total))


def _by_story(kept: Sequence[Finding], lead: Measure) -> list[Finding]:
    """Best first, but of findings on one slice that in the leading measure first: people report that one."""

    def story(finding: Finding) -> tuple[str, str, object]:
        return (finding.definition.story, finding.by or "", finding.where)

    best: dict[tuple[str, str, object], float] = {}
    for finding in kept:
        best[story(finding)] = max(best.get(story(finding), 0.0), finding.score.total)
    return sorted(
        kept, key=lambda one: (-best[story(one)], str(story(one)), one.measure != lead, -one.score.total, one.id)
    )
