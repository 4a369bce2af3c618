"""The executive summary: what changed, beside what was usual, why and where, what else matters, what to beware of.

A summary is planned as facts, each with its part in the story and the findings it rests on; as many as fit are told,
the weightiest first, in the order of the story."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, field
from typing import Any

from ..analysis.change import Explanation
from ..findings import Finding
from ..support.errors import RequestError
from ..support.notebook_view import view
from ..support.printable import made_visible
from . import caveats as told_caveats
from . import change_sentences as why_changed
from . import dates, names, numbers
from .change_sentences import compared, counted
from .composition import Story, stories
from .languages import joined, say, statement
from .message import sentence
from .suggestions import suggestions

#: Words of each length: a glance, a minute, a page.
LENGTHS = {"short": 60, "standard": 150, "long": 400}
#: A manager reads so many words before noon.
MOST_WORDS = LENGTHS["standard"]
#: Kinds that say of a part how it moved.
_OVER_TIME = ("trend", "shift", "divergence", "change")
#: Stories told after the first, if the words last.
_MOST_STORIES = {"short": 4, "standard": 5, "long": 11}


@dataclass(frozen=True, slots=True, kw_only=True)
class Fact:
    """One sentence: its part in the story (change, expected, where, why, story, detail, watch, caveat), the ids of the
    findings that its figures come from, its place among the others, and the story that it is told from."""

    text: str
    part: str = "story"
    about: tuple[str, ...] = ()
    place: float = 0.0
    story: Story | None = field(default=None, compare=False, repr=False)


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

    def _repr_html_(self) -> str:
        return view(self.headline, [self.text] if self.text else [])

    @made_visible
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
    opening = latest_facts(latest, length, findings) if latest is not None else []
    warnings = [Fact(text=told_caveats.sentence(name, facts), part="caveat") for name, facts in caveats]
    places = {"tests": numbers.whole(tests), "rows": numbers.whole(rows), "table": table_name}
    if not findings and latest is not None and latest_matters(latest):
        more = say(
            "Beyond that nothing stands out: {tests} tests on {rows} rows of {table} found no movement, difference, "
            "leader, odd week or wrong row that chance does not make too.",
            **places,
        )
        return planned(opening[0], [*opening[1:], Fact(text=more, place=1.0)], warnings, length)
    if not findings:
        nothing = say(
            "Nothing stands out beyond chance: {tests} tests on {rows} rows of {table} found no movement, difference, "
            "leader, odd week or wrong row that chance does not make too.",
            **places,
        )
        return planned(Fact(text=nothing, part="change"), [], [*opening, *warnings], length)
    told = stories(findings[: _MOST_STORIES[length] + (not opening)], technical)
    leads = bool(opening) and latest is not None and latest_matters(latest, findings[0].score.total)
    first = opening.pop(0) if leads else _story(told.pop(0), 0)
    body = [*opening, *(_story(one, place) for place, one in enumerate(told, start=1))]
    if length == "long":
        # The first thing that goes the wrong way, with what is at stake, comes behind the stories.
        body += [
            Fact(text=suggestion.text, part="watch", about=(suggestion.finding,), place=len(told) + 1.0)
            for suggestion in suggestions(findings, table_name, most=1, side="decline")
        ]
        # What stands behind a story follows it, but all stories are told before any of that.
        body += [
            Fact(text=finding.detail, part="detail", about=(finding.id,), place=place + 0.5)
            for place, one in enumerate(told, start=1)
            for finding in one.findings
            if finding.detail
        ]
    return planned(first, body, warnings, length)


def change_summary(findings: Sequence[Finding], explanation: Explanation, length: str = "standard") -> Summary:
    """The summary of an explained change: its finding first, then those of the slices named."""
    check_length(length)
    known = list(dict.fromkeys(note for finding in findings for note in finding.notes))[:2]
    tail = [Fact(text=say("Known of that time: {notes}.", notes="; ".join(known)), part="watch")] if known else []
    if explanation.cut_days is not None:
        tail.append(Fact(text=why_changed.unfinished(explanation), part="caveat"))
    ids = tuple(finding.id for finding in findings)
    body = [Fact(text=text, part="why", about=ids) for text in why_changed.paragraph(explanation)]
    if length == "long":
        body += [
            Fact(text=statement((finding.headline, " ", finding.detail)).strip(), part="detail", about=(finding.id,))
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
        text=_flowing(first, every),
        bullets=tuple(fact.text for fact in every),
        facts=(first, *every),
    )


def _flowing(first: Fact, every: Sequence[Fact]) -> str:
    """The facts as a paragraph: each sentence knows what the one before was about. As bullets each stands by itself."""
    before = first.story.findings[-1] if first.story is not None else None
    contrasted, told = False, []
    for fact in every:
        text = fact.text
        if fact.part in ("story", "change") and fact.story is not None and before is not None:
            text, against = fact.story.following(before, contrasted)
            contrasted = contrasted or against
        told.append(text)
        if fact.part in ("story", "change"):
            before = fact.story.findings[0] if fact.story is not None else None
        elif fact.part not in ("expected", "detail"):
            # A sentence on something else stands between: what follows names its subject again.
            before = None
    return joined(" ", told)


def without(summary: Summary, findings: Collection[str]) -> Summary:
    """The summary without what it says of findings alone that are left out; a headline of one makes room for the next
    fact."""
    if not summary.facts:
        return summary
    kept = [fact for fact in summary.facts if not fact.about or not set(fact.about) <= set(findings)]
    if len(kept) == len(summary.facts) or not kept:
        return summary
    first, rest = kept[0], kept[1:]
    own = len(summary.bullets) - (len(summary.facts) - 1)
    # Sentences of people's own stand before the facts.
    opening = summary.bullets[:own]
    text = " ".join(opening)
    return Summary(
        headline=first.text,
        text=joined(" ", [*([text] if text else []), *([_flowing(first, rest)] if rest else [])]),
        bullets=(*opening, *(fact.text for fact in rest)),
        facts=tuple(kept),
    )


def fit(headline: str, body: list[str], tail: list[str], length: str = "standard") -> Summary:
    """As `planned`, from plain sentences."""
    return planned(
        Fact(text=headline),
        [Fact(text=text) for text in body],
        [Fact(text=text, part="caveat") for text in tail],
        length,
    )


def _story(story: Story, place: int) -> Fact:
    about = tuple(finding.id for finding in story.findings)
    return Fact(text=story.text, part="story", about=about, place=place, story=story)


def latest_matters(latest: Explanation, beside: float = 0.0) -> bool:
    """Whether the latest change is news of its own: unusual, or not to be judged, and no less than the first finding by
    the same score."""
    from ..analysis.change import candidate
    from ..findings.scoring import score

    usual = latest.usual
    if usual is None:
        if not beside:
            return bool(latest.named)
    elif usual.usual:
        return not beside and bool(latest.named)
    claim = candidate(latest)
    return score(claim, min(claim.p, 0.1)).total >= beside


def _contradicted(latest: Explanation, findings: Sequence[Finding]) -> bool:
    """Whether a finding says that a part moved on its own in the measure that is said to have moved alike."""
    return latest.verdict == "even" and any(
        finding.measure == latest.measure and finding.where.conditions and finding.kind in _OVER_TIME
        for finding in findings
    )


def latest_facts(explanation: Explanation, length: str, findings: Sequence[Finding]) -> list[Fact]:
    from ..analysis.change import candidate
    from ..findings import Score, Test

    facts = candidate(explanation)
    bare = Finding(
        candidate=facts,
        test=Test(name="", statistic=None, p=1.0),
        score=Score(total=0, strength=0, reach=0, confidence=0),
    )
    first = say(
        "{who} {who:was|were} {value} {when}, {compared}.",
        who=names.subject(explanation.measure),
        value=counted(bare),
        when=dates.when(explanation.period, explanation.measure),
        compared=compared(bare, dates.period(explanation.baseline)),
    )
    first = sentence(first)
    told = [
        ("change", [first]),
        ("expected", [*why_changed.usual(explanation), *why_changed.calendar(explanation)]),
        (
            "where",
            [
                *([] if _contradicted(explanation, findings) else why_changed.where(explanation)),
                *why_changed.alike(explanation),
            ],
        ),
    ]
    if length == "long":
        told += [
            (
                "why",
                [
                    *why_changed.reversal(explanation),
                    *why_changed.through(explanation),
                    *why_changed.made_of(explanation),
                ],
            ),
            ("why", [*why_changed.against(explanation), *why_changed.next_look(explanation)]),
        ]
    whole = Story(text=first, findings=(bare,))
    return [
        Fact(text=text, part=part, about=(bare.id,), story=whole if part == "change" else None)
        for part, texts in told
        for text in texts
    ]
