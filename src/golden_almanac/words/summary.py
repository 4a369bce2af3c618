"""The executive summary: what changed, where, by how much, what else matters, what to beware of."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from ..core.changes import Explanation
from ..core.findings import Finding
from . import caveats as told_caveats
from . import names, numbers
from .headlines import change_size

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
        return _fit(nothing, [], [*opening, *warnings])
    told = list(findings[: _MOST_STORIES + (not opening)])
    first = opening[0] if opening else told.pop(0).headline
    return _fit(first, [*opening[1:], *(one.headline for one in told)], warnings)


def change_summary(change: Finding, one: Explanation) -> Summary:
    """The summary of an explained change."""
    body = [*_usual(one), *_where(one), *_through(one)]
    if one.cut_days is not None:
        body.append(f"The period is unfinished, so both sides count its first {one.cut_days} days only.")
    return _fit(change.headline, body, [])


def _fit(headline: str, body: list[str], tail: list[str]) -> Summary:
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
    first = (
        f"{names.capital(names.measure_name(one.measure))} was {value} {names.within(one.period)}, "
        f"{change_size(bare)} {names.period(one.baseline)}."
    )
    return [first, *_usual(one), *_where(one)]


def _usual(one: Explanation) -> list[str]:
    expected = one.expected
    if expected is None:
        return []
    low, high = (
        (100 * end / one.before, numbers.percent(100 * end / one.before))
        if one.change_pct is not None
        else (end, numbers.difference(end, one.measure))
        for end in (expected.low, expected.high)
    )
    span = f"{numbers.signed(low[0], low[1])} and {numbers.signed(high[0], high[1])}"
    if expected.usual:
        return [f"That is within its usual movement (between {span})."]
    return [f"That is unusual: between {span} was to be expected."]


def _where(one: Explanation) -> list[str]:
    if one.expected is not None and one.expected.usual:
        return []
    if not one.named:
        if not one.breakdowns or one.change == 0:
            return []
        columns = names.listed([names.plural(b.by) for b in one.breakdowns[:3]])
        return [f"The {_verb(one)} is spread over all {columns}; no one of them stands out."]
    parts = []
    for by, part, _ in one.named:
        share = part.share
        size = numbers.signed(part.change, numbers.difference(part.change, one.measure))
        label = "(no value)" if part.label is None else part.label
        status = {"new": ", new", "ended": ", ended"}.get(part.status, "")
        of_all = f", {numbers.percent(100 * share)} of the {_verb(one)}" if share is not None and 0 < share <= 2 else ""
        parts.append(f"{label} ({names.dimension(by)}{status}; {size}{of_all})")
    against = [
        f"{c.label or '(no value)'} ({numbers.signed(c.change, numbers.difference(c.change, one.measure))})"
        for c in _offsets(one)
    ]
    text = f"What stands out: {names.listed(parts)}."
    return [text + (f" Against it went {names.listed(against)}." if against else "")]


def _offsets(one: Explanation) -> list[Any]:
    """The largest contributions of the telling dimension that went the other way."""
    by = one.named[0][0]
    named = {part.label for _, part, _ in one.named}
    breakdown = next(b for b in one.breakdowns if b.by == by)
    other_way = [c for c in breakdown.contributions if c.change * one.change < 0 and c.label not in named]
    return [c for c in other_way if abs(c.change) >= 0.1 * abs(one.change)][:2]


def _through(one: Explanation) -> list[str]:
    if one.measure.additive and one.volume_rate and one.change:
        volume = one.volume_rate[0][1] / one.change
        name = names.measure_name(one.measure)
        rows = 100 * (one.rows / one.rows_before - 1)
        per_row = 100 * ((one.value / one.rows) / (one.before / one.rows_before) - 1)
        text = (
            f"The number of rows changed by {numbers.signed(rows, numbers.percent(rows))} and {name} per row by "
            f"{numbers.signed(per_row, numbers.percent(per_row))}: {_signed_share(volume)} of the {_verb(one)} went "
            f"with rows, {_signed_share(1 - volume)} with {name} per row."
        )
        return [text]
    if one.measure.bottom and one.breakdowns and one.change:
        telling = max(one.breakdowns, key=lambda b: (abs(sum(c.mix or 0.0 for c in b.contributions)), b.by))
        mix = sum(c.mix or 0.0 for c in telling.contributions)
        within = one.change - mix
        text = (
            f"By {names.dimension(telling.by)}, {numbers.signed(mix, numbers.difference(mix, one.measure))} is mix and "
            f"{numbers.signed(within, numbers.difference(within, one.measure))} came within the "
            f"{names.plural(telling.by)}."
        )
        return [text]
    return []


def _signed_share(share: float) -> str:
    return numbers.percent(100 * share) if share >= 0 else numbers.signed(share, numbers.percent(100 * share))


def _verb(one: Explanation) -> str:
    return "rise" if one.change > 0 else "fall"
