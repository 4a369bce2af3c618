"""What the marks of a chart stand for: which figure of its data each shows, which category its colour is for, which is
set off. Whoever draws the chart says it; the page's pointer, native charts and checks of colour read it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from .chart import Chart


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Mark:
    """One bar, line or key as it was drawn.

    A bar shows `column` of the data in `row`; a line has no row and shows the column in all of them; a key of colours
    shows none. `category` is what its colour stands for, where colours do; `lit` says that the chart is about it.
    """

    artist: Any
    column: str = ""
    row: int | None = None
    category: str = ""
    lit: bool = False

    @property
    def colour(self) -> str:
        from matplotlib.colors import to_hex

        own = self.artist
        return to_hex(own.get_facecolor() if hasattr(own, "get_facecolor") else own.get_color()).upper()


def with_notes(subtitle: str, *notes: str) -> str:
    """A subtitle with what is said of the marks behind it."""
    return " · ".join(text for text in (subtitle, *notes) if text)


def lit_rows(marks: Sequence[Mark]) -> frozenset[int]:
    """The rows of the data that the chart is about."""
    return frozenset(mark.row for mark in marks if mark.lit and mark.row is not None)


def mixed_up(chart: Chart, beside: Iterable[Chart] = ()) -> list[str]:
    """Sentences on categories of several colours, here or against the charts `beside`, and colours of several
    categories."""
    own = _colours(chart.marks)
    found = [f"{label!r} is drawn in {len(colours)} colours" for label, colours in own.items() if len(colours) > 1]
    found += [
        f"{one!r} and {other!r} are drawn in one colour" for one, other in combinations(own, 2) if own[one] & own[other]
    ]
    for other_chart in beside:
        theirs = _colours(other_chart.marks)
        found += [
            f"{label!r} has another colour than in the chart {other_chart.title!r}"
            for label, colours in own.items()
            if label in theirs and theirs[label] != colours
        ]
    return found


def _colours(marks: Sequence[Mark]) -> dict[str, set[str]]:
    """The colours that each category is drawn in, bars, lines and keys alike."""
    found: dict[str, set[str]] = {}
    for mark in marks:
        if mark.category:
            found.setdefault(mark.category, set()).add(mark.colour)
    return found
