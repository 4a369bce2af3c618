"""Is a chart legible? The figure is drawn and its texts are measured."""

from __future__ import annotations

from itertools import combinations
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from .chart import Chart

#: Overlaps smaller than this, in points, are only the air around letters.
_SLACK = 1.5
_SMALLEST = 8.0


def issues(chart: Chart) -> list[str]:
    """Sentences on what is wrong: clipped or overlapping texts, tiny type, bars off nought, no marks."""
    from matplotlib.backends.backend_agg import FigureCanvasAgg
    from matplotlib.patches import Rectangle

    from .bridge import STEP

    figure = chart.figure
    canvas = FigureCanvasAgg(figure)
    canvas.draw()  # type: ignore[no-untyped-call]
    renderer = canvas.get_renderer()  # type: ignore[no-untyped-call]
    found = []
    whole = figure.bbox
    texts = [text for text in _texts(figure) if text.get_visible() and text.get_text().strip()]
    boxes = [(text.get_text(), text.get_window_extent(renderer)) for text in texts]
    slack = _SLACK * figure.dpi / 72
    for name, box in boxes:
        if (
            box.x0 < whole.x0 - slack
            or box.x1 > whole.x1 + slack
            or box.y0 < whole.y0 - slack
            or box.y1 > whole.y1 + slack
        ):
            found.append(f"the text {name!r} is clipped at the edge")
    for (first, a), (second, b) in combinations(boxes, 2):
        if min(a.x1, b.x1) - max(a.x0, b.x0) > slack and min(a.y1, b.y1) - max(a.y0, b.y0) > slack:
            found.append(f"the texts {first!r} and {second!r} overlap")
    found += [
        f"the text {text.get_text()!r} is smaller than {_SMALLEST:g} points"
        for text in texts
        if text.get_fontsize() < _SMALLEST
    ]
    for axes in figure.axes:
        # The steps of a bridge start where the one before ended.
        bars = [patch for patch in axes.patches if isinstance(patch, Rectangle) and patch.get_gid() != STEP]
        # Bars lie, or stand: all of one chart start at the same nought.
        if any(patch.get_x() != 0 for patch in bars) and any(patch.get_y() != 0 for patch in bars):
            found.append("a bar does not start at 0")
        if not axes.patches and not axes.lines and not axes.images:
            found.append("the chart holds no mark")
    return found


def _texts(figure: Any) -> list[Any]:
    found = list(figure.texts)
    for axes in figure.axes:
        found += axes.texts
        for axis in (axes.xaxis, axes.yaxis):
            low, high = sorted(axis.get_view_interval())
            # Ticks beyond the ends of the axis are kept by the figure but never drawn.
            found += [tick.label1 for tick in axis.get_major_ticks() if low <= tick.get_loc() <= high]
    return found
