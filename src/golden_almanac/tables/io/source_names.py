"""The tables inside a source, by name: sheets of a workbook, tables of a database, files of a pattern."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from ...support.errors import SourceError
from . import structured_files, workbooks
from .reading import files
from .regular_files import regular_file


def members(source: Any) -> Iterator[tuple[str, Any, dict[str, Any]]]:
    """Name, path, and the choice that `read` needs to read just that table. Raises SourceError."""
    paths = files(source)
    if paths is None:
        if not isinstance(source, str | os.PathLike):
            return
        raise SourceError(str(source), "it holds no tables", "Give a workbook, a database file or a pattern of files.")
    for path in paths:
        regular_file(path)
        ending = path.suffix.lower()
        if ending in workbooks.ENDINGS:
            for sheet in workbooks.visible_sheets(path):
                yield _named(sheet, path, paths), path, {"sheet": sheet}
        elif ending in structured_files.DATABASE_ENDINGS:
            for table in structured_files.table_names(path):
                yield _named(table, path, paths), path, {"table": table}
        else:
            yield path.name.partition(".")[0], path, {}


def _named(name: str, path: Path, paths: list[Path]) -> str:
    return name if len(paths) == 1 else f"{path.stem} {name}"
