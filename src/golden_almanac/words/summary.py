"""The executive summary: what changed, beside what was usual, why and where, what else matters, what to beware of.

A summary is planned as facts, each with its part in the story and the findings it rests on; as many as fit are told,
the
weightiest first, in the order of the story.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from ..core.changes import Explanation
from ..core.errors import RequestError
from ..core.findings import Finding
from . import caveats as told_caveats
from . import change as why_changed
from . import names, numbers
from .change import change_size

#: Words of each length: a glance, a minute, a page.
LENGTHS = {"short": 60, "standard": 120, "long": 400}
#: A manager reads so many words before noon.
MOST_WORDS = LENGTHS["standard"]
#: Stories told after the first, if the words last.
_MOST_STORIES = {"short": 4, "standard": 5, "long": 10}


@dataclass(frozen=True, slots=True, kw_only=True)
class Fact:
    """One sentence: its part in the story (change, expected, where, why, story, detail, watch, caveat), the ids of the
    findings that its figures come from, and its place among the others."""

    text: str
    part: str = "story"
    about: tuple[str, ...] = ()
    place: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Summary:
    """A headline, the text (headline not repeated), the same facts as bullets, and the facts themselves, the headline's
    first."""

    headline: str
    text: str
    bullets: tuple[str, ...]
    facts: tuple[Fact, ...] = field(default=())

    def to_dict(self) -> dict[str, Any]:
        return {"headline": self.headline, "text": self.text, "bullets": list(self.bullets)}

    @property
    def words(self) -> int:
        return len(f"{self.headline} {self.text}".split())

    def __str__(self) -> str:
        return f"{self.headline}\n\n{self.text}" if self.text else self.headline


def check_length(length: str) -> str:
    """The length, if it is one. Raises RequestError."""
    if length not in LENGTHS:
        raise RequestError("The length", length, "one of " + ", ".join(LENGTHS))
    return length


def scan_summary(
    table_name: str,
    rows: int,
    tests: int,
    findings: Sequence[Finding],
    latest: Explanation | None,
    caveats: Sequence[tuple[str, dict[str, Any]]],
    length: str = "standard",
    technical: bool = False,
) -> Summary:
    """The summary of a scan: the latest change of the leading measure, then the findings that matter. `technical` adds
    how sure each story is."""
    check_length(length)
    opening = _latest(latest, length) if latest is not None else []
    warnings = [Fact(text=told_caveats.sentence(name, facts), part="caveat") for name, facts in caveats]
    if not findings:
        nothing = (
            f"Nothing stands out beyond chance: {numbers.whole(tests)} tests on {numbers.whole(rows)} rows of "
            f"{table_name} found no movement, difference, leader, odd week or wrong row that chance does not make too."
        )
        return planned(Fact(text=nothing, part="change"), [], [*opening, *warnings], length)
    told = list(findings[: _MOST_STORIES[length] + (not opening)])
    first = opening[0] if opening else _story(told.pop(0), technical)
    stories = [replace(_story(one, technical), place=place) for place, one in enumerate(told, start=1)]
    body = [*opening[1:], *stories]
    if length == "long":
        # What stands behind a story follows it, but all stories are told before any of that.
        body += [
            Fact(text=one.detail, part="detail", about=(one.id,), place=place + 0.5)
            for place, one in enumerate(told, start=1)
            if one.detail
        ]
    return planned(first, body, warnings, length)


def change_summary(findings: Sequence[Finding], one: Explanation, length: str = "standard") -> Summary:
    """The summary of an explained change: its finding first, then those of the slices named."""
    check_length(length)
    known = list(dict.fromkeys(note for finding in findings for note in finding.notes))[:2]
    tail = [Fact(text=f"Known of that time: {'; '.join(known)}.", part="watch")] if known else []
    if one.cut_days is not None:
        days = f"The period is unfinished, so both sides count its first {one.cut_days} days only."
        tail.append(Fact(text=days, part="caveat"))
    ids = tuple(finding.id for finding in findings)
    body = [Fact(text=text, part="why", about=ids) for text in why_changed.paragraph(one)]
    if length == "long":
        body += [
            Fact(text=f"{finding.headline} {finding.detail}".strip(), part="detail", about=(finding.id,))
            for finding in findings[1:]
        ]
    return planned(Fact(text=findings[0].headline, part="change", about=ids[:1]), body, tail, length)


def planned(first: Fact, body: Sequence[Fact], tail: Sequence[Fact], length: str = "standard") -> Summary:
    """As many facts as fit; warnings at the end are never the ones to go, and none is told twice."""
    kept: list[Fact] = []
    seen = {first.text}
    left = LENGTHS[length] - sum(len(fact.text.split()) for fact in (first, *tail))
    if length == "short" and left < 0:
        # The warnings alone are longer than a glance: the first of them stands for all.
        tail = tail[:1]
        left = LENGTHS[length] - sum(len(fact.text.split()) for fact in (first, *tail))
    for fact in body:
        size = len(fact.text.split())
        if size <= left and fact.text not in seen:
            kept.append(fact)
            seen.add(fact.text)
            left -= size
    kept.sort(key=lambda fact: fact.place)
    every = [*kept, *(fact for fact in tail if fact.text not in seen)]
    return Summary(
        headline=first.text,
        text=" ".join(fact.text for fact in every),
        bullets=tuple(fact.text for fact in every),
        facts=(first, *every),
    )


def fit(headline: str, body: list[str], tail: list[str], length: str = "standard") -> Summary:
    """As `planned`, from plain sentences."""
    return planned(
        Fact(text=headline),
        [Fact(text=text) for text in body],
        [Fact(text=text, part="caveat") for text in tail],
        length,
    )


def _story(one: Finding, technical: bool) -> Fact:
    text = one.headline
    if technical:
        sure = numbers.p_value(one.test.p)
        rows = one.figures.get("n")
        text = f"{text.rstrip('.')} ({sure}{f', {numbers.whole(rows)} rows' if rows else ''})."
    return Fact(text=text, part="story", about=(one.id,))


def _latest(one: Explanation, length: str) -> list[Fact]:
    from ..core.changes import candidate
    from ..core.findings import Score, Test

    facts = candidate(one)
    bare = Finding(
        candidate=facts,
        test=Test(name="", statistic=None, p=1.0),
        score=Score(total=0, strength=0, reach=0, confidence=0),
    )
    value = numbers.amount(one.value, one.measure)
    name = names.capital(names.measure_name(one.measure))
    first = (
        f"{name} {names.was(one.measure)} {value} {names.within(one.period)}, "
        f"{change_size(bare)} {names.period(one.baseline)}."
    )
    told = [("change", [first]), ("expected", why_changed.usual(one)), ("where", why_changed.where(one))]
    if length == "long":
        told += [
            ("why", [*why_changed.reversal(one), *why_changed.through(one), *why_changed.made_of(one)]),
            ("why", [*why_changed.against(one), *why_changed.next_look(one)]),
        ]
    return [Fact(text=text, part=part, about=(bare.id,)) for part, texts in told for text in texts]
