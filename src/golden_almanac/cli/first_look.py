"""A source and no command: what is in it, and what to try."""

from __future__ import annotations

from collections.abc import Collection
from pathlib import Path
from typing import Any

from ..support.printable import visible
from . import shared_options, streams

#: Columns of each kind that are named.
_NAMED = 6


def wanted(words: list[str], commands: Collection[str]) -> str | None:
    """The source, where it stands alone: a file there is, or an address; a command of that name goes before."""
    if len(words) != 1 or words[0] in commands or words[0].startswith("-"):
        return None
    return words[0] if "://" in words[0] or Path(words[0]).is_file() else None


def first_look(source: str) -> int:
    """Say what a source holds, and three commands that tell more of it."""
    import golden_almanac as ga

    table = ga.read(source, progress=shared_options.progress())
    shared_options.clear_progress()
    told = [f"{table.name}: {table.rows:,} rows and {len(table.columns)} columns.", *_columns(table), "", "Try:"]
    for line in [*told, *(f"  {command}" for command in commands(table, source))]:
        streams.say(visible(line))
    return 0


def _columns(table: Any) -> list[str]:
    from ..tables import Role

    told = []
    for said, role in (("Dates", Role.TIME), ("Figures", Role.MEASURE), ("Labels", Role.DIMENSION)):
        names = [column.name for column in table.with_role(role)]
        if names:
            more = f" and {len(names) - _NAMED} more" if len(names) > _NAMED else ""
            told.append(f"{said}: {', '.join(names[:_NAMED])}{more}.")
    return told


def commands(table: Any, source: str) -> list[str]:
    """Three commands that the table has the columns for."""
    from ..support.shell import suggested
    from ..tables import Role

    dates, figures = table.with_role(Role.TIME), table.with_role(Role.MEASURE)
    made = [suggested("check", source)]
    if figures:
        made.append(suggested("scan", source))
    if dates and figures:
        made.append(suggested("publish", source))
    else:
        made.append(suggested("ask", source))
    return made[:3]
