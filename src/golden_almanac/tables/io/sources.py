"""The kinds of file that a table is read from: a declaration each, and the file of this room that reads it.

A new kind is its file, with a function from a path to a `Loaded`, and a line here.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from importlib import import_module
from typing import Any, cast

from ..reading_guide import Guide
from .raw_table import Loaded


@dataclass(frozen=True, slots=True, kw_only=True)
class Source:
    """One kind of file.

    endings: of its files' names, in small letters; "" for none
    module, function: what reads it, in this room
    takes: the choices that it has, handed on by name: sheet, table, query, private, guide
    part, parts: what one of several tables inside is chosen by, and the function that lists their names
    """

    endings: tuple[str, ...]
    module: str
    function: str
    takes: tuple[str, ...] = ()
    part: str | None = None
    parts: str | None = None

    def load(self, path: Any, guide: Guide, **choices: Any) -> Loaded:
        """What the file gives, before texts are read as numbers and dates. Raises SourceError."""
        given = {"guide": guide, **choices}
        return cast(Loaded, self._called(self.function)(path, **{name: given[name] for name in self.takes}))

    def names(self, path: Any) -> list[str]:
        """The names of the tables inside; none of a kind that holds just one."""
        return [] if self.parts is None else list(self._called(self.parts)(path))

    def _called(self, name: str) -> Callable[..., Any]:
        return cast(Callable[..., Any], getattr(import_module(f".{self.module}", __package__), name))


SOURCES = (
    Source(
        endings=(".xlsx", ".xlsm", ".xls", ".ods"),
        module="workbooks",
        function="read_workbook",
        takes=("sheet", "guide"),
        part="sheet",
        parts="visible_sheets",
    ),
    Source(endings=(".json", ".jsonl", ".ndjson"), module="structured_files", function="read_json"),
    Source(
        endings=(".sqlite", ".sqlite3", ".db", ".duckdb", ".ddb"),
        module="structured_files",
        function="read_database",
        takes=("table", "query", "private"),
        part="table",
        parts="table_names",
    ),
    Source(endings=(".parquet", ".pq"), module="text_files", function="read_parquet"),
    Source(endings=(".csv", ".tsv", ".txt", ""), module="text_files", function="read_csv", takes=("guide",)),
)


def source_of(ending: str) -> Source | None:
    """The kind of file that an ending (in small letters, with its point) names."""
    return next((source for source in SOURCES if ending in source.endings), None)
