"""Bytes of a text file as UTF-8, with the line ends of today; what could not be read is told."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from ...support.phrasing import phrased, phrased_count
from ..problems import Problem, Step

UTF16 = (b"\xff\xfe", b"\xfe\xff")
_MARK = b"\xef\xbb\xbf"
#: What stands where bytes are no text.
LOST = "\ufffd"
#: Encodings by the names people know.
_SPOKEN = {"utf8": "UTF-8", "utf8-sig": "UTF-8 with BOM", "utf-16": "UTF-16", "cp1252": "windows-1252"}


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Decoded:
    """`data` is the file as plain UTF-8, None where it is that already; `lost` the numbers of lines with bytes that are
    no text, and how such a line begins."""

    encoding: str
    data: bytes | None
    lost: tuple[tuple[int, str], ...] = ()

    @property
    def spoken(self) -> str:
        return _SPOKEN[self.encoding]

    def bytes(self, path: Path) -> bytes:
        return path.read_bytes() if self.data is None else self.data

    def text(self, path: Path) -> str:
        return self.bytes(path).decode("utf-8", errors="replace")

    def problems(self, rows: int) -> tuple[Problem, ...]:
        return tuple(self._problems(rows))

    def _problems(self, rows: int) -> Iterator[Problem]:
        if self.encoding == "cp1252":
            yield Problem(
                check="encoding",
                severity="repair",
                column=None,
                rows=rows,
                repair=phrased("read as windows-1252"),
                message=phrased("The file is not UTF-8; it was read as windows-1252."),
                step=Step(do="decode", facts={"as": "windows-1252"}),
            )
        if self.lost:
            yield Problem(
                check="undecodable bytes",
                severity="repair",
                column=None,
                rows=len(self.lost),
                examples=self.lost[:3],
                repair=phrased("shown as {mark}", mark=LOST),
                message=phrased_count(
                    len(self.lost),
                    "{n} line holds bytes that are no text in {encoding}; each is shown as {mark}. Labels that differ "
                    "in such a letter only are taken for one.",
                    "{n} lines hold bytes that are no text in {encoding}; each is shown as {mark}. Labels that differ "
                    "in such a letter only are taken for one.",
                    encoding=self.spoken,
                    mark=LOST,
                ),
                step=Step(do="replace undecodable bytes"),
            )


def of_head(head: bytes, cut: bool) -> tuple[str, str]:
    """The encoding of a file and the text of its first bytes; `cut` tells that they may end inside a letter."""
    if head.startswith(UTF16):
        return "utf-16", head[: len(head) // 2 * 2].decode("utf-16", errors="ignore")
    if head.startswith(_MARK):
        return "utf8-sig", head.decode("utf-8-sig", errors="ignore")
    try:
        return "utf8", (head[:-4] if cut else head).decode("utf-8", errors="strict")
    except UnicodeDecodeError as problem:
        if cut and problem.start > len(head) - 8:
            return "utf8", head.decode("utf-8", errors="ignore")
        return _better(head), head.decode(_better(head), errors="replace")


def line_ends(text: str) -> str:
    """Line ends of old machines as those of today."""
    return text.replace("\r", "\n") if "\n" not in text and "\r" in text else text


def decoded(path: Path, head: int | None) -> Decoded:
    """The file as UTF-8. By its first `head` bytes it may be left as it is; without, every byte is looked at."""
    with path.open("rb") as stream:
        start = stream.read(head if head is not None else -1)
    encoding, text = of_head(start, head is not None and len(start) == head)
    old = "\n" not in text and "\r" in text
    if head is not None and encoding == "utf8" and not old:
        return Decoded(encoding=encoding, data=None)
    whole = start if head is None else path.read_bytes()
    if head is not None and encoding == "utf8-sig" and not old:
        return Decoded(encoding=encoding, data=whole[len(_MARK) :])
    if encoding in ("utf8", "cp1252"):
        # The whole file tells better than its first lines.
        encoding = _better(whole)
    name = "utf-8-sig" if encoding in ("utf8", "utf8-sig") else encoding
    had = whole.count(LOST.encode()) if name == "utf-8-sig" else 0
    made = line_ends(whole.decode(name, errors="replace"))
    lost: tuple[tuple[int, str], ...] = ()
    if made.count(LOST) > had:
        lines = enumerate(made.split("\n"), start=1)
        lost = tuple((number, line.strip()[:80]) for number, line in lines if LOST in line)
    return Decoded(encoding=encoding, data=made.encode("utf-8"), lost=lost)


def _better(data: bytes) -> str:
    """UTF-8 with a few bytes that are none, or windows-1252: whichever leaves fewer letters unread."""
    read = data.decode("utf-8", errors="surrogateescape")
    wrong = sum(1 for letter in read if "\udc80" <= letter <= "\udcff") if not data.isascii() else 0
    if not wrong:
        return "utf8"
    right = sum(1 for letter in read if letter > "\x7f") - wrong
    return "utf8" if right >= wrong else "cp1252"
