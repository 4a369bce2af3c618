"""Sizes of a change and of its parts, as they are told everywhere: rounded together where they add up."""

from __future__ import annotations

from ...analysis.change import Breakdown, Explanation, Named
from .. import consistent_rounding, numbers
from ..languages import say


def signed(explanation: Explanation, change: float) -> str:
    return numbers.signed(change, numbers.difference(change, explanation.measure))


def size(explanation: Explanation, change: float) -> str:
    return (
        numbers.percent(explanation.change_pct)
        if explanation.change_pct is not None
        else numbers.difference(change, explanation.measure)
    )


def contributions(explanation: Explanation, breakdown: Breakdown) -> dict[str | None, str]:
    """What each label contributed to a change, rounded together: the same in sentences, charts and tables."""
    parts = breakdown.contributions
    told = consistent_rounding.split([part.change for part in parts], explanation.change, explanation.measure).texts(
        signed=True
    )
    return {part.label: text for part, text in zip(parts, told, strict=True)}


def slice_size(explanation: Explanation, part: Named) -> str:
    """What is told of a slice; of one label of a dimension what is told of it among the others."""
    if len(part.where.conditions) == 1 and part.told == part.change:
        column, label = part.where.conditions[0]
        breakdown = next((breakdown for breakdown in explanation.breakdowns if breakdown.by == column), None)
        if breakdown is not None:
            return contributions(explanation, breakdown).get(label) or signed(explanation, part.told)
    return signed(explanation, part.told)


def the_noun(explanation: Explanation) -> str:
    """ "the rise", "the fall"."""
    return say("the rise") if explanation.change > 0 else say("the fall")
