"""Regular files of a bounded size: what people name as a source, a brief, notes, a log or a model."""

from __future__ import annotations

import stat
from pathlib import Path

from ...support.errors import SourceError, join_or, nearest


def regular_file(path: Path) -> Path:
    """The path, if it is a regular file that holds something and may be read. Raises SourceError."""
    shown = str(path)
    try:
        facts = path.stat()
    except FileNotFoundError as problem:
        raise SourceError(shown, "there is no such file", _similar(path)) from problem
    except (OSError, ValueError) as problem:
        raise _unopened(shown, problem) from problem
    if stat.S_ISDIR(facts.st_mode):
        raise SourceError(shown, "this is a folder", f"Name a file in it, or a pattern in quotes: '{path}/*.csv'.")
    if not stat.S_ISREG(facts.st_mode):
        raise SourceError(shown, "this is a device or a pipe, not a file", "Save the data to a file first.")
    if facts.st_size == 0:
        raise SourceError(shown, "the file is empty", "Export it again, or check that the export had finished.")
    try:
        path.open("rb").close()
    except OSError as problem:
        raise _unopened(shown, problem) from problem
    return path


def text_of(path: Path, most: int) -> str:
    """The text (UTF-8) of a regular file of at most `most` bytes. Raises SourceError."""
    shown = str(path)
    if regular_file(path).stat().st_size > most:
        raise SourceError(shown, f"it is larger than {most // 1_000_000} MB", "Name another file.")
    try:
        return path.read_text(encoding="utf-8-sig")
    except UnicodeDecodeError as problem:
        raise SourceError(shown, "it is not UTF-8 text", "Save it as UTF-8.") from problem
    except OSError as problem:
        raise _unopened(shown, problem) from problem


def _unopened(shown: str, problem: OSError | ValueError) -> SourceError:
    why = problem.strerror if isinstance(problem, OSError) else "no file can have this name"
    return SourceError(shown, f"it cannot be opened ({why})", "Check its name and rights.")


def _similar(path: Path) -> str:
    try:
        names = sorted(entry.name for entry in path.parent.iterdir() if entry.is_file())[:2000]
    except (OSError, ValueError):
        return "Check the folder's name."
    near = nearest(path.name, names)
    return f"Did you mean {join_or(near)}?" if near else "Check its name and folder."
