"""A kind of finding, declared in one place: what it is, what it needs, how it counts, what its figures mean.

The declaration stands in the detector's file, as `KIND`. Scoring, control of false discoveries, folding, suggestions
and the lists that people see read it there; the rooms of text and of charts hold a file of the same name.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

from ..support.phrasing import marked

#: What floors are measured in, where several kinds have them.
PERCENT, POINTS = marked("percent"), marked("percentage points")
DEVIATIONS, NOISE = marked("standard deviations of the rows"), marked("standard deviations of the periods")


@dataclass(frozen=True, slots=True, kw_only=True)
class Floor:
    """The effect below which a finding of a kind is not told: the detector's `setting`, and the unit it is given in."""

    setting: str
    unit: str


@dataclass(frozen=True, slots=True, kw_only=True)
class FindingKind:
    """One kind of finding.

    name: as in JSON, on the command line, and of the files of the kind in every room
    what: one line for people who choose kinds
    detector: the class, in the same file as the declaration
    figures: each figure by name, with its meaning; a figure that is not declared fails the contract test
    interest: base interest, 0 to 1: what changed comes before what merely is
    weight: share of the room for error, 1 for most; less for kinds that look at many slices for little
    needs_time, least_periods: what a table must have before the detector is asked
    floor: the setting that holds its effect floor, None where it has no single one
    told_apart_by: the figure that tells two findings apart where measure, slice and period do not
    movement: "path" for a lasting movement of a series, "departure" from one; None for what stands still
    happens: when the event lies: its "period", the "start" of it, the day of its "row"; None where it has no time
    shows_rows: whether it shows rows by themselves, or how few there are: not told where groups have a least size
    of_data: whether it is first a question to whoever keeps the data
    stands_alone: whether two findings of the kind on one slice are always two stories
    of_parts: whether a slice can have it only because of what it is made of
    of_plans: whether it sets what was against what was planned; it is asked only where a table has a plan
    of_rows: whether it looks at rows, or how many there are, rather than at what a measure is of them
    """

    name: str
    what: str
    detector: str
    figures: Mapping[str, str] = field(compare=False)
    interest: float
    weight: float = 1.0
    needs_time: bool = False
    least_periods: int = 0
    floor: Floor | None = None
    told_apart_by: str | None = None
    movement: Literal["path", "departure"] | None = None
    happens: Literal["period", "start", "row"] | None = None
    shows_rows: bool = False
    of_data: bool = False
    stands_alone: bool = False
    of_parts: bool = True
    of_plans: bool = False
    of_rows: bool = False

    @property
    def moves(self) -> bool:
        """Whether it speaks of where a series goes, so that others can be set against it."""
        return self.movement is not None

    @property
    def story(self) -> str:
        """Kinds of one story are told together: a trend and a shift are both a lasting movement."""
        return "movement" if self.movement == "path" else self.name

    def __str__(self) -> str:
        return self.name
