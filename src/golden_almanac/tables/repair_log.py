"""The repair log, which makes the same repairs again."""

from __future__ import annotations

import json
import os
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..support.errors import JoinError, RequestError, SourceError
from .io.regular_files import text_of
from .problems import Step

if TYPE_CHECKING:
    from .table import Table

FORMAT = "golden-almanac/repairs/1"
_MOST_BYTES = 50_000_000


@dataclass(frozen=True, slots=True, kw_only=True)
class Log:
    """What was read (sheet, table or query), the repairs made, and what the table then was."""

    sheet: str | None
    table: str | None
    query: str | None
    steps: tuple[Step, ...]
    rows: int
    columns: tuple[str, ...]

    def check(self, table: Table) -> None:
        """Raises RequestError when the table that came out is not the one the log was made from."""
        if (table.rows, tuple(table.names)) != (self.rows, self.columns):
            raise RequestError(
                "The repair log",
                f"a log of {self.rows:,} rows and {len(self.columns)} columns",
                f"one of this source, which gives {table.rows:,} rows and {len(table.columns)} columns when repaired",
            )


def log_of(table: Table) -> dict[str, Any]:
    """The repairs of a table as a log (format golden-almanac/repairs/1), which `ga.read(source, repairs=log)` makes
    again. Raises JoinError for a joined table."""
    origin = table.origin
    if origin.kind == "join":
        raise JoinError("A joined table has no repair log of its own. Write one for each table before they are joined.")
    return {
        "format": FORMAT,
        "source": {
            "name": table.name,
            "rows": table.rows_read,
            "sheet": None if origin.part else origin.sheet,
            "table": origin.table,
            "query": origin.query,
        },
        "steps": [{"do": step.do, "column": step.column, **step.facts} for step in table.repairs],
        "result": {"rows": table.rows, "columns": table.names},
    }


def opened(log: Any) -> Log:
    """A log from a path or from what `Table.repair_log` gave. Raises SourceError, RequestError."""
    if isinstance(log, str | os.PathLike):
        path = Path(log)
        try:
            log = json.loads(text_of(path, _MOST_BYTES))
        except (ValueError, RecursionError) as problem:
            raise SourceError(str(path), "it is no repair log", "Write one with check --repairs.") from problem
    try:
        if not isinstance(log, Mapping) or log["format"] != FORMAT:
            raise KeyError("format")
        read, result = log["source"], log["result"]
        steps = tuple(
            Step(
                do=str(one["do"]),
                column=one["column"],
                facts={k: v for k, v in one.items() if k not in ("do", "column")},
            )
            for one in log["steps"]
        )
        return Log(
            sheet=read["sheet"],
            table=read["table"],
            query=read["query"],
            steps=steps,
            rows=int(result["rows"]),
            columns=tuple(result["columns"]),
        )
    except (KeyError, TypeError, ValueError, OverflowError) as problem:
        raise RequestError("The repair log", None, f"a JSON object of the format {FORMAT}") from problem
