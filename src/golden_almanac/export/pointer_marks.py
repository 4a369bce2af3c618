"""What a pointer or the arrow keys find on a chart of the page: an unseen shape over each mark, with its label and
value.

The shapes are reckoned from the drawn figure and the data behind it, so that what is shown is what was drawn.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from markupsafe import escape

from ..charts import Chart
from ..charts.chart import LINE, TITLE
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
    from matplotlib.backends.backend_agg import FigureCanvasAgg

    figure, frame = chart.figure, chart.data
    lines = [text for text in figure.texts if text.get_gid() == TITLE]
    height = 72 * (figure.get_figheight() - 0.08 - LINE * len(lines))
    FigureCanvasAgg(figure).draw()  # type: ignore[no-untyped-call]
    scale = 72 / figure.dpi
    numeric = [str(name) for name in frame.columns if frame[name].dtype.kind in "fi"]
    names = [str(name) for name in frame.columns if str(name) not in numeric]
    if not numeric or not names:
        return ""
    labels = [str(value) for value in frame[names[0]]]
    figures = chart.shown.get(numeric[0]) or [_told(value) for value in frame[numeric[0]]]
    made: list[str] = []
    for axes in figure.axes:
        made += _points(axes, frame, numeric, labels, scale, height)
        made += _bars(axes, frame, numeric, names, labels, figures, scale, height)
    return f'<g class="marks">{"".join(made)}</g>' if made else ""


def _told(value: float) -> str:
    return numbers.short(float(value), 4) if np.isfinite(value) else ""


def _points(axes: Any, frame: Any, numeric: list[str], labels: list[str], scale: float, height: float) -> list[str]:
    """A circle on each point of a line that is a column of the data."""
    made, seen = [], set()
    for line in axes.lines:
        y = np.asarray(line.get_ydata(), dtype=float)
        if y.shape != (len(frame),) or y.size > _MOST_POINTS or y.size < 2:
            continue
        for name in numeric:
            values = frame[name].to_numpy(dtype=float)
            known = np.isfinite(y)
            if name in seen or not known.any() or not np.array_equal(y[known], values[known]):
                continue
            seen.add(name)
            spots = axes.transData.transform(np.column_stack([np.asarray(line.get_xdata(), dtype=float), y])) * scale
            for place in np.flatnonzero(known):
                x, up = spots[place]
                text = f"{labels[place]}: {_told(values[place])}"
                made.append(
                    f'<circle class="mark" cx="{x:.1f}" cy="{height - up:.1f}" r="6" tabindex="-1" '
                    f'data-label="{escape(name)}" data-text="{escape(f"{name}, {text}")}"/>'
                )
            break
    return made


def _bars(
    axes: Any,
    frame: Any,
    numeric: list[str],
    names: list[str],
    labels: list[str],
    figures: Sequence[str],
    scale: float,
    height: float,
) -> list[str]:
    """A rectangle over each bar whose length is a figure of the data."""
    made: list[str] = []
    values = frame[numeric[0]].to_numpy(dtype=float)
    told = labels if len(names) < 2 else [f"{a}, {b}" for a, b in zip(labels, frame[names[1]], strict=True)]
    groups = labels if len(names) < 2 else [str(value) for value in frame[names[1]]]
    free = list(range(len(values)))
    for patch in axes.patches:
        if not hasattr(patch, "get_width"):
            continue
        sizes = (float(patch.get_width()), float(patch.get_height()))
        place = next(
            (i for i in free if values[i] and any(abs(values[i] - size) <= 1e-12 * abs(size) for size in sizes)), None
        )
        if place is None:
            continue
        free.remove(place)
        box = patch.get_window_extent()
        made.append(
            f'<rect class="mark" x="{box.x0 * scale:.1f}" y="{height - box.y1 * scale:.1f}" '
            f'width="{box.width * scale:.1f}" height="{box.height * scale:.1f}" tabindex="-1" '
            f'data-label="{escape(groups[place])}" '
            f'data-text="{escape(f"{told[place]}: {figures[place]}")}"/>'
        )
    return made
