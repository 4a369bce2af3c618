"""A finished figure as it is saved: on dark paper, with right-to-left letters in the order they are read in."""

from __future__ import annotations

import warnings
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from ..support.printable import visible
from . import theme

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
    """The figure in its dark colours, without control characters in its texts, those from right to left `shaped` for a
    renderer that only goes left to right; afterwards it is as it was."""
    undo: list[tuple[Any, Any]] = []
    try:
        for artist in figure.findobj():
            if dark:
                undo += _turned(artist)
            undo += _lettered(artist, shaped)
        yield
    finally:
        for setter, value in reversed(undo):
            setter(value)


def _turned(artist: Any) -> list[tuple[Any, Any]]:
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
        after = [(*to_rgba(_dark(to_hex(row[:3])))[:3], row[3] if len(row) > 3 else 1.0) for row in rows]
        several = not isinstance(before, str) and np.ndim(before) > 1
        setter(after if several else after[0])
        undo.append((setter, before))
    return undo


def _dark(colour: str) -> str:
    return theme.DARK.get(colour.upper(), colour)


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
