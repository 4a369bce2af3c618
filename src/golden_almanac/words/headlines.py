"""A message for each kind of finding, and from it a headline and a detail.

The headline is the claim with its number, true by itself; the detail adds what it is compared with,
why, and how sure it is. Every number comes from the finding's figures.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from ..core.findings import Finding
from . import change, moves, odd, places, shapes
from .message import Message, hedge
from .why import why

_Writer = Callable[[Finding], Message]


def message(finding: Finding) -> Message:
    """What a finding says, taken apart; see `Message`."""
    made = _WRITERS[finding.kind](finding)
    return replace(made, context=why(finding), qualification=made.qualification or hedge(finding))


def headline(finding: Finding) -> str:
    """One sentence: what, where, by how much, since when."""
    return _WRITERS[finding.kind](finding).headline


def detail(finding: Finding) -> str:
    """One to three sentences: against what, why, how sure."""
    return message(finding).detail


_WRITERS: dict[str, _Writer] = {
    "trend": moves.trend,
    "shift": moves.shift,
    "seasonality": moves.seasonality,
    "divergence": moves.divergence,
    "ranking": places.ranking,
    "difference": places.difference,
    "outlier": odd.outlier,
    "spike": odd.spike,
    "exception": odd.exception,
    "gap": odd.gap,
    "change": change.message,
    "concentration": shapes.concentration,
    "mix": shapes.mix,
    "relationship": shapes.relationship,
    "distribution": shapes.distribution,
}
