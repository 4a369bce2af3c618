"""`ga.read_all` and `ga.join`: several tables, and their keys."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from ..support.errors import SourceError
from ..tables import Table, joins
from ..tables.io.source_names import members
from ..tables.joins import Tables
from ..text.lines import Line
from ..text.lines import links_lines as told_links
from .read import read


def read_all(source: Any, **options: Any) -> Tables:
    """Read every table of a source, and find the keys between them.

    Parameters
    ----------
    source
        A workbook (its visible sheets), a database file, a pattern or list of files, or a mapping of names to anything
        `ga.read` takes.
    options
        Those of `ga.read`, for every table.

    Returns
    -------
    Tables
        The tables by name; the links found stand in `.links`, and `.star()` gives the longest table with the columns of
        all that it leads to. Keys that are missing match nothing.

    Raises
    ------
    SourceError
        It holds no table.
    """
    if isinstance(source, Tables):
        return source
    if isinstance(source, Mapping):
        return joins.of_tables({str(name): read(one, name=str(name), **options) for name, one in source.items()})
    found: dict[str, Table] = {}
    for name, path, choice in members(source):
        try:
            found[name] = read(path, name=name, **options, **choice)
        except SourceError:
            # A sheet of notes among others holds no table; a file that was named must.
            if not choice:
                raise
    if not found:
        raise SourceError(str(source), "it holds no table", "Check that the file is the right one.")
    return joins.of_tables(found)


def join(
    left: Any,
    right: Any,
    on: str | Sequence[str] | Mapping[str, str] | None = None,
    *,
    how: str = "left",
    many_to_many: bool = False,
) -> Table:
    """The left table with the columns of the right, each left row as often as before.

    Parameters
    ----------
    left, right
        Anything `ga.read` takes.
    on
        A column both have, several, or a mapping of left to right columns; by default the key that is found by
        containment, uniqueness and the likeness of names.
    how
        "left" keeps rows without a match (they have no value in the new columns), "inner" sets them aside.
    many_to_many
        Allows a key that stands on several rows of the right table; all numbers are then averaged unless asked.

    Returns
    -------
    Table
        A missing key matches nothing.

    Numbers of the right table stand on many rows of the result: they are left alone unless asked for, and then
    averaged. The problem "join" in `readiness` gives the rows before and after, the rows without a match, and those
    never used.

    Raises
    ------
    JoinError
        No key is found, or amounts would be counted more than once.
    ColumnError, SourceError
        A column that does not exist; no row left.
    """
    return joins.join(read(left), read(right), on, how=how, many_to_many=many_to_many)


def join_named(table: Table, source: Any, text: str, private: Sequence[str] = ()) -> Table:
    """The table joined to what a text names: a sheet or table of the same source, or a file, and perhaps the columns:
    "Vessels", "vessels.csv on vessel = name". Columns of the joined table that are `private` are left out."""
    name, _, condition = text.partition(" on ")
    name = name.strip()
    own = {member: (path, choice) for member, path, choice in members(source) if choice}
    right = read(own[name][0], name=name, **own[name][1]) if name in own else read(name, name=Path(name).stem)
    if private:
        right = right.leave_out(private)
    on = None
    if condition.strip():
        pairs = [part.partition("=") for part in condition.replace(" and ", ",").split(",")]
        on = {a.strip(): (b or a).strip() for a, _, b in pairs}
    return joins.join(table, right, on)


def links_lines(tables: Tables) -> list[Line]:
    """What a terminal shows of several tables: each with its size, and the keys between them."""
    return told_links(tables)
