"""Is a chart legible? The figure is drawn and its texts are measured."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import combinations
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from .chart import Chart

#: Overlaps smaller than this, in points, are only the air around letters.
_SLACK = 1.5
_SMALLEST = 8.0
#: Text stands out from what is behind it by this much (WCAG 2.2, level AA, is 4.5 for body and 3 for large or bold
#: text).
_CONTRAST = 3.0


def issues(chart: Chart, beside: Iterable[Chart] = ()) -> list[str]:
    """Sentences on what is wrong: clipped or overlapping texts, tiny or pale type, bars off nought, no marks, a
    category in two colours (here or in the charts `beside`) or two in one, a title whose numbers are not those of the
    data."""
    from .marks import mixed_up
    from .saved_figure import saved, unwarned
    from .title_checks import unfounded

    # In the colours and fonts of the look that is worn, as the chart will be saved.
    with unwarned(), saved(chart.figure, dark=False, shaped=False):
        found = _drawn_amiss(chart.figure)
    found += mixed_up(chart, beside)
    found += [
        f"the title says {number}, which neither the data drawn nor its figures give" for number in unfounded(chart)
    ]
    return found


def _drawn_amiss(figure: Any) -> list[str]:
    """What is wrong with a figure as it is drawn."""
    from matplotlib.backends.backend_agg import FigureCanvasAgg
    from matplotlib.patches import Rectangle

    from .bridge import STEP

    canvas = FigureCanvasAgg(figure)
    canvas.draw()  # type: ignore[no-untyped-call]
    renderer = canvas.get_renderer()  # type: ignore[no-untyped-call]
    found: list[str] = []
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
    found += [
        f"the text {text.get_text()!r} stands out too little ({ratio:.1f}:1, where {_CONTRAST} is asked for)"
        for text, box in zip(texts, boxes, strict=True)
        if (ratio := _contrast(text, box[1], figure, renderer)) < _CONTRAST
    ]
    for axes in figure.axes:
        # The steps of a bridge start where the one before ended.
        bars = [patch for patch in axes.patches if isinstance(patch, Rectangle) and patch.get_gid() != STEP]
        lit = [bar for bar in bars if bar.get_width() and bar.get_height()]
        if bars and not lit and not axes.lines:
            found.append("every bar is empty")
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
        if not axes.axison:
            continue
        for axis in (axes.xaxis, axes.yaxis):
            low, high = sorted(axis.get_view_interval())
            # Ticks beyond the ends of the axis are kept by the figure but never drawn.
            found += [tick.label1 for tick in axis.get_major_ticks() if low <= tick.get_loc() <= high]
    return found


def _contrast(text: Any, box: Any, figure: Any, renderer: Any) -> float:
    """Contrast of a text with the bar or tile it stands on, or else with the paper."""
    from matplotlib.colors import to_hex

    from .palette import contrast

    behind = to_hex(figure.get_facecolor())
    x, y = (box.x0 + box.x1) / 2, (box.y0 + box.y1) / 2
    for axes in figure.axes:
        for patch in axes.patches:
            if patch.get_alpha() is None and patch.get_window_extent(renderer).contains(x, y):
                behind = to_hex(patch.get_facecolor())
        for image in axes.images:
            extent = image.get_window_extent(renderer)
            if extent.contains(x, y):
                tiles = image.get_array()
                down, across = tiles.shape[:2]
                i = min(down - 1, int((extent.y1 - y) / extent.height * down))
                j = min(across - 1, int((x - extent.x0) / extent.width * across))
                behind = to_hex(tiles[i, j])
    return contrast(to_hex(text.get_color()), behind)
