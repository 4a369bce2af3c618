"""What changed from one edition to the next: findings that are new, gone, stronger, weaker or going on; figures that
the source has restated."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from .edition_record import EditionRecord, PeriodTotal, ToldFinding

#: An effect that grew or shrank by less than so much of itself is the same.
_SAME = 0.1
#: Figures that differ by less than so much of themselves were not restated.
_RESTATED = 1e-9


@dataclass(frozen=True, slots=True, kw_only=True)
class Restated:
    """A figure of the last edition that the source gives otherwise now; `now` is None where it gives none."""

    measure: str
    start: str
    end: str
    was: float
    now: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class SinceLast:
    """Findings by what became of them, each with the key that matches it; `going_on` are those that neither grew nor
    shrank."""

    previous: str
    new: tuple[str, ...]
    gone: tuple[str, ...]
    stronger: tuple[str, ...]
    weaker: tuple[str, ...]
    going_on: tuple[str, ...]
    restated: tuple[Restated, ...]


def since_last(
    previous: EditionRecord, told: Mapping[str, ToldFinding], totals: Sequence[PeriodTotal]
) -> tuple[SinceLast, dict[str, ToldFinding]]:
    """What changed since an edition, and the findings with the number of editions in a row that told them."""
    groups: dict[str, list[str]] = {"new": [], "stronger": [], "weaker": [], "going_on": []}
    counted = {}
    for key, one in told.items():
        before = previous.told.get(key)
        counted[key] = one if before is None else replace(one, editions=before.editions + 1)
        groups[_what_became(before, one)].append(key)
    gone = tuple(key for key in previous.told if key not in told)
    found = SinceLast(
        previous=previous.edition,
        gone=gone,
        restated=tuple(_restated(previous.totals, totals)),
        **{name: tuple(keys) for name, keys in groups.items()},
    )
    return found, counted


def _what_became(before: ToldFinding | None, now: ToldFinding) -> str:
    if before is None or (before.direction != now.direction and None not in (before.direction, now.direction)):
        return "new"
    if before.size is None or now.size is None or not before.size:
        return "going_on"
    grown = abs(now.size) / abs(before.size) - 1
    return "going_on" if abs(grown) < _SAME else "stronger" if grown > 0 else "weaker"


def _restated(before: Sequence[PeriodTotal], now: Sequence[PeriodTotal]) -> list[Restated]:
    given = {(one.measure, one.start): one.value for one in now}
    measures = {one.measure for one in now}
    found = []
    for one in before:
        if one.measure not in measures:
            continue
        value = given.get((one.measure, one.start))
        if value is None or abs(value - one.value) > _RESTATED * max(1.0, abs(one.value)):
            found.append(Restated(measure=one.measure, start=one.start, end=one.end, was=one.value, now=value))
    return found
