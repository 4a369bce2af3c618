"""What a forecast is asked of, checked."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ...findings import Note
from ...support.errors import RequestError

#: Periods ahead at most, and labels that are forecast by themselves; the others together.
MOST_PERIODS, MOST_LABELS = 120, 20


@dataclass(frozen=True, slots=True, kw_only=True)
class Wanted:
    """`periods` ahead of the last complete one; `by` a column whose labels are forecast too; `events` known beforehand,
    past and to come; `target` for the year that is forecast into, or for a period of what is no sum."""

    periods: int
    by: str | None = None
    events: Sequence[Note] = ()
    target: float | None = None

    def __post_init__(self) -> None:
        if not 1 <= self.periods <= MOST_PERIODS:
            raise RequestError("The periods ahead", self.periods, f"a number from 1 to {MOST_PERIODS}")
