"""One line for a terminal."""

from __future__ import annotations

from dataclasses import dataclass

from ...support.printable import made_visible


@dataclass(frozen=True, slots=True)
class Line:
    """Pieces of text, each with how it looks: "" (plain), bold, dim, italic or accent. Further rows of a long line
    stand below its `indent`; with `bullet` a point stands before it."""

    pieces: tuple[tuple[str, str], ...] = ()
    indent: int = 0
    bullet: bool = False

    @made_visible
    def __str__(self) -> str:
        return " " * self.indent + ("  · " if self.bullet else "") + "".join(text for text, _ in self.pieces)


BLANK = Line()


def line(text: str, look: str = "", indent: int = 0) -> Line:
    return Line(((text, look),), indent)


def bullet(text: str) -> Line:
    return Line(((text, ""),), bullet=True)
