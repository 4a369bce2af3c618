"""Which colour stands for which category in a drawn figure, and whether that is so throughout."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import combinations
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from .chart import Chart

_PREFIX = "category: "


def stands_for(mark: Any, label: str) -> None:
    """Write on a mark which category its colour is for."""
    mark.set_label(_PREFIX + label)


def colours_of(figure: Any) -> dict[str, set[str]]:
    """The colours that each category is drawn in, bars, lines and keys alike."""
    from matplotlib.colors import to_hex

    found: dict[str, set[str]] = {}
    marks = [*figure.patches, *(mark for axes in figure.axes for mark in (*axes.patches, *axes.lines))]
    for mark in marks:
        name = str(mark.get_label())
        if name.startswith(_PREFIX):
            colour = mark.get_facecolor() if hasattr(mark, "get_facecolor") else mark.get_color()
            found.setdefault(name.removeprefix(_PREFIX), set()).add(to_hex(colour).upper())
    return found


def mixed_up(chart: Chart, beside: Iterable[Chart] = ()) -> list[str]:
    """Sentences on categories of several colours, here or against the charts `beside`, and colours of several
    categories."""
    own = colours_of(chart.figure)
    found = [f"{label!r} is drawn in {len(colours)} colours" for label, colours in own.items() if len(colours) > 1]
    found += [
        f"{one!r} and {other!r} are drawn in one colour" for one, other in combinations(own, 2) if own[one] & own[other]
    ]
    for other_chart in beside:
        theirs = colours_of(other_chart.figure)
        found += [
            f"{label!r} has another colour than in the chart {other_chart.title!r}"
            for label, colours in own.items()
            if label in theirs and theirs[label] != colours
        ]
    return found
