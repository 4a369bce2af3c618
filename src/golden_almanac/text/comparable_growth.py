"""What a total did like for like, in words."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ..aggregation.measures import Measure
from . import consistent_rounding, names, numbers
from .languages import count, say

#: Labels told by name; growth like for like of so much of the whole's is the same story.
_MOST, _SAME_STORY = 4, 0.25


def like_for_like(found: dict[str, Any], measure: Measure) -> str:
    """The sentence; the three amounts add up to the change."""
    amounts = [found["change"], found["came_change"], found["ended_change"]]
    same, came, ended = consistent_rounding.split(amounts, sum(amounts), measure).texts(signed=True)
    parts = names.plural(found["by"])
    told = []
    if found["came"]:
        told.append(say("new {parts} {size} ({labels})", parts=parts, size=came, labels=_labels(found["came"])))
    if found["ended"]:
        told.append(
            say("{parts} that ended {size} ({labels})", parts=parts, size=ended, labels=_labels(found["ended"]))
        )
    return _stayed(found, same, told)


def growth(found: dict[str, Any]) -> str:
    """The same in percent alone, of averages over two spans."""
    told = []
    if found["came"]:
        told.append(say("new {labels}", labels=_labels(found["came"])))
    if found["ended"]:
        told.append(say("ended {labels}", labels=_labels(found["ended"])))
    places = {"n": found["stayed"], "pct": numbers.per_cent(found["change_pct"]), "told": names.listed(told)}
    return count(
        found["stayed"],
        "Like for like, the {n} {part} there throughout moved by {pct} ({told})",
        "Like for like, the {n} {parts} there throughout moved by {pct} ({told})",
        part=names.dimension(found["by"]),
        parts=names.plural(found["by"]),
        **places,
    )


def claimed(claim: str, found: dict[str, Any], change_pct: float) -> str:
    """A claim of growth with what it is like for like, where that is another story."""
    if found["change_pct"] * change_pct > 0 and abs(found["change_pct"]) >= _SAME_STORY * abs(change_pct):
        return claim
    return count(
        found["stayed"],
        "{claim}, but like for like, in the {n} {part} there throughout, by {pct}",
        "{claim}, but like for like, in the {n} {parts} there throughout, by {pct}",
        claim=claim,
        part=names.dimension(found["by"]),
        parts=names.plural(found["by"]),
        n=found["stayed"],
        pct=numbers.per_cent(found["change_pct"]),
    )


def _stayed(found: dict[str, Any], size: str, told: Sequence[str]) -> str:
    return count(
        found["stayed"],
        "Like for like, the {n} {part} there throughout moved by {size} ({pct}); beside it {told}.",
        "Like for like, the {n} {parts} there throughout moved by {size} ({pct}); beside them {told}.",
        part=names.dimension(found["by"]),
        parts=names.plural(found["by"]),
        n=found["stayed"],
        size=size,
        pct=numbers.per_cent(found["change_pct"]),
        told=names.listed(told),
    )


def _labels(labels: Sequence[str]) -> str:
    told = [names.label(label) for label in labels[:_MOST]]
    more = len(labels) - len(told)
    return names.listed([*told, *([count(more, "{n} other", "{n} others", n=more)] if more > 0 else [])])
