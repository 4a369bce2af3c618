"""`ga.read_notes`: the log of what people know."""

from __future__ import annotations

import csv
import os
from collections.abc import Mapping, Sequence
from pathlib import Path

import numpy as np

from ..findings import Note
from ..support.errors import SourceError
from ..tables.io.regular_files import text_of

#: Headings of a note log; all other columns are scope: a column of the table, and the label meant.
_FROM, _TO, _TEXT = "from", "to", "note"
#: Bytes of a note log at most.
_MOST_BYTES = 20_000_000
_SHOULD = f"Give it a heading line with {_FROM}, {_TO} and {_TEXT}, and a column for each scope, such as route."


def read_notes(source: str | os.PathLike[str]) -> tuple[Note, ...]:
    """Notes from a CSV file: what people know, set beside findings that overlap in time and scope.

    Parameters
    ----------
    source
        A file with the columns from, to, note and any columns of the table that limit their scope. Dates are ISO 8601,
        both included; `to` may be missing for a single day, a scope for all.

    Returns
    -------
    tuple of Note
        In the order of the file.

    Raises
    ------
    SourceError
        The file cannot be read, or a date in it.
    """
    path = Path(source)
    try:
        lines = list(csv.DictReader(text_of(path, _MOST_BYTES).splitlines()))
    except csv.Error:
        raise SourceError(path.name, "it cannot be read as a CSV file in UTF-8", _SHOULD) from None
    if not lines or not {_FROM, _TEXT} <= set(lines[0]):
        raise SourceError(path.name, "it is no note log", _SHOULD)
    return tuple(_note(path.name, number, line) for number, line in enumerate(lines, start=2))


def as_notes(notes: str | os.PathLike[str] | Sequence[Note] | None) -> tuple[Note, ...]:
    """Notes as given: a path, or a list."""
    if notes is None:
        return ()
    return read_notes(notes) if isinstance(notes, str | os.PathLike) else tuple(notes)


def _note(name: str, row: int, line: Mapping[str | None, str | None]) -> Note:
    text = (line.get(_TEXT) or "").strip()
    start = _day(name, row, line.get(_FROM))
    end = _day(name, row, line.get(_TO)) if (line.get(_TO) or "").strip() else start
    if not text or end < start:
        what = "has no text" if not text else "ends before it starts"
        raise SourceError(name, f"the note in row {row} {what}", "Mend that row.")
    scope = {
        column: label.strip()
        for column, label in line.items()
        if column and label and label.strip() and column not in (_FROM, _TO, _TEXT)
    }
    return Note(start=start, end=end, text=text, where=scope)


def note_of(place: str, start: str, end: str | None, text: str, where: Mapping[str, str]) -> Note:
    """A note as somebody wrote it at a `place`. Raises SourceError."""
    try:
        first, last = (np.datetime64(day, "D") for day in (start, end or start))
    except ValueError:
        raise SourceError(place, f"{start!r} to {end!r} are no days", "Write days as 2025-02-10.") from None
    if last < first:
        raise SourceError(place, "the note ends before it starts", "Turn its days round.")
    return Note(start=first, end=last, text=text, where=dict(where))


def _day(name: str, row: int, text: str | None) -> np.datetime64:
    try:
        return np.datetime64((text or "").strip(), "D")
    except ValueError:
        raise SourceError(name, f"row {row} has {text!r} where a day belongs", "Write days as 2025-02-10.") from None
