"""The folders of a brief's editions: where they are, their index, and that two runs never meet.

An edition is a folder of its own, put in place as a whole. The index is a SQLite file beside them; it is made from the
folders, so that whatever stopped a run before, the next one finds it whole.
"""

from __future__ import annotations

import hashlib
import os
import sqlite3
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import closing, contextmanager
from pathlib import Path

from ..reports.edition_record import RECORD, EditionRecord, record_of
from ..support.errors import OutputError, SourceError

INDEX = "editions.sqlite"
#: Seconds that a run waits for another one, and between two looks.
_WAIT, _LOOK = 120.0, 0.2
_TABLE = (
    "CREATE TABLE IF NOT EXISTS editions (edition TEXT PRIMARY KEY, as_of TEXT, title TEXT, headline TEXT, "
    "source TEXT, fingerprint TEXT, brief TEXT, previous TEXT, files INTEGER, bytes INTEGER, seconds REAL, alerts TEXT)"
)


def read_record(folder: Path) -> EditionRecord:
    """The record of an edition. Raises SourceError where the folder is none."""
    path = folder / RECORD
    try:
        return record_of(path.read_text(encoding="utf-8"))
    except (OSError, UnicodeDecodeError) as problem:
        held = [one.name for one in sorted(folder.iterdir()) if (one / RECORD).is_file()] if folder.is_dir() else []
        advice = "Name a folder that publish made."
        if held:
            advice = f"It holds editions: name one of them, such as {folder / held[-1]}."
        raise SourceError(str(folder), f"it is no edition: {RECORD} cannot be read", advice) from problem
    except ValueError as problem:
        raise SourceError(
            str(path), f"it is no record of an edition ({problem})", "Publish the edition again, or remove it."
        ) from problem


def editions_in(root: Path) -> list[tuple[Path, EditionRecord]]:
    """The editions in a folder, oldest first."""
    if not root.is_dir():
        return []
    found = [(path, read_record(path)) for path in sorted(root.iterdir()) if (path / RECORD).is_file()]
    return sorted(found, key=lambda pair: (pair[1].as_of or "", _number(pair[1].edition), pair[1].edition))


def _number(edition: str) -> int:
    """The number behind a day, of a second edition of it."""
    last = edition[10:].removeprefix("-")
    return int(last) if last.isdigit() else 1


def before(root: Path, as_of: str | None, name: str) -> tuple[Path, EditionRecord] | None:
    """The edition that one is compared with: the last of an earlier day, or of the same day before it."""
    earlier = [
        pair
        for pair in editions_in(root)
        if pair[1].edition != name and ((pair[1].as_of or "") < (as_of or "") or _same_day_before(pair[1], as_of, name))
    ]
    return earlier[-1] if earlier else None


def _same_day_before(record: EditionRecord, as_of: str | None, name: str) -> bool:
    return record.as_of == as_of and _number(record.edition) < _number(name)


def name_for(root: Path, as_of: str | None, fingerprint: str, brief: str) -> str:
    """What an edition is called: by the last day of its data. The same source and brief make the same edition again;
    another source or brief for the same day makes a second one."""
    day = as_of or f"edition-{fingerprint[:8]}"
    number = 1
    while True:
        name = day if number == 1 else f"{day}-{number}"
        if not (root / name / RECORD).is_file():
            return name
        record = read_record(root / name)
        if record.source["fingerprint"] == fingerprint and record.brief["sha256"] == brief:
            return name
        number += 1


def check_untouched(folder: Path, record: EditionRecord, names: Sequence[str]) -> None:
    """Raises SourceError where files of an edition that others are compared with are not as they were published."""
    known = {one["path"]: one["sha256"] for one in record.files}
    for name in names:
        path = folder / name
        if name in known and (not path.is_file() or digest(path.read_bytes()) != known[name]):
            raise SourceError(
                str(path),
                "it is not as it was published, so nothing can be compared with it",
                f"See golden-almanac verify {folder}; publish that edition again, or remove its folder.",
            )


def digest(content: bytes) -> str:
    return hashlib.sha256(content).hexdigest()


def indexed(root: Path, seconds: dict[str, float] | None = None) -> None:
    """The index, made to say what the folders say; `seconds` are what a run took."""
    with closing(sqlite3.connect(root / INDEX, timeout=30)) as index, index:
        index.execute(_TABLE)
        known = {row[0]: row[1] for row in index.execute("SELECT edition, seconds FROM editions")}
        rows = []
        for _, record in editions_in(root):
            took = (seconds or {}).get(record.edition, known.get(record.edition))
            rows.append((
                record.edition, record.as_of, record.title, record.headline, record.source["name"],
                record.source["fingerprint"], record.brief["sha256"], record.previous, len(record.files),
                sum(one["bytes"] for one in record.files), took, "\n".join(record.alerts),
            ))  # fmt: skip
        index.execute("DELETE FROM editions")
        index.executemany(f"INSERT INTO editions VALUES ({','.join('?' * 12)})", rows)


@contextmanager
def alone(brief: Path, waiting: Callable[[str], None]) -> Iterator[None]:
    """Inside, no other run publishes the brief: its file is held. A run that is killed lets go of it. Raises
    OutputError where another one takes too long."""
    try:
        handle = os.open(brief, os.O_RDONLY)
    except OSError:
        # A brief that is no file of its own has nobody to meet.
        yield
        return
    try:
        _locked(handle, brief, waiting)
        yield
    finally:
        os.close(handle)


def _locked(handle: int, brief: Path, waiting: Callable[[str], None]) -> None:
    began, told = time.monotonic(), False
    while not _tried(handle):
        if not told:
            waiting(f"waiting for another run that publishes {brief.name}")
            told = True
        if time.monotonic() - began > _WAIT:
            raise OutputError(
                str(brief), "another run is publishing it", "Wait until it is done, or stop it, and publish again."
            )
        time.sleep(_LOOK)


def _tried(handle: int) -> bool:
    try:
        import fcntl
    except ImportError:
        # Where files cannot be held so, each edition is still put in place as a whole.
        return True
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return False
    except OSError:
        # Some network folders hold nothing.
        return True
    return True
