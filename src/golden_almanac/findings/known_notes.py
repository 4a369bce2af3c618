"""Known circumstances: dated, scoped remarks, set beside the findings that they overlap with, never told as causes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from ..tables import Grain, Period
from .finding import Candidate

#: Public holidays are named for periods of at most so many days: every long one has some.
_FEW_DAYS = 14


@dataclass(frozen=True, slots=True, kw_only=True)
class Note:
    """What people know: a remark for the days from `start` to `end`, both included.

    `where` maps columns to the label that the remark is about; empty for the whole table.
    """

    start: np.datetime64
    end: np.datetime64
    text: str
    where: dict[str, str] = field(default_factory=dict)

    def told(self) -> str:
        """The remark as it stands beside a finding."""
        days = str(self.start) if self.start == self.end else f"{self.start} to {self.end}"
        scope = f"{', '.join(self.where.values())}: " if self.where else ""
        return f"{scope}{self.text} ({days})"


def beside(candidate: Candidate, notes: Sequence[Note]) -> tuple[str, ...]:
    """The notes that overlap a claim in time and scope, and the public holidays of a short one."""
    span = when(candidate)
    if span is None:
        return ()
    told = [
        note.told()
        for note in notes
        if _concerns(note, candidate)
        and ((note.start <= span.end and note.end >= span.start) or _on_the_way(note, candidate))
    ]
    if int((span.end - span.start).astype(np.int64)) < _FEW_DAYS:
        told += [f"{name} ({day})" for day, name in span.calendar.holiday_names(span.start, span.end).items()]
    return tuple(told)


def when(candidate: Candidate) -> Period | None:
    """The days at which a claim's event lies: a step's first period and those beside it, a spike's own week.

    The place of a step is known to within a period or so.
    """
    span = candidate.period
    happens = candidate.kind.happens
    if happens == "row" and candidate.figures.get("date"):
        day = np.datetime64(candidate.figures["date"], "D")
        return Period(start=day, end=day, grain=Grain.DAY)
    if span is None:
        return None
    if happens == "period":
        return span
    # A trend over the whole time has no beginning that a remark could lie at.
    if happens == "start" and candidate.figures.get("bend", True):
        grain = span.grain or Grain.MONTH
        number = int(span.calendar.number(grain, np.array([span.start]))[0])
        first, last = span.calendar.start(grain, number - 1), span.calendar.end(grain, number + 1)
        return Period(start=first, end=last, grain=grain, calendar=span.calendar)
    return None


def _on_the_way(note: Note, candidate: Candidate) -> bool:
    """Whether a remark on just that slice falls between the baseline of a change and its period."""
    if candidate.kind.name != "change" or candidate.baseline is None or candidate.period is None:
        return False
    labels = dict(candidate.where.conditions)
    own = any(labels.get(column) == label for column, label in note.where.items())
    return bool(own and note.start <= candidate.period.end and note.end >= candidate.baseline.start)


def _concerns(note: Note, candidate: Candidate) -> bool:
    """Whether nothing speaks against a note's scope: another label of a column that both name does."""
    labels = dict(candidate.where.conditions)
    return all(labels.get(column, label) == label for column, label in note.where.items())
