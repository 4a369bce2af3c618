"""Sizes of a change and of its parts, as they are told everywhere: rounded together where they add up."""

from __future__ import annotations

from ...analysis.change import Breakdown, Explanation, Named
from .. import consistent_rounding, numbers
from ..languages import say


def signed(one: Explanation, change: float) -> str:
    return numbers.signed(change, numbers.difference(change, one.measure))


def size(one: Explanation, change: float) -> str:
    return numbers.percent(one.change_pct) if one.change_pct is not None else numbers.difference(change, one.measure)


def contributions(one: Explanation, breakdown: Breakdown) -> dict[str | None, str]:
    """What each label contributed to a change, rounded together: the same in sentences, charts and tables."""
    parts = breakdown.contributions
    told = consistent_rounding.split([part.change for part in parts], one.change, one.measure).texts(signed=True)
    return {part.label: text for part, text in zip(parts, told, strict=True)}


def slice_size(one: Explanation, part: Named) -> str:
    """What is told of a slice; of one label of a dimension what is told of it among the others."""
    if len(part.where.conditions) == 1 and part.told == part.change:
        column, label = part.where.conditions[0]
        breakdown = next((found for found in one.breakdowns if found.by == column), None)
        if breakdown is not None:
            return contributions(one, breakdown).get(label) or signed(one, part.told)
    return signed(one, part.told)


def the_noun(one: Explanation) -> str:
    """ "the rise", "the fall"."""
    return say("the rise") if one.change > 0 else say("the fall")
