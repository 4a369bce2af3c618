"""What a scan will ask and send, before anything heavy is asked: `golden-almanac scan SOURCE --dry-run`."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from ..engine import memory_budget
from ..engine.remote.remote_store import STATEMENTS
from ..support.errors import SourceError
from ..tables.io import large_files, server_tables
from ..tables.io.reading import files
from ..tables.table import MOST_SAMPLED

#: How many statements of a scan look at all rows.
PASSES = 18


def expected_work(source: Any, *, table: str | None = None, query: str | None = None) -> list[str]:
    """What a scan of a source will take, in sentences; nothing is read of it but its size. Raises AlmanacError."""
    if server_tables.is_remote(source):
        size = server_tables.expected_size(source, table=table, query=query)
        taken = memory_budget.said(size.rows * size.width)
        whole = f"{source}: about {size.rows:,} rows of {size.width:,} bytes ({taken})."
        if size.rows <= server_tables.LONG:
            return [whole, "They are few enough to be fetched: 3 statements, all rows travel, once."]
        sent = MOST_SAMPLED * size.width
        return [
            whole,
            f"They stay where they are. A scan asks about {STATEMENTS} statements, {PASSES} of which look at all rows.",
            f"A sample of about {MOST_SAMPLED:,} rows ({memory_budget.said(sent)}) and the cells of groups travel.",
        ]
    paths = files(source)
    if paths is None:
        raise SourceError(type(source).__name__, "it is in memory already", "Scan it.")
    missing = next((path for path in paths if not Path(path).is_file()), None)
    if missing is not None:
        raise SourceError(str(missing), "there is no such file", "Check the path.")
    size_on_disk = sum(path.stat().st_size for path in paths)
    known = large_files.size_of(paths)
    rows = "" if known is None or known.rows is None else f", {known.rows:,} rows"
    left = known is not None and known.rows is not None and known.rows >= large_files.LONG
    return [
        f"{source}: {memory_budget.said(max(size_on_disk, 1))} on disk{rows}.",
        f"It stays in its file. A scan takes about {STATEMENTS} looks at it."
        if left
        else "It is read into memory once; nothing else is read, and nothing travels.",
    ]
