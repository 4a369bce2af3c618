"""The kit of the attacks: run a command in this process, and read every text out of whatever was written."""

from __future__ import annotations

import email
import io
import re
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

from ..commands import Done
from ..commands import run as attack

#: Words of libraries and of Python that no reader should ever meet.
LIBRARY_WORDS = re.compile(
    r"Traceback|(?:Catalog|Binder|Parser|Conversion|Invalid Input|IO|Out of Memory) Error|NoneType|not iterable|"
    r"object has no attribute|pyarrow|duckdb\.|sqlite3\.|\bArrow(?:Invalid|TypeError)\b|list index out of range|"
    r"\[Errno|codec can't|KeyError|ValueError|TypeError|IndexError|Segmentation|<class '|sqlglot"
)


def refused(*arguments: object) -> str:
    """The one sentence that a command is refused with: status 2, nothing on standard output, no library word."""
    done = attack(*arguments)
    assert done.returncode == 2, (done.returncode, done.stdout[:500], done.stderr[:500])
    assert done.stdout == ""
    lines = done.stderr.strip().splitlines()
    assert len(lines) == 1, done.stderr
    sound(done)
    assert len(done.stderr) <= 1_000
    return done.stderr


def done(*arguments: object) -> str:
    """What a command that must work wrote to standard output."""
    found = attack(*arguments)
    assert found.returncode == 0, found.stderr
    sound(found)
    return found.stdout


def sound(found: Done) -> None:
    """No library word, no control character on any screen."""
    for text in (found.stdout, found.stderr):
        assert not LIBRARY_WORDS.search(text), LIBRARY_WORDS.search(text)
        assert not re.search(r"[\x00-\x08\x0b-\x1f\x7f-\x9f\u202a-\u202e\u2066-\u2069]", text), repr(text[:300])


def texts(path: Path) -> Iterator[tuple[str, str]]:
    """Every text in a file or folder, with where it stands: members of packages, pages, parts of mails."""
    if path.is_dir():
        for one in sorted(path.rglob("*")):
            if one.is_file():
                yield from texts(one)
        return
    yield from _texts(path.name, path.read_bytes())


def _texts(name: str, data: bytes) -> Iterator[tuple[str, str]]:
    if data[:2] == b"PK":
        with zipfile.ZipFile(io.BytesIO(data)) as pack:
            for member in pack.namelist():
                yield from _texts(f"{name}/{member}", pack.read(member))
    elif data[:4] == b"%PDF":
        from pypdf import PdfReader

        reader = PdfReader(io.BytesIO(data))
        yield name, "\n".join(page.extract_text() for page in reader.pages) + str(reader.metadata)
    elif name.endswith(".eml"):
        for part in email.message_from_bytes(data).walk():
            if part.get_content_maintype() == "text":
                yield f"{name}/{part.get_content_type()}", part.get_payload(decode=True).decode("utf-8", "replace")  # type: ignore[union-attr]
        yield name, data.decode("utf-8", "replace")
    elif data[:8] != b"\x89PNG\r\n\x1a\n":
        yield name, data.decode("utf-8", "replace")
    else:
        yield name, data.decode("latin-1")


def nowhere(words: list[str], path: Path) -> None:
    """None of the words stands in anything that was written."""
    for place, text in texts(path):
        for word in words:
            assert word not in text, (word, place)


@contextmanager
def within(folder: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """Inside, the folder is where commands run."""
    with monkeypatch.context() as patch:
        patch.chdir(folder)
        yield
