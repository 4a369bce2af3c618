"""A message for each kind of finding, and from it a headline and a detail.

The headline is the claim with its number, true by itself; the detail adds what it is compared with,
why, and how sure it is. Every number comes from the finding's figures.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from ..findings import Finding
from . import anomalies, change_sentences, distributions, rankings, time_series
from .attribution import why
from .message import Message, hedge

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
    "trend": time_series.trend,
    "shift": time_series.shift,
    "seasonality": time_series.seasonality,
    "divergence": time_series.divergence,
    "ranking": rankings.ranking,
    "difference": rankings.difference,
    "outlier": anomalies.outlier,
    "spike": anomalies.spike,
    "exception": anomalies.exception,
    "gap": anomalies.gap,
    "change": change_sentences.message,
    "concentration": distributions.concentration,
    "mix": distributions.mix,
    "relationship": distributions.relationship,
    "distribution": distributions.distribution,
}
