"""A finished figure as it is saved: on dark paper, with right-to-left letters in the order they are read in."""

from __future__ import annotations

import warnings
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import replace
from typing import Any

from ..support.printable import visible
from . import theme
from .look import Look, worn

#: What of an artist has a colour: getter and setter.
_COLOURS = (
    ("get_color", "set_color"),
    ("get_facecolor", "set_facecolor"),
    ("get_edgecolor", "set_edgecolor"),
    ("get_markerfacecolor", "set_markerfacecolor"),
    ("get_markeredgecolor", "set_markeredgecolor"),
)


@contextmanager
def unwarned() -> Iterator[None]:
    """Letters that no font has are drawn as a box; nobody needs to be warned of each."""
    with warnings.catch_warnings():
        warnings.filterwarnings("ignore", message="Glyph .* missing from font", category=UserWarning)
        yield


@contextmanager
def saved(figure: Any, *, dark: bool, shaped: bool) -> Iterator[None]:
    """The figure in the colours and fonts of the look that is worn, those of dark paper where asked, without control
    characters in its texts, those from right to left `shaped` for a renderer that only goes left to right;
    afterwards it is as it was."""
    undo: list[tuple[Any, Any]] = []
    look = worn()
    turned = look.turned(dark=dark)
    families = _families(look)
    try:
        for artist in figure.findobj():
            if turned:
                undo += _turned(artist, turned)
            if families:
                undo += _in_fonts(artist, families)
            undo += _lettered(artist, shaped)
        yield
    finally:
        for setter, value in reversed(undo):
            setter(value)


def _turned(artist: Any, colours: Mapping[str, str]) -> list[tuple[Any, Any]]:
    import numpy as np
    from matplotlib.colors import to_hex, to_rgba

    undo = []
    # All colours are read before any is set: a marker's may follow its line's.
    found = [
        (getattr(artist, get)(), getattr(artist, put))
        for get, put in _COLOURS
        if hasattr(artist, get) and hasattr(artist, put)
    ]
    for before, setter in found:
        if isinstance(before, str) and before in ("none", "None", "auto"):
            continue
        rows = np.atleast_2d(before) if not isinstance(before, str) else np.array([to_rgba(before)])
        if rows.dtype.kind not in "fi" or not rows.size:
            continue
        plain = [to_hex(row[:3]) for row in rows]
        after = [
            (*to_rgba(colours.get(one.upper(), one))[:3], row[3] if len(row) > 3 else 1.0)
            for one, row in zip(plain, rows, strict=True)
        ]
        several = not isinstance(before, str) and np.ndim(before) > 1
        setter(after if several else after[0])
        undo.append((setter, before))
    return undo


def _families(look: Look) -> dict[str, str]:
    """The families of the house that are others in a look, whose files Matplotlib gets to know."""
    from matplotlib import font_manager

    for name, path in look.fonts.items():
        family = look.serif if name.startswith("serif") else look.sans
        _known(font_manager, str(path), family, 600 if name.endswith("bold") else 400)
    pairs = ((theme.SANS, look.sans), (theme.SERIF, look.serif))
    return {house: own for house, own in pairs if own != house}


def _known(manager: Any, path: str, family: str, weight: int) -> None:
    """A font in the list of those that there are, under the family and the weight that it is asked for by: a bold often
    bears a family of its own."""
    entries = manager.fontManager.ttflist
    if any((one.fname, one.name, one.weight) == (path, family, weight) for one in entries):
        return
    manager.fontManager.addfont(path)
    entries.append(replace(entries[-1], name=family, weight=weight))


def _in_fonts(artist: Any, families: Mapping[str, str]) -> list[tuple[Any, Any]]:
    """A text in the fonts of a look."""
    from matplotlib.text import Text

    if not isinstance(artist, Text):
        return []
    before = artist.get_fontfamily()
    after = [families.get(name, name) for name in before]
    if after == before:
        return []
    artist.set_fontfamily(after)
    return [(artist.set_fontfamily, before)]


def _lettered(artist: Any, shaped: bool) -> list[tuple[Any, Any]]:
    """A text as it can be drawn: control characters spelled out, which no SVG may hold, and its letters in order."""
    from matplotlib.text import Text

    if not isinstance(artist, Text):
        return []
    before = artist.get_text()
    after = in_order(visible(before)) if shaped else visible(before)
    if after == before:
        return []
    artist.set_text(after)
    return [(artist.set_text, before)]


def in_order(text: str) -> str:
    """A text with its right-to-left letters joined and in the order in which they are drawn from the left (Unicode
    bidirectional algorithm); other texts as they are."""
    if not any("\u0590" <= letter <= "\u08ff" or "\ufb1d" <= letter <= "\ufefc" for letter in text):
        return text
    import arabic_reshaper
    from bidi.algorithm import get_display

    return "\n".join(str(get_display(arabic_reshaper.reshape(line))) for line in text.split("\n"))
