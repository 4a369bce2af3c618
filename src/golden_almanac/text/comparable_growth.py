"""What a total, or an average, did like for like, in words."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from ..aggregation.measures import Measure
from . import consistent_rounding, names, numbers
from .languages import count, say

#: Labels told by name; growth like for like of so much of the whole's is the same story.
_MOST, _SAME_STORY = 4, 0.25


def like_for_like(found: dict[str, Any], measure: Measure) -> str:
    """The sentence; the three amounts add up to the change."""
    amounts = [found["change"], found["came_change"], found["ended_change"]]
    shown = consistent_rounding.split(amounts, sum(amounts), measure)
    same, came, ended = shown.texts(signed=True)
    parts = names.plural(found["by"])
    told = []
    if found["came"] and shown.parts[1]:
        told.append(say("new {parts} {size} ({labels})", parts=parts, size=came, labels=_labels(found["came"])))
    if found["ended"] and shown.parts[2]:
        told.append(
            say("{parts} that ended {size} ({labels})", parts=parts, size=ended, labels=_labels(found["ended"]))
        )
    return _stayed(found, same, measure.share, told)


def growth(found: dict[str, Any], measure: Measure | None) -> str:
    """The same in one figure alone, of averages over two spans."""
    told = []
    if found["came"]:
        told.append(say("new {labels}", labels=_labels(found["came"])))
    if found["ended"]:
        told.append(say("ended {labels}", labels=_labels(found["ended"])))
    return count(
        found["stayed"],
        "Like for like, the {n} {part} there throughout moved by {pct} ({told})",
        "Like for like, the {n} {parts} there throughout moved by {pct} ({told})",
        **_who(found),
        pct=_moved(found, measure),
        told=names.listed(told),
    )


def claimed(claim: str, found: dict[str, Any], measure: Measure | None, whole: Mapping[str, Any]) -> str:
    """A claim of growth of the `whole` (its figures) with what it is like for like, where that is another story."""
    size = "change" if whole["change_pct"] is None else "change_pct"
    if found[size] * whole[size] > 0 and abs(found[size]) >= _SAME_STORY * abs(whole[size]):
        return claim
    return count(
        found["stayed"],
        "{claim}, but like for like, in the {n} {part} there throughout, by {pct}",
        "{claim}, but like for like, in the {n} {parts} there throughout, by {pct}",
        claim=claim,
        **_who(found),
        pct=_moved(found, measure),
    )


def _moved(found: dict[str, Any], measure: Measure | None) -> str:
    """How far those moved that were there throughout: in percent, or as an average is told, in its own unit."""
    if measure is not None and not measure.additive:
        return numbers.signed(found["change"], numbers.difference(found["change"], measure))
    return numbers.per_cent(found["change_pct"])


def _stayed(found: dict[str, Any], size: str, share: bool, told: Sequence[str]) -> str:
    if share:
        return count(
            found["stayed"],
            "Like for like, the {n} {part} there throughout moved by {size}; beside it {told}.",
            "Like for like, the {n} {parts} there throughout moved by {size}; beside them {told}.",
            **_who(found),
            size=size,
            told=names.listed(told),
        )
    return count(
        found["stayed"],
        "Like for like, the {n} {part} there throughout moved by {size} ({pct}); beside it {told}.",
        "Like for like, the {n} {parts} there throughout moved by {size} ({pct}); beside them {told}.",
        **_who(found),
        size=size,
        pct=numbers.per_cent(found["change_pct"]),
        told=names.listed(told),
    )


def _who(found: dict[str, Any]) -> dict[str, Any]:
    """Those that were there throughout, as places of a sentence."""
    return {"part": names.dimension(found["by"]), "parts": names.plural(found["by"]), "n": found["stayed"]}


def _labels(labels: Sequence[str]) -> str:
    told = [names.label(label) for label in labels[:_MOST]]
    more = len(labels) - len(told)
    return names.listed([*told, *([count(more, "{n} other", "{n} others", n=more)] if more > 0 else [])])
