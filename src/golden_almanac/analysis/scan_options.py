"""What the caller says matters: columns of interest, what is better, floors, small groups, known events."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from ..aggregation.measures import Measure, parse_measure
from ..findings import Candidate, Note
from ..support.errors import RequestError
from ..tables import Role, Table
from .detectors import kinds

#: How much less a finding that touches none of the columns of interest counts.
OTHER_INTEREST = 0.7


@dataclass(frozen=True, slots=True, kw_only=True)
class Steering:
    """How a scan is steered; the defaults leave everything as it comes.

    `focus` names columns of interest, `better` maps measures to "up" or "down", `floors` kinds to their effect floor,
    `least_rows` is the size of the smallest group that is told of, `notes` are known circumstances.
    """

    focus: tuple[str, ...] = ()
    better: Mapping[str, str] = field(default_factory=dict)
    floors: Mapping[str, float] = field(default_factory=dict)
    least_rows: int = 0
    notes: tuple[Note, ...] = ()

    def interest(self, candidate: Candidate) -> float:
        """1 for what touches a column of interest, less for the rest; 1 for all where none is named."""
        if not self.focus:
            return 1.0
        touched = {column for column, _ in candidate.where.conditions} | set(candidate.figures.get("columns", ()))
        touched |= {candidate.by or "", str(candidate.figures.get("column", ""))}
        if candidate.measure is not None:
            touched |= {candidate.measure.name, *(part.column for part in candidate.measure.parts)}
        return 1.0 if touched & set(self.focus) else OTHER_INTEREST

    def good(self, candidate: Candidate) -> bool | None:
        """Whether a claim is for the better, where the caller said what is."""
        way = None if candidate.measure is None else self.better.get(candidate.measure.name)
        return None if way is None or candidate.direction not in ("up", "down") else candidate.direction == way


def steering(
    table: Table,
    *,
    focus: tuple[str, ...] = (),
    better: Mapping[str, str] | None = None,
    floors: Mapping[str, float] | None = None,
    least_rows: int = 0,
    notes: tuple[Note, ...] = (),
) -> Steering:
    """A checked Steering. Raises ColumnError, ExpressionError or RequestError."""
    for measure, way in (better or {}).items():
        if way not in ("up", "down"):
            raise RequestError(f"What is better for {measure}", way, "up or down")
    for kind, floor in (floors or {}).items():
        if kind not in kinds() or kinds()[kind].floor is None:
            floored = sorted(name for name, one in kinds().items() if one.floor is not None)
            raise RequestError("The kind of the floor", kind, "one of " + ", ".join(floored))
        if not floor >= 0:
            raise RequestError(f"The floor of {kind}", floor, "a number that is not negative")
    if least_rows < 0:
        raise RequestError("The smallest group", least_rows, "a number of rows that is not negative")
    for note in notes:
        for column in note.where:
            table.column(column, "the notes")
    return Steering(
        focus=tuple(_focus(table, one) for one in focus),
        better={_measure(table, name).name: way for name, way in (better or {}).items()},
        floors=dict(floors or {}),
        least_rows=least_rows,
        notes=notes,
    )


def without(table: Table, ignored: tuple[str, ...]) -> Table:
    """The table with these columns left out of everything that is chosen by itself. Raises ColumnError."""
    return table.set_roles({table.column(name, "the columns to ignore").name: Role.IGNORED for name in ignored})


def _measure(table: Table, text: str) -> Measure:
    return parse_measure(text, table)


def _focus(table: Table, text: str) -> str:
    """A column, or the name of a measure."""
    return _measure(table, text).name if "(" in text else table.column(text, "the columns of interest").name
