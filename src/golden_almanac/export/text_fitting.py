"""Whether a text fits its box: lines and heights by the widths of the house fonts.

A viewer without those fonts shows another, mostly a wider one, so a margin is kept.
"""

from __future__ import annotations

from functools import lru_cache

from ..charts import theme

#: How much wider than ours the font of another machine may be (DejaVu Sans, which LibreOffice takes, is by a quarter).
_WIDER = 1.3
#: The height of a line beside the size of its letters, and what a box keeps free at both ends, in inches.
LEADING, INSET = 1.22, 0.1
_POINTS = 72.0


@lru_cache(maxsize=8)
def _advances(name: str) -> tuple[dict[int, float], float]:
    """The width of each letter in a font, beside the size of its letters, and that of a letter it does not have."""
    from fontTools.ttLib import TTFont

    with TTFont(theme.font_file(name), lazy=True) as font:
        size = font["head"].unitsPerEm
        widths = font["hmtx"]
        letters = {code: widths[glyph][0] / size for code, glyph in font.getBestCmap().items()}
    return letters, 1.0


def _width(text: str, font: str) -> float:
    letters, other = _advances(font)
    return sum(letters.get(ord(letter), other) for letter in text)


def lines(text: str, size: float, width: float, *, serif: bool = False, bold: bool = False) -> int:
    """How many lines a text of so many points takes in a box of so many inches; words longer than a line are broken."""
    font = f"Source{'Serif4' if serif else 'Sans3'}-{'SemiBold' if bold else 'Regular'}.ttf"
    room = (width - 2 * INSET) * _POINTS / size / _WIDER
    space = _width(" ", font)
    count = 0
    for paragraph in text.split("\n") or [""]:
        count, used = count + 1, 0.0
        for word in paragraph.split(" "):
            size_of = _width(word, font)
            if used and used + space + size_of > room:
                count, used = count + 1, 0.0
            if size_of > room:
                more = int(size_of // room)
                count, size_of = count + more, size_of - more * room
            used += size_of + (space if used else 0.0)
    return count


def height(text: str, size: float, width: float, *, serif: bool = False, bold: bool = False) -> float:
    """The height in inches of a box that a text of so many points fits into."""
    return lines(text, size, width, serif=serif, bold=bold) * size * LEADING / _POINTS + INSET


def largest(
    text: str, sizes: tuple[float, ...], width: float, room: float, *, serif: bool = False, bold: bool = False
) -> float:
    """The first of the sizes (largest first) at which a text fits into a box; the last where none does."""
    fits = (size for size in sizes if height(text, size, width, serif=serif, bold=bold) <= room)
    return next(fits, sizes[-1])


def one_line(text: str, size: float, width: float, *, bold: bool = False) -> str:
    """The text cut to one line of a box of so many inches."""
    kept = " ".join(text.split())
    while len(kept) > 1 and lines(kept, size, width, bold=bold) > 1:
        kept = kept[: max(1, int(len(kept) * 0.9) - 1)].rstrip("… ") + "…"
    return kept
