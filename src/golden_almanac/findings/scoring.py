"""How much a finding matters, and the order in which findings are told."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from .finding import Candidate, Finding, Score

#: A slice's reach never counts for less: a small part can still matter much.
_LEAST_REACH = 0.02
#: Among the first ten, no more than so many of one kind while another kind waits.
_SAME_KIND, _FIRST = 3, 10
_OTHER_MEASURE = 0.93


def score(candidate: Candidate, q: float, *, leading: bool = True, interest: float = 1.0) -> Score:
    """Geometric mean of strength, reach and confidence, times the kind's interest; a little less for
    measures other than the one the report leads with, so that one story is told in that one. `interest` is the caller's
    (see `steering`)."""
    confidence = max(0.0, 1.0 - q / 0.1)
    reach = min(1.0, max(_LEAST_REACH, candidate.reach))
    strength = min(1.0, max(0.0, candidate.strength))
    total = (
        candidate.kind.interest
        * (strength * reach * confidence) ** (1 / 3)
        * (1.0 if leading else _OTHER_MEASURE)
        * interest
    )
    return Score(total=total, strength=strength, reach=reach, confidence=confidence)


def squash(effect: float, half: float) -> float:
    """An effect of any size turned into 0–1; `half` is the effect that counts one half."""
    size = abs(effect)
    return size / (size + half)


def ordered(findings: Sequence[Finding]) -> list[Finding]:
    """Best first, no more than three of one kind among the first ten while another kind waits; what is told of a label
    against "the others but Agents" comes behind what Agents did, which it rests on."""
    waiting = sorted(findings, key=lambda finding: (-finding.score.total, finding.id))
    told: list[Finding] = []
    while waiting:
        # What is set against "the others but Agents" is one story with what Agents did.
        counts = Counter(one.kind for one in told if not any(_left_out(other, one) for other in told))
        fresh = [one for one in waiting if counts[one.kind] < _SAME_KIND] if counts.total() < _FIRST else []
        pick = fresh[0] if fresh else waiting[0]
        before: Finding | None = pick
        while before is not None:
            pick, before = before, next((one for one in waiting if one is not before and _left_out(one, before)), None)
        waiting.remove(pick)
        told.append(pick)
    return told


def _left_out(other: Finding, finding: Finding) -> bool:
    """Whether another finding is of a label that this one leaves out of the rest it is set against."""
    besides = finding.candidate.series.get("besides", ())
    alike = other.measure == finding.measure and other.by == finding.by and other.definition.movement is not None
    return bool(besides) and alike and other.where.label in besides
