"""What to do next: a rule for each kind of finding, with the amount at stake, how it is reckoned, and the next thing to
look at. A rule that has no figure to give stays silent: advice that would fit any table is none."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from importlib import import_module
from typing import Any

from ..aggregation.measures import Measure
from ..findings import Finding
from ..support.shell import suggested
from . import consistent_rounding

#: What is better of a measure where nobody says: words of its name.
_MORE = frozenset(
    "revenue sales profit margin income turnover passengers customers members bookings orders time".split()
)
_LESS = frozenset(
    "cost costs delay delays late cancelled cancellations complaints returns returned waste loss errors fuel "
    "churn".split()
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Suggestion:
    """`text` says what to do and what is at stake; `amount` is that in the measure's unit, `reckoned` its arithmetic
    with
    the figures of the finding; `next_look` what to run next; `side` improvement, decline or data."""

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
    """Up to `most` suggestions, in the order of the findings, no two on the same rows; of one side where asked."""
    made: list[Suggestion] = []
    seen: set[object] = set()
    for one in findings:
        rule = getattr(import_module(f".kinds.{one.kind}", __package__), "suggestion", None)
        about = (one.where, one.definition.of_data)
        if rule is None or about in seen:
            continue
        found = rule(one, source)
        if found is not None and side in (None, found.side):
            made.append(found)
            seen.add(about)
        if len(made) >= most:
            break
    return made


def better(one: Finding) -> str | None:
    """up or down, as the caller said or the name tells; None where neither does."""
    if one.good is not None:
        way = one.direction or "up"
        return way if one.good else {"up": "down", "down": "up"}[way]
    words = (
        set() if one.measure is None else set(one.measure.label.lower().split()) | set(one.measure.name.lower().split())
    )
    plain = {word.strip("()_") for text in words for word in text.replace("(", " ").replace("_", " ").split()}
    if plain & _LESS:
        return "down"
    return "up" if plain & _MORE else None


def side_of(one: Finding) -> str:
    way = better(one)
    return "data" if way is None or one.direction is None else "improvement" if way == one.direction else "decline"


def next_command(source: str, one: Finding, command: str = "change", *more: str) -> str:
    measure = [] if one.measure is None else ["-m", one.measure.name]
    where = [] if one.condition is None else ["-w", one.condition]
    return suggested(command, source, *measure, *where, *more)


def subtraction(value: float, other: float, measure: Measure | None) -> str:
    """The arithmetic of a difference, with as many digits as make it come out as it is told."""
    told = consistent_rounding.stairs(other, [value - other], value, measure)
    return f"{told.end} − {told.start}"
