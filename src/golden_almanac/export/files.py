"""Files are written whole or not at all."""

from __future__ import annotations

import errno
import os
import stat
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

from ..support.errors import OutputError

#: What every format that we write says of itself, as its writer puts it: a text that only names us is not ours.
_MARKS = (
    b'name="generator" content="Golden Almanac"',
    b"/Keywords(Golden Almanac)",
    # As releases of the compiler before 0.15 write it.
    b"/Keywords (Golden Almanac)",
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
    if path.is_dir():
        raise OutputError(str(path), "this is a folder", "Choose another name.")
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
    write_all([(path, data)])


def write_all(paths: Sequence[tuple[Path, bytes]]) -> None:
    """Write several files: all of them beside their targets first, so that a full disk leaves none in place, then each
    renamed. Raises OutputError."""
    waiting: list[tuple[Path, Path]] = []
    try:
        for place, (path, data) in enumerate(paths):
            with refusals(path):
                path.parent.mkdir(parents=True, exist_ok=True)
                beside = path.parent / f".almanac-{os.getpid()}-{place}"
                beside.unlink(missing_ok=True)
                waiting.append((beside, path))
                write_new(beside, data, mode_of(path))
        for beside, path in waiting:
            with refusals(path):
                os.replace(beside, path)
    finally:
        for beside, _ in waiting:
            beside.unlink(missing_ok=True)


def write_new(path: Path, data: bytes, mode: int | None) -> None:
    """A file that is not there yet, on the disk when this returns; by the caller's umask, or with a mode to be kept."""
    handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL | getattr(os, "O_BINARY", 0), 0o666)
    with os.fdopen(handle, "wb") as stream:
        stream.write(data)
        stream.flush()
        os.fsync(stream.fileno())
    if mode is not None:
        os.chmod(path, mode)


def mode_of(path: Path) -> int | None:
    """The mode of the file that will be replaced; None where there is none."""
    return stat.S_IMODE(path.stat().st_mode) if path.is_file() else None


def synced(folder: Path) -> None:
    """The names in a folder on the disk, where the system can do that."""
    try:
        handle = os.open(folder, os.O_RDONLY)
    except OSError:
        return
    try:
        os.fsync(handle)
    except OSError:
        return
    finally:
        os.close(handle)


@contextmanager
def refusals(path: Path) -> Iterator[None]:
    """Inside, what the system refuses is told as an OutputError of this path."""
    try:
        yield
    except (OSError, ValueError) as problem:
        room = isinstance(problem, OSError) and problem.errno in (errno.ENOSPC, errno.EDQUOT, errno.EFBIG)
        why = "its name cannot be that of a file" if isinstance(problem, ValueError) else problem.strerror
        raise OutputError(
            str(path),
            f"it cannot be written ({why})",
            "Make room, or choose another folder."
            if room
            else "Choose a folder that exists and that you may write to.",
        ) from problem


def check_folder(folder: Path) -> None:
    """Refuse, before any work, a folder that cannot be written to, or made. Raises OutputError."""
    with refusals(folder):
        # Asked whether such a path exists, Python says no instead of refusing it.
        if "\0" in str(folder):
            raise ValueError(folder)
        if folder.is_symlink() or folder.exists():
            if not folder.is_dir():
                raise OutputError(str(folder), "this is a file, not a folder", "Choose another name.")
            at = folder
        else:
            at = folder.absolute()
            # Names that are too long are found out here, not when everything has been made.
            while not at.exists():
                if len(os.fsencode(at.name)) > _LONGEST_NAME:
                    raise OutputError(str(folder), "its name is too long", "Choose a shorter one.")
                at = at.parent
            if not at.is_dir():
                raise OutputError(str(at), "this is a file, not a folder", "Choose another folder.")
        trial = at / f".almanac-{os.getpid()}-trial"
        trial.unlink(missing_ok=True)
        os.close(os.open(trial, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600))
        trial.unlink()


#: Bytes of a name that file systems take.
_LONGEST_NAME = 255


def check_target(path: Path, source: object, allowed: tuple[str, ...], *, replace: bool = True) -> None:
    """Refuse, before any work, a target that is the source, a folder, of an unknown ending, or, without `replace`, a
    file that this program did not make."""
    shown = str(path)
    if len(os.fsencode(path.name)) > _LONGEST_NAME - 20 or "\0" in shown:
        raise OutputError(shown, "its name cannot be that of a file", "Choose a shorter, plain one.")
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
    check_folder(path.parent)
    # Of tables only their head can tell, when it is known.
    if not replace and path.suffix.lower() not in (".csv", ".parquet"):
        refuse_to_overwrite(path)
