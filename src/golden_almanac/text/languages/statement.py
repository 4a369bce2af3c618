"""What is said, with what it was put together from: a number in it still is the figure that it stands for.

A `Statement` is its text, for whoever wants text, and its pieces, for whoever wants to know which of them are figures:
a page writes the figure beside the number, a check asks for it. Nobody reads numbers back out of finished prose.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from math import isclose
from typing import Any


class Digits(str):
    """The digits of a number as they are written: `size` is what they say, `decimals` how many stand behind the point,
    `place` the power of ten that was rounded to (2 where 27,651 is written as 27,700)."""

    size: float
    decimals: int
    place: int

    def __add__(self, other: str) -> Statement:
        return statement((self, other))

    def __radd__(self, other: str) -> Statement:
        return statement((other, self))


class Quantity(str):
    """A number as it is written, with its unit; `value` is the figure, unrounded, as it was to be said; `written` the
    pieces of its text, its digits among them."""

    value: float
    written: tuple[str, ...]

    @property
    def digits(self) -> Digits | None:
        """Its digits; None where it is written without any, or with several numbers."""
        found = [piece for piece in self.written if isinstance(piece, Digits)]
        return found[0] if len(found) == 1 else None

    def __add__(self, other: str) -> Statement:
        return statement((self, other))

    def __radd__(self, other: str) -> Statement:
        return statement((other, self))


class Statement(str):
    """A text and the pieces that make it: plain texts and quantities, in their order."""

    pieces: tuple[str, ...]

    def __add__(self, other: str) -> Statement:
        return statement((self, other))

    def __radd__(self, other: str) -> Statement:
        return statement((other, self))

    def strip(self, letters: str | None = None, /) -> str:
        """As of a text; what is taken off comes off the pieces at the ends."""
        text = str.strip(self, letters)
        start = len(self) - len(self.lstrip(letters))
        return self if text == self else statement(_cut(self.pieces, start, start + len(text)))


def digits(text: str, size: float, decimals: int, place: int) -> Digits:
    """The digits of a number; see `Digits`."""
    written = Digits(text)
    written.size, written.decimals, written.place = float(size), decimals, place
    return written


def quantity(text: str, value: float) -> Quantity:
    """A number as written, and the figure that it is."""
    written = Quantity(text)
    written.value, written.written = float(value), pieces_of(text)
    return written


def statement(pieces: Iterable[str]) -> Statement:
    """Pieces put together; statements among them by their own pieces."""
    flat = tuple(part for piece in pieces for part in pieces_of(piece) if part)
    made = Statement("".join(flat))
    made.pieces = flat
    return made


def pieces_of(text: str) -> tuple[str, ...]:
    """The pieces of a text: its own, or itself."""
    return text.pieces if isinstance(text, Statement) else (text,)


def spelled(number: str) -> str:
    """What a number is written with, its digits known; the number itself where nothing of it is known."""
    return statement(number.written) if isinstance(number, Quantity) else number


def is_known(text: object) -> bool:
    """Whether a text knows numbers in it."""
    return isinstance(text, Quantity | Digits | Statement)


def joined(between: str, texts: Sequence[str]) -> Statement:
    """Texts one behind the other, as `str.join` puts them."""
    return statement(part for place, text in enumerate(texts) for part in ((between, text) if place else (text,)))


def capital(text: str) -> str:
    """The first letter upper case, the rest as it is."""
    if not isinstance(text, Statement) or not text.pieces:
        return text[:1].upper() + text[1:]
    first = text.pieces[0]
    if isinstance(first, Digits):
        return text
    if isinstance(first, Quantity):
        return statement((quantity(capital(statement(first.written)), first.value), *text.pieces[1:]))
    return statement((first[:1].upper() + first[1:], *text.pieces[1:]))


def figure_of(number: Quantity, figures: Mapping[str, Any]) -> tuple[str, float] | None:
    """The figure that a number is, by its path (`change_pct`, `parts[2].share`) and value; None for one that is none.

    Figures are compared as the doubles they are, with and without sign, a share also as the percentage that is said of
    it; never by the digits that are written.
    """
    wanted = abs(number.value)
    for path, value in leaves(figures).items():
        size = abs(value)
        if isclose(wanted, size, rel_tol=1e-12) or isclose(wanted, 100 * size, rel_tol=1e-12):
            return path, value
    return None


def leaves(figures: Mapping[str, Any]) -> dict[str, float]:
    """Every number among figures, by its path: `change_pct`, `parts[2].share`."""
    return dict(_leaves(figures))


def _leaves(figures: Any, path: str = "") -> Iterable[tuple[str, float]]:
    if isinstance(figures, Mapping):
        for name, inner in figures.items():
            yield from _leaves(inner, f"{path}.{name}" if path else str(name))
    elif isinstance(figures, list | tuple):
        for place, inner in enumerate(figures):
            yield from _leaves(inner, f"{path}[{place}]")
    elif isinstance(figures, int | float) and not isinstance(figures, bool):
        yield path, float(figures)


def _cut(pieces: Sequence[str], start: int, stop: int) -> list[str]:
    """The pieces between two places of their text; a quantity that is cut is one no longer."""
    kept, at = [], 0
    for piece in pieces:
        low, high = max(start - at, 0), min(stop - at, len(piece))
        if low < high:
            kept.append(piece if (low, high) == (0, len(piece)) else str(piece)[low:high])
        at += len(piece)
    return kept
