"""What published files say, read back from them: the text of every format in order, line by line.

The formats are read as anybody's reader would, not by what this program knows of how it wrote them.
"""

from __future__ import annotations

import io
import re
import zipfile
from collections.abc import Callable
from email import message_from_bytes, policy
from html.parser import HTMLParser
from xml.etree import ElementTree

from ..support.errors import SourceError

#: Bytes of an office file unpacked at most.
_MOST_UNPACKED = 400_000_000
_NUMBER = re.compile(r"\d[\d.,\u00a0\u202f]*\d|\d")


class _Page(HTMLParser):
    """The text of a page, with the values that its cells are sorted by and what screen readers say."""

    def __init__(self) -> None:
        super().__init__(convert_charrefs=True)
        self.lines: list[str] = []
        self._unseen = 0

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self._unseen += tag in ("script", "style")
        # Values, what screen readers say, and what a mark says to a pointer.
        self.lines += [
            value
            for name, value in attrs
            if value and (name in ("data-value", "value", "aria-label", "alt") or name.startswith("data-t"))
        ]

    def handle_endtag(self, tag: str) -> None:
        self._unseen -= tag in ("script", "style")

    def handle_data(self, data: str) -> None:
        if not self._unseen and data.strip():
            self.lines.append(" ".join(data.split()))


def _page(content: bytes) -> list[str]:
    parser = _Page()
    parser.feed(content.decode("utf-8"))
    return parser.lines


def _lines(content: bytes) -> list[str]:
    return [line.strip() for line in content.decode("utf-8").splitlines() if line.strip()]


def _office(content: bytes) -> list[str]:
    """Every text in the parts of an office file, cells, formulas, charts and workbooks within it too."""
    lines: list[str] = []
    with zipfile.ZipFile(io.BytesIO(content)) as parts:
        if sum(one.file_size for one in parts.infolist()) > _MOST_UNPACKED:
            raise ValueError("it is too large")
        for name in sorted(parts.namelist()):
            if name.endswith(".xlsx"):
                lines += _office(parts.read(name))
            elif name.endswith(".xml") and not name.startswith(("docProps/", "_rels/")) and "/theme/" not in name:
                lines += _texts(parts.read(name))
    return lines


def _texts(content: bytes) -> list[str]:
    """The texts of a part; what one paragraph or cell says stands on one line."""
    lines = []
    whole = ("}p", "}si")
    root = ElementTree.fromstring(content)
    inside: set[int] = set()
    for one in root.iter():
        if one.tag.endswith(whole):
            inside.update(map(id, one.iter()))
            lines.append("".join(one.itertext()).strip())
        elif id(one) not in inside and one.text and one.text.strip():
            lines.append(one.text.strip())
    return [line for line in lines if line]


def _pdf(content: bytes) -> list[str]:
    from pypdf import PdfReader

    return [
        " ".join(line.split())
        for page in PdfReader(io.BytesIO(content)).pages
        for line in page.extract_text().splitlines()
        if line.strip()
    ]


def _mail(content: bytes) -> list[str]:
    message = message_from_bytes(content, policy=policy.default)
    lines = [str(message[name]) for name in ("Subject", "From", "To") if message[name]]
    for part in message.walk():
        kind = part.get_content_type()
        if kind == "text/html":
            lines += _page(part.get_content().encode("utf-8"))
        elif kind == "text/plain":
            lines += _lines(part.get_content().encode("utf-8"))
    return lines


_READERS: dict[str, Callable[[bytes], list[str]]] = {
    "html": _page,
    "svg": _page,
    "md": _lines,
    "json": _lines,
    "csv": _lines,
    "toml": _lines,
    "xlsx": _office,
    "pptx": _office,
    "docx": _office,
    "pdf": _pdf,
    "eml": _mail,
}


def readable(name: str) -> bool:
    """Whether text can be read back from a file of that name."""
    return name.rpartition(".")[2].lower() in _READERS


def text_in(name: str, content: bytes) -> list[str]:
    """The lines of a published file. Raises SourceError where it can no longer be read as what it is."""
    try:
        return _READERS[name.rpartition(".")[2].lower()](content)
    except Exception as problem:
        # Whoever changed the file may have left anything in it.
        raise SourceError(
            name, "it can no longer be read as what it was published as", "Publish it again."
        ) from problem


def numbers_in(line: str) -> list[str]:
    """The numbers that a line says, as written."""
    return _NUMBER.findall(line)


def without_numbers(line: str) -> str:
    """A line with a mark in the place of each number."""
    return _NUMBER.sub("#", line)
