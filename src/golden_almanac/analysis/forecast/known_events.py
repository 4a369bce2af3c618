"""Events known beforehand: what those of a name did before is expected of those to come; none is invented."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ...findings import Note
from ...support.errors import SourceError
from ...tables import Period
from .outlook import Floats, KnownEvent


@dataclass(frozen=True, slots=True)
class EventEffects:
    """Factors by period: `past` of shape (periods,), `ahead` of shape (horizon,)."""

    past: Floats
    ahead: Floats
    events: tuple[KnownEvent, ...]


def check_apart(events: Sequence[Note]) -> None:
    """Raises SourceError where two events of one name overlap: their days would count twice."""
    by_name: dict[str, list[Note]] = {}
    for event in events:
        by_name.setdefault(_name(event), []).append(event)
    for listed in by_name.values():
        listed.sort(key=lambda one: str(one.start))
        for one, other in pairwise(listed):
            if other.start <= one.end:
                raise SourceError(
                    "the events",
                    f"two of {one.text!r} overlap: {one.start} to {one.end} and {other.start} to {other.end}",
                    "Give each its own days.",
                )


def effects_of(
    values: Floats, remainder: Floats, periods: Sequence[Period], ahead: Sequence[Period], events: Sequence[Note]
) -> EventEffects:
    """The effect of each name, from what remained of its periods: `remainder` are factors of what was usual, shape
    (periods,). Of a period of which an event took a part, its effect is by as much more."""
    past, further = np.ones(values.size), np.ones(len(ahead))
    told = []
    for name in sorted({_name(event) for event in events}):
        own = [event for event in events if _name(event) == name]
        share = np.array([_share(own, one) for one in periods])
        share_ahead = np.array([_share(own, one) for one in ahead])
        seen = int(sum(event.end >= periods[0].start and event.start <= periods[-1].end for event in own))
        effect = None
        if share.any():
            effect = float((share * (remainder - 1)).sum() / (share * share).sum())
            effect = max(effect, -1.0)
            past *= 1 + effect * share
            further *= 1 + effect * share_ahead
        if share_ahead.any():
            falls = tuple(one for one, part in zip(ahead, share_ahead, strict=True) if part > 0)
            told.append(KnownEvent(name=own[0].text, seen=seen, effect=effect, ahead=falls))
    return EventEffects(np.maximum(past, 1e-6), np.maximum(further, 0.0), tuple(told))


def _name(event: Note) -> str:
    return event.text.strip().casefold()


def _share(events: Sequence[Note], period: Period) -> float:
    """The share of a period's days that events take."""
    days = 0
    for event in events:
        first, last = max(event.start, period.start), min(event.end, period.end)
        days += max(0, int((last - first).astype(np.int64)) + 1)
    return days / period.days
