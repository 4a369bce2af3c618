"""What a pointer or the arrow keys find on a chart of the page: an unseen shape over each mark, with its label and
value.

The chart says what its marks stand for; where they are is asked of the drawn figure.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
from markupsafe import escape

from ..charts import Chart
from ..charts.chart import LINE, TITLE
from ..charts.marks import Mark
from ..charts.rendering import remembered
from ..text import numbers
from .formats import OVERLAY

#: More points of one line than this are too close to be told apart.
_MOST_POINTS = 200


def overlay(chart: Chart) -> str:
    """The shapes as SVG, in the points of the chart without its title; empty where no mark is known."""
    shapes: str = remembered(chart, OVERLAY, lambda: _overlay(chart))
    return shapes


def _overlay(chart: Chart) -> str:
    known = [mark for mark in chart.marks if mark.column]
    if not known:
        return ""
    # Only where marks come to lie is wanted: limits that are settled say that without a drawing.
    for axes in chart.figure.axes:
        axes.apply_aspect()
        axes.get_xlim(), axes.get_ylim()
    shapes = [shape for mark in known for shape in (_bar(mark, chart) if mark.row is not None else _line(mark, chart))]
    return f'<g class="marks">{"".join(shapes)}</g>' if shapes else ""


def _line(mark: Mark, chart: Chart) -> Iterator[str]:
    """A circle on each point of a line."""
    heights = np.asarray(mark.artist.get_ydata(), dtype=float)
    if not 2 <= heights.size <= _MOST_POINTS:
        return
    labels, values = chart.data.iloc[:, 0], chart.data[mark.column].to_numpy(dtype=float)
    for row, (x, y) in enumerate(_places(mark, chart)):
        if np.isfinite(heights[row]):
            yield _circle(x, y, mark.column, f"{mark.column}, {labels.iloc[row]}: {_figure(values[row])}")


def _bar(mark: Mark, chart: Chart) -> Iterator[str]:
    """A rectangle over a bar, or a circle on a dot; none over what has no length."""
    assert mark.row is not None
    row = chart.data.iloc[mark.row]
    value = float(row[mark.column])
    if not np.isfinite(value) or value == 0:
        return
    names = [str(row[name]) for name in chart.data.columns if chart.data[name].dtype.kind not in "fi"]
    columns = [name for name in chart.data.columns if chart.data[name].dtype.kind in "fi"]
    shown = chart.shown.get(mark.column)
    # Several bars of one row say which of them they are.
    tail = f", {mark.column}" if sum(one.row == mark.row for one in chart.marks) > 1 and len(columns) > 1 else ""
    text = f"{', '.join(names[:2])}{tail}: {shown[mark.row] if shown else _figure(value)}"
    label = names[min(1, len(names) - 1)]
    if not hasattr(mark.artist, "get_width"):
        ((x, y),) = _places(mark, chart)
        yield _circle(x, y, label, text)
        return
    box, scale = mark.artist.get_window_extent(), 72 / chart.figure.dpi
    yield (
        f'<rect class="mark" x="{box.x0 * scale:.1f}" y="{_height(chart) - box.y1 * scale:.1f}" '
        f'width="{box.width * scale:.1f}" height="{box.height * scale:.1f}" tabindex="-1" '
        f'data-label="{escape(label)}" data-text="{escape(text)}"/>'
    )


def _places(mark: Mark, chart: Chart) -> list[tuple[float, float]]:
    """Where the points of a line are, in points from the upper left."""
    line = mark.artist
    both = np.column_stack([np.asarray(data, dtype=float) for data in line.get_data()])
    spots = line.axes.transData.transform(both) * (72 / chart.figure.dpi)
    height = _height(chart)
    return [(float(x), height - float(up)) for x, up in spots]


def _circle(x: float, y: float, label: str, text: str) -> str:
    return (
        f'<circle class="mark" cx="{x:.1f}" cy="{y:.1f}" r="6" tabindex="-1" '
        f'data-label="{escape(label)}" data-text="{escape(text)}"/>'
    )


def _height(chart: Chart) -> float:
    """The height of the picture without its title."""
    lines = [text for text in chart.figure.texts if text.get_gid() == TITLE]
    return 72 * float(chart.figure.get_figheight() - 0.08 - LINE * len(lines))


def _figure(value: Any) -> str:
    return numbers.short(float(value), 4) if np.isfinite(value) else ""
