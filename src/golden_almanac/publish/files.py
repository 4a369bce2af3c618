"""Files are written whole or not at all."""

from __future__ import annotations

import errno
import os
import tempfile
from pathlib import Path

from ..core.errors import OutputError

#: What every format that we write says of itself, as its writer puts it: a text that only names us is not ours.
_MARKS = (
    b'name="generator" content="Golden Almanac"',
    b"/Keywords(Golden Almanac)",
    b"<!-- Golden Almanac -->",
    b"X-Mailer: Golden Almanac",
    b"Software\0Golden Almanac",
    b"<dc:title>Golden Almanac</dc:title>",
    b'"format": "golden-almanac/',
)
_OFFICE_MARK = b"<cp:keywords>Golden Almanac</cp:keywords>"
#: Bytes at both ends of a file in which the mark is looked for.
_LOOKED_AT = 400_000


def made_by_us(path: Path, data: bytes = b"") -> bool:
    """Whether a file was written by this program: it says so, or it is a table with the same head as `data`."""
    try:
        with path.open("rb") as stream:
            opening = stream.read(_LOOKED_AT)
            stream.seek(max(len(opening), path.stat().st_size - _LOOKED_AT))
            whole = opening + stream.read()
    except OSError:
        return False
    if not whole.strip():
        return True
    if any(mark in whole for mark in _MARKS):
        return True
    if opening[:2] == b"PK":
        return _says_so(path)
    head = data.split(b"\n", 1)[0]
    same_head = b"," in head and opening.split(b"\n", 1)[0].rstrip(b"\r") == head.rstrip(b"\r")
    return same_head or (opening[:4] == b"PAR1" and data[:4] == b"PAR1" and b"golden" in whole.lower())


def _says_so(path: Path) -> bool:
    """Whether an office file names this program among its properties."""
    import zipfile

    try:
        with zipfile.ZipFile(path) as parts:
            return any(_OFFICE_MARK in parts.read(name) for name in parts.namelist() if name.startswith("docProps/"))
    except (zipfile.BadZipFile, OSError, KeyError):
        return False


def refuse_to_overwrite(path: Path, data: bytes = b"") -> None:
    """Raises OutputError where another program's or a person's file would be lost."""
    if path.is_file() and not made_by_us(path, data):
        raise OutputError(
            str(path),
            "there is a file of that name which this program did not make",
            "Choose another name, or say --replace (replace=True) to write over it.",
        )


def write_whole(path: Path, data: bytes, *, replace: bool = True) -> None:
    """Write to a temporary file beside the target, then rename. Without `replace` a file that we did not make is not
    written over. Raises OutputError; leaves nothing half."""
    if not replace:
        refuse_to_overwrite(path, data)
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
            "Make room, or choose another folder."
            if problem.errno in (errno.ENOSPC, errno.EDQUOT, errno.EFBIG)
            else "Choose a folder that exists and that you may write to.",
        ) from problem


def check_target(path: Path, source: object, allowed: tuple[str, ...], *, replace: bool = True) -> None:
    """Refuse, before any work, a target that is the source, a folder, of an unknown ending, or, without `replace`, a
    file that this program did not make."""
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
    # Of tables only their head can tell, when it is known.
    if not replace and path.suffix.lower() not in (".csv", ".parquet"):
        refuse_to_overwrite(path)
