"""The executive summary: what changed, where, by how much, what else matters, what to beware of."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from ..core.changes import Explanation
from ..core.findings import Finding
from . import caveats as told_caveats
from . import change as why_changed
from . import names, numbers
from .change import change_size

#: A manager reads so many words before noon.
MOST_WORDS = 120
#: Stories told after the first, if the words last.
_MOST_STORIES = 5


@dataclass(frozen=True, slots=True, kw_only=True)
class Summary:
    """A headline, the text (headline not repeated), and the same facts as bullets."""

    headline: str
    text: str
    bullets: tuple[str, ...]

    def to_dict(self) -> dict[str, Any]:
        return {"headline": self.headline, "text": self.text, "bullets": list(self.bullets)}

    def __str__(self) -> str:
        return f"{self.headline}\n\n{self.text}" if self.text else self.headline


def scan_summary(
    table_name: str,
    rows: int,
    tests: int,
    findings: Sequence[Finding],
    latest: Explanation | None,
    caveats: Sequence[tuple[str, dict[str, Any]]],
) -> Summary:
    """The summary of a scan: the latest change of the leading measure, then the findings that matter."""
    opening = _latest(latest) if latest is not None else []
    warnings = [told_caveats.sentence(name, facts) for name, facts in caveats]
    if not findings:
        nothing = (
            f"Nothing stands out beyond chance: {numbers.whole(tests)} tests on {numbers.whole(rows)} rows of "
            f"{table_name} found no movement, difference, leader, odd week or wrong row that chance does not make too."
        )
        return fit(nothing, [], [*opening, *warnings])
    told = list(findings[: _MOST_STORIES + (not opening)])
    first = opening[0] if opening else told.pop(0).headline
    return fit(first, [*opening[1:], *(one.headline for one in told)], warnings)


def change_summary(findings: Sequence[Finding], one: Explanation) -> Summary:
    """The summary of an explained change: its finding first, then those of the slices named."""
    known = list(dict.fromkeys(note for finding in findings for note in finding.notes))[:2]
    tail = [f"Known of that time: {'; '.join(known)}."] if known else []
    if one.cut_days is not None:
        tail.append(f"The period is unfinished, so both sides count its first {one.cut_days} days only.")
    return fit(findings[0].headline, why_changed.paragraph(one), tail)


def fit(headline: str, body: list[str], tail: list[str]) -> Summary:
    """As many sentences as fit; warnings at the end are never the ones to go."""
    kept: list[str] = []
    left = MOST_WORDS - sum(len(text.split()) for text in (headline, *tail))
    for sentence in body:
        words = len(sentence.split())
        if words <= left:
            kept.append(sentence)
            left -= words
    bullets = [*kept, *tail]
    return Summary(headline=headline, text=" ".join(bullets), bullets=tuple(bullets))


def _latest(one: Explanation) -> list[str]:
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
    return [first, *why_changed.usual(one), *why_changed.where(one)]
