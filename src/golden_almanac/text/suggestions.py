"""What to do next: a rule for each kind of finding, with the amount at stake, how it is reckoned, and the next thing to
look at. A rule that has no figure to give stays silent: advice that would fit any table is none."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from importlib import import_module
from typing import Any

from ..aggregation.measures import Measure
from ..findings import Finding
from ..support.better_directions import better_way
from ..support.shell import suggested
from . import consistent_rounding


@dataclass(frozen=True, slots=True, kw_only=True)
class Suggestion:
    """`text` says what to do and what is at stake; `amount` is that in the measure's unit, `reckoned` its arithmetic
    with the figures of the finding; `next_look` what to run next; `side` improvement, decline or data."""

    text: str
    amount: float
    reckoned: str
    next_look: str
    finding: str
    side: str

    def to_dict(self) -> dict[str, Any]:
        return {
            "text": self.text,
            "amount": self.amount,
            "reckoned": self.reckoned,
            "next": self.next_look,
            "finding": self.finding,
            "side": self.side,
        }


def suggestions(findings: Sequence[Finding], source: str, most: int = 5, side: str | None = None) -> list[Suggestion]:
    """Up to `most` suggestions, in the order of the findings, no two on the same rows, none of a small effect; of one
    side where asked."""
    suggestions: list[Suggestion] = []
    seen: set[object] = set()
    for finding in findings:
        rule = getattr(import_module(f".kinds.{finding.kind}", __package__), "suggestion", None)
        about = (finding.where, finding.definition.of_data)
        if rule is None or about in seen or finding.small:
            continue
        found = rule(finding, source)
        if found is not None and side in (None, found.side):
            suggestions.append(found)
            seen.add(about)
        if len(suggestions) >= most:
            break
    return suggestions


def better(finding: Finding) -> str | None:
    """up or down, as the caller said or the name tells; None where neither does."""
    if finding.good is not None:
        way = finding.direction or "up"
        return way if finding.good else {"up": "down", "down": "up"}[way]
    return None if finding.measure is None else better_way((finding.measure.label, finding.measure.name))


def side_of(finding: Finding) -> str:
    way = better(finding)
    return (
        "data" if way is None or finding.direction is None else "improvement" if way == finding.direction else "decline"
    )


def next_command(source: str, finding: Finding, command: str = "change", *more: str) -> str:
    measure = [] if finding.measure is None else ["-m", finding.measure.name]
    where = [] if finding.condition is None else ["-w", finding.condition]
    return suggested(command, source, *measure, *where, *more)


def subtraction(value: float, other: float, measure: Measure | None) -> str:
    """The arithmetic of a difference, with as many digits as make it come out as it is told."""
    told = consistent_rounding.stairs(other, [value - other], value, measure)
    return f"{told.end} − {told.start}"
