"""The tables inside a source, by name: sheets of a workbook, tables of a database, files of a pattern."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from ...support.errors import SourceError
from .reading import files
from .regular_files import regular_file
from .sources import source_of


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
        source = source_of(ending)
        if source is None or source.part is None:
            yield path.name.partition(".")[0], path, {}
            continue
        for name in source.names(path):
            yield _named(name, path, paths), path, {source.part: name}


def _named(name: str, path: Path, paths: list[Path]) -> str:
    return name if len(paths) == 1 else f"{path.stem} {name}"
