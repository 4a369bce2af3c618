"""The table that questions are asked of: what a path holds, joined where its tables lead to each other."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

from ..support.errors import AlmanacError
from ..tables import Table
from ..tables.joins import Tables
from .join import read_all
from .read import read

#: Endings of files that hold several tables.
_SEVERAL = (".xlsx", ".xls", ".xlsm", ".ods", ".sqlite", ".sqlite3", ".db", ".duckdb")


def table_of(source: Any, **options: Any) -> tuple[Table, str, tuple[str, ...]]:
    """The table, a sentence on what was joined to it ("" where nothing was), and the names of what was."""
    if isinstance(source, Tables):
        return _star(source)
    if isinstance(source, str | os.PathLike) and Path(source).suffix.casefold() in _SEVERAL and not options:
        try:
            several = read_all(source)
        except AlmanacError:
            return read(source), "", ()
        longest = max(several, key=lambda name: several[name].rows)
        if any(link.left == longest for link in several.links):
            return _star(several)
    return read(source, **options), "", ()


def _star(several: Tables) -> tuple[Table, str, tuple[str, ...]]:
    leading = [name for name in several if any(link.left == name for link in several.links)]
    fact = max(leading, key=lambda name: several[name].rows)
    table = read(several.star(fact))
    links = [link for link in several.links if link.left == fact]
    told = "; ".join(f"{link.right} joined to {link.left} by {link.on}" for link in links)
    return table, f"Several tables: {told}." if told else "", tuple(link.right for link in links)
