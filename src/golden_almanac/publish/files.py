"""Files are written whole or not at all."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path

from ..core.errors import OutputError


def write_whole(path: Path, data: bytes) -> None:
    """Write to a temporary file beside the target, then rename. Raises OutputError; leaves nothing half."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handle, name = tempfile.mkstemp(prefix=".almanac-", dir=path.parent)
        try:
            with os.fdopen(handle, "wb") as stream:
                stream.write(data)
                stream.flush()
                os.fsync(stream.fileno())
            os.chmod(name, 0o644)
            os.replace(name, path)
        except BaseException:
            Path(name).unlink(missing_ok=True)
            raise
    except OSError as problem:
        raise OutputError(
            str(path),
            f"it cannot be written ({problem.strerror})",
            "Choose a folder that exists and that you may write to.",
        ) from problem


def check_target(path: Path, source: object, allowed: tuple[str, ...]) -> None:
    """Refuse, before any work, a target that is the source, a folder, or of an unknown ending."""
    shown = str(path)
    if path.suffix.lower() not in allowed:
        raise OutputError(
            shown,
            f"the ending {path.suffix!r} names no format" if path.suffix else "it has no ending",
            f"Use one of {', '.join(allowed)}.",
        )
    if path.is_dir():
        raise OutputError(shown, "this is a folder", "Name a file.")
    if (
        isinstance(source, str | os.PathLike)
        and path.exists()
        and os.path.exists(source)
        and os.path.samefile(path, source)
    ):
        raise OutputError(shown, "this is the source itself, which is never written to", "Choose another name.")
