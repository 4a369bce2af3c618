"""A report of a fault of our own: where in the program it happened and with what versions, and nothing of the data."""

from __future__ import annotations

import os
import platform
import sys
import tempfile
import traceback
from importlib.metadata import PackageNotFoundError, version
from pathlib import Path

_PACKAGES = ("golden-almanac", "numpy", "pandas", "pyarrow", "duckdb", "scipy", "matplotlib")


def written(problem: BaseException) -> str | None:
    """Write the report into the folder for files in between; its path, None where that cannot be written to."""
    try:
        handle, name = tempfile.mkstemp(prefix="golden-almanac-fault-", suffix=".txt")
        with os.fdopen(handle, "w", encoding="utf-8") as file:
            file.write(text_of(problem))
    except OSError:
        return None
    return name


def text_of(problem: BaseException) -> str:
    """Versions, the names of the options, and the places in the program: what errors say, and what options are given,
    may quote the data, and is left out."""
    lines = [f"Python {platform.python_version()}, {platform.system()} {platform.machine()}"]
    for name in _PACKAGES:
        try:
            lines.append(f"{name} {version(name)}")
        except PackageNotFoundError:
            lines.append(f"{name} not installed")
    words = [word.split("=")[0] if word.startswith("-") else "…" for word in sys.argv[1:]]
    lines += ["", f"golden-almanac {' '.join(words[:60])}", ""]
    error: BaseException | None = problem
    while error is not None:
        lines.append(type(error).__name__)
        for place in traceback.extract_tb(error.__traceback__):
            lines.append(f"  {_shown(place.filename)}, line {place.lineno}, in {place.name}")
        error = error.__cause__ or error.__context__
    return "\n".join(lines) + "\n"


def _shown(path: str) -> str:
    """A file by its place in its package: the folders before it are nobody's business."""
    parts = Path(path).parts
    return "/".join(parts[-4:])
