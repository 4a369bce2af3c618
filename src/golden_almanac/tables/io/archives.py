"""Compressed files: unpacked to a temporary file, within bounds, and read as what they hold."""

from __future__ import annotations

import errno
import shutil
import tempfile
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from ...support.errors import BudgetError, SourceError

ENDINGS = (".gz", ".zst", ".zip")
#: What unpacks to more than this, or to more than 1,000 times its size, is not opened.
MOST_UNPACKED, MOST_RATIO = 20_000_000_000, 1000
_BLOCK = 1 << 20


@contextmanager
def unpacked(path: Path) -> Iterator[Path]:
    """The path of the unpacked file, named as within; gone when the block ends. Raises SourceError."""
    folder = Path(tempfile.mkdtemp(prefix="almanac-"))
    try:
        name, stream = _open(path)
        target = folder / name
        limit = min(MOST_UNPACKED, max(50_000_000, MOST_RATIO * path.stat().st_size))
        with stream as source, target.open("wb") as out:
            written = 0
            while block := source.read(_BLOCK):
                written += len(block)
                if written > limit:
                    raise SourceError(
                        str(path),
                        "it unpacks to far more than its size, and was not read further",
                        "Unpack it yourself and look at it.",
                    )
                out.write(block)
        yield target
    except (
        OSError,
        EOFError,
        ValueError,
        zlib.error,
        zipfile.BadZipFile,
        NotImplementedError,
        RuntimeError,
    ) as problem:
        if isinstance(problem, OSError) and problem.errno in (errno.ENOSPC, errno.EDQUOT, errno.EFBIG):
            raise BudgetError(
                f"There is no room to unpack {path} into {folder.parent}. Make room, or name another folder in TMPDIR."
            ) from problem
        raise SourceError(str(path), "it cannot be unpacked", "It may be cut off; pack it again.") from problem
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def _open(path: Path) -> tuple[str, Any]:
    ending = path.suffix.lower()
    inner = path.name[: -len(ending)] or "table.csv"
    if ending == ".gz":
        import gzip

        return inner, gzip.open(path, "rb")
    if ending == ".zst":
        import pyarrow as pa

        return inner, pa.CompressedInputStream(pa.OSFile(str(path)), "zstd")
    pack = zipfile.ZipFile(path)
    members = [one for one in pack.infolist() if not one.is_dir() and not one.filename.startswith("__MACOSX")]
    if len(members) != 1:
        raise SourceError(str(path), f"it holds {len(members)} files", "Pack just one, or unpack it and name one.")
    if members[0].flag_bits & 1:
        raise SourceError(str(path), "it is locked with a password", "Unpack it first.")
    return Path(members[0].filename).name or "table.csv", pack.open(members[0])
