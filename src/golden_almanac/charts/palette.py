"""Category colours: eight that people with any of the three deficiencies of colour sight tell apart, given out once per
report and kept."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from contextlib import contextmanager
from contextvars import ContextVar

from ..support.errors import RequestError
from ..text.languages import say

#: In the order given out. Each stands out from the paper by 3:1 and differs from the others by 25 steps of Lab also
#: to protanopes, deuteranopes and tritanopes (tested). "Other" is always grey.
CATEGORIES = ("#A86A00", "#2B98AD", "#7D238F", "#315C5C", "#531414", "#7C6943", "#6632CC", "#2D1942")
OTHER = "#8B877C"
#: The same eight on dark paper, by the same tests.
DARK_CATEGORIES = ("#E0A63B", "#70CC7C", "#995490", "#7B88E0", "#B25536", "#CEF2D2", "#8849F2", "#D8BFE0")


class Palette:
    """Colours by label: the first seen gets the first colour, and keeps it. After eight, all are grey.

    `fixed` colours (`{"Outer Bar": "#1F5F99"}`) are given by hand: charts that tell one label apart by the accent use
    them too. Raises RequestError for a colour that is none.
    """

    def __init__(self, fixed: Mapping[str, str] | None = None) -> None:
        self.fixed = {label: checked(colour) for label, colour in (fixed or {}).items()}
        self._given: dict[str, str] = dict(self.fixed)

    def colour(self, label: str) -> str:
        if label not in self._given:
            free = [one for one in CATEGORIES if one not in self._given.values()]
            self._given[label] = free[0] if free and not label.startswith(f"{say('other')} (") else OTHER
        return self._given[label]

    def colours(self, labels: Iterable[str]) -> list[str]:
        return [self.colour(label) for label in labels]


_shared: ContextVar[Palette | None] = ContextVar("shared", default=None)


@contextmanager
def sharing(palette: Palette) -> Iterator[Palette]:
    """Charts drawn inside share one palette: a label has one colour in all of them."""
    token = _shared.set(palette)
    try:
        yield palette
    finally:
        _shared.reset(token)


def shared() -> Palette | None:
    """The palette that the charts of a report share, if one is being drawn."""
    return _shared.get()


def by_hand(label: str) -> str | None:
    """The colour that a label was given by hand in the palette shared."""
    palette = _shared.get()
    return None if palette is None else palette.fixed.get(label)


def checked(colour: str) -> str:
    """A colour as #RRGGBB. Raises RequestError."""
    import re

    if not re.fullmatch(r"#[0-9A-Fa-f]{6}", colour):
        raise RequestError("The colour", colour, "written as #RRGGBB, such as #A86A00")
    return colour.upper()


def luminance(colour: str) -> float:
    """Relative luminance (WCAG 2.2)."""
    parts = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    linear = [part / 12.92 if part <= 0.04045 else ((part + 0.055) / 1.055) ** 2.4 for part in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(one: str, other: str) -> float:
    """Contrast ratio of two colours (WCAG 2.2), from 1 to 21."""
    light, dark = sorted((luminance(one), luminance(other)), reverse=True)
    return (light + 0.05) / (dark + 0.05)
