"""The files of an edition against the same files made again: number by number, and word by word."""

from __future__ import annotations

import difflib
import math
from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple

from ..export.read_back import numbers_in, readable, text_in, without_numbers
from ..support.errors import SourceError

#: Differences that are named of a file.
_MOST_NAMED = 20
#: Where libraries are of other versions, numbers of more digits than this agree when they are as close as that.
_DIGITS, _CLOSE = 12, 1e-9


class ReadFigure(NamedTuple):
    """A number read back from a file: where it stands, what is said there, and what the source gives."""

    file: str
    place: str
    said: str
    gives: str


def compared(folder: Path, name: str, content: bytes, *, close: bool) -> tuple[list[ReadFigure], list[str]]:
    """The numbers of a published file against the same file made again, and the differences in words; `close` where the
    last digits of long numbers may be others."""
    path = folder / name
    if not path.is_file():
        return [], [f"{name} is gone."]
    published = path.read_bytes()
    if not readable(name):
        return [], [] if published == content else [f"{name} is not the picture that the source gives."]
    wanted = text_in(name, content)
    if published == content:
        return _agreeing(name, wanted, 1), []
    try:
        said = text_in(name, published)
    except SourceError as problem:
        return [], [str(problem)]
    return _by_line(name, said, wanted, close)


def difference(file: str, place: str, said: str, gives: str) -> str:
    """A difference in words."""
    return f"{file}, {place}: says {said}, the source gives {gives}."


def _agreeing(name: str, lines: Sequence[str], first: int) -> list[ReadFigure]:
    return [
        ReadFigure(name, f"line {place}", number, number)
        for place, line in enumerate(lines, start=first)
        for number in numbers_in(line)
    ]


def _by_line(name: str, said: Sequence[str], wanted: Sequence[str], close: bool) -> tuple[list[ReadFigure], list[str]]:
    figures: list[ReadFigure] = []
    wrong: list[str] = []
    matcher = difflib.SequenceMatcher(None, said, wanted, autojunk=False)
    for kind, a, b, c, d in matcher.get_opcodes():
        told, gives = " ".join(said[a:b]), " ".join(wanted[c:d])
        if kind == "equal" or (close and _as_good_as(told, gives)):
            figures += _agreeing(name, said[a:b], a + 1)
            continue
        place = f"line {a + 1}"
        ours, theirs = numbers_in(told), numbers_in(gives)
        inner = difflib.SequenceMatcher(None, ours, theirs, autojunk=False)
        for part, i, j, k, m in inner.get_opcodes():
            if part == "equal":
                figures += [ReadFigure(name, place, one, one) for one in ours[i:j]]
                continue
            one = ReadFigure(name, place, " ".join(ours[i:j]) or "(nothing)", " ".join(theirs[k:m]) or "(nothing)")
            figures.append(one)
            if len(wrong) < _MOST_NAMED:
                wrong.append(f"{difference(*one)} In: {_short(told or gives)}")
        if ours == theirs and told != gives and len(wrong) < _MOST_NAMED:
            wrong.append(f"{name}, {place}: says “{_short(told)}”, the source gives “{_short(gives)}”.")
    return figures, wrong


def _as_good_as(told: str, gives: str) -> bool:
    """Whether two texts differ in nothing but the last digits of long numbers."""
    ours, theirs = numbers_in(told), numbers_in(gives)
    return (
        len(ours) == len(theirs)
        and without_numbers(told) == without_numbers(gives)
        and all(one == other or _near(one, other) for one, other in zip(ours, theirs, strict=True))
    )


def _near(one: str, other: str) -> bool:
    if min(sum(letter.isdigit() for letter in number) for number in (one, other)) <= _DIGITS:
        return False
    try:
        return math.isclose(float(one), float(other), rel_tol=_CLOSE)
    except ValueError:
        return False


def _short(text: str) -> str:
    return text if len(text) <= 160 else f"{text[:157]}…"
