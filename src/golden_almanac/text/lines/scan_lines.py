"""A scan on the screen: summary, what to do next, the findings with a score bar and a spark line."""

from __future__ import annotations

from collections.abc import Sequence
from math import isfinite

from ...findings import Finding
from .. import numbers, page_labels
from ..core_sentences import retold
from ..languages import say
from ..suggestions import Suggestion
from ..summary import Summary
from .line_pieces import BLANK, Line, bullet, line

_BLOCKS = "▁▂▃▄▅▆▇█"
#: Steps of the score bar, and periods of the spark line.
_BAR, _SPARK = 10, 48


def scan_lines(
    summary: Summary,
    suggestions: Sequence[Suggestion],
    findings: Sequence[Finding],
    folded: Sequence[Finding],
    top: int,
    *,
    everything: bool,
) -> list[Line]:
    """The first `top` findings; or `everything`, with those folded under each and the reason."""
    told = [line(summary.headline, "bold"), *([line(summary.text)] if summary.text else [])]
    if not findings:
        return told
    if suggestions:
        told += [BLANK, line(say("What to do next"), "bold"), *(bullet(suggestion.text) for suggestion in suggestions)]
    told.append(BLANK)
    shown = findings if everything else findings[:top]
    for place, one in enumerate(shown, start=1):
        told += _finding(place, one)
        if everything:
            told += _folded([other for other in folded if other.folded_under and other.folded_under[0] == one.id])
    if everything:
        return told
    left = len(findings) - len(shown)
    more = []
    if left:
        more.append(say("{n} more with {option}", n=numbers.whole(left), option=f"--top {len(findings)}"))
    if folded:
        more.append(say("{n} folded under these, with {option}", n=numbers.whole(len(folded)), option="--all"))
    return [*told, line("; ".join(more) + ".", "dim", 4)] if more else told


def _finding(place: int, finding: Finding) -> list[Line]:
    full = round(_BAR * finding.score.total)
    kind = say(finding.kind, "kind")
    head = Line(
        (
            (f"{place:>2}  ", ""),
            ("█" * full, "accent"),
            ("░" * (_BAR - full), "dim"),
            (f" {numbers.fixed(finding.score.total, 2)}  {kind:<13} ", ""),
            (_spark(finding), "dim"),
        )
    )
    verdict = "" if finding.good is None else f" {page_labels.verdict(finding.good)}"
    told = [head, line(finding.headline, "bold", 4), line(finding.detail + verdict, "", 4)]
    told += [line(say("Known of that time: {notes}", notes=note), "italic", 4) for note in finding.notes]
    return [*told, BLANK]


def _folded(findings: Sequence[Finding]) -> list[Line]:
    """What follows from a finding, a line each; none leaves no blank line behind it."""
    told = []
    for finding in findings:
        reason = finding.folded_under[1] if finding.folded_under else ""
        told.append(Line(((f"· {finding.headline} ", "dim"), (f"({retold(reason)})", "")), 6))
    return [*told, BLANK] if told else []


def _spark(finding: Finding) -> str:
    own = finding.candidate.series.get("own")
    if own is None or len(own) < 3:
        return ""
    values = [float(value) for value in own][-_SPARK:]
    known = [value for value in values if isfinite(value)]
    if not known:
        return ""
    low, high = min(known), max(known)
    spread = (high - low) or 1.0
    # A period without a value is a hole in the line.
    return "".join(
        _BLOCKS[min(len(_BLOCKS) - 1, int(len(_BLOCKS) * (value - low) / spread))] if isfinite(value) else " "
        for value in values
    )
