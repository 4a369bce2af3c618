"""From findings to the sentences of a summary: what belongs together is joined, what was just named is "it" or "there",
and what went the other way is set against what came before. The same findings always give the same sentences."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ..findings import Finding
from . import names, numbers
from .finding_messages import message
from .kinds.seasonality import season_parts
from .languages import say, statement
from .message import sentence


@dataclass(frozen=True, slots=True, kw_only=True)
class Story:
    """One sentence, complete by itself, and the findings that it tells."""

    text: str
    findings: tuple[Finding, ...]
    technical: bool = False

    def following(self, before: Finding, contrasted: bool) -> tuple[str, bool]:
        """The sentence as it stands behind one about `before`, and whether it is set against that; `contrasted` where
        another was already."""
        finding = self.findings[0]
        against = not contrasted and _opposite(before, finding)
        with names.told_of(before.measure, before.where):
            claim = _claim(self.findings)
        if against:
            claim = say("by contrast, {claim}", claim=claim)
        return sentence(claim + _sure(self.findings, self.technical)), against


def stories(findings: Sequence[Finding], technical: bool = False) -> list[Story]:
    """The findings as stories, in their order; `technical` adds how sure each is."""
    stories: list[Story] = []
    told: set[str] = set()
    for place, finding in enumerate(findings):
        if finding.id in told:
            continue
        other = _other_season(finding, findings[place + 1 :])
        parts = (finding,) if other is None else (finding, other)
        told |= {part.id for part in parts}
        text = sentence(_claim(parts) + _sure(parts, technical))
        stories.append(Story(text=text, findings=parts, technical=technical))
    return stories


def _claim(parts: Sequence[Finding]) -> str:
    """ "Revenue peaks in July, …; over the week it peaks on Saturday, 22% above its average day"."""
    said = message(parts[0])
    if len(parts) == 1:
        return said.claim
    other = parts[1]
    return say(
        "{claim}; over the {cycle} {who:it|they} {parts}",
        claim=said.claim,
        cycle=names.grain_noun(other.figures["cycle"]),
        who=names.subject(other.measure),
        parts=season_parts(other)[0],
    )


def _other_season(finding: Finding, later: Sequence[Finding]) -> Finding | None:
    """Another season of the same measure: a year's and a week's are one story."""
    if finding.kind != "seasonality":
        return None
    return next(
        (
            other
            for other in later
            if other.kind == "seasonality"
            and other.measure == finding.measure
            and other.figures["cycle"] != finding.figures["cycle"]
            and season_parts(other)
        ),
        None,
    )


def _opposite(before: Finding, finding: Finding) -> bool:
    return (
        before.definition.moves
        and finding.definition.moves
        and before.measure == finding.measure
        and before.by == finding.by
        and before.where != finding.where
        and {before.direction, finding.direction} == {"up", "down"}
    )


def _sure(findings: Sequence[Finding], technical: bool) -> str:
    """ " (p below 0.0001, 25,386 rows)" where a technical reader asks for it."""
    if not technical:
        return ""
    worst = max(findings, key=lambda one: one.test.p)
    rows = worst.figures.get("n")
    sure = numbers.p_value(worst.test.p)
    return statement((" (", say("{sure}, {n} rows", sure=sure, n=numbers.whole(rows)), ")")) if rows else f" ({sure})"
