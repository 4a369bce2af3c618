"""A bridge: from the baseline, step by step, to now. It starts at the baseline, so that no axis is cut."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..aggregation.measures import Measure
from ..text import consistent_rounding
from . import theme
from .chart import Chart, described, row_names, titled
from .marks import Mark

#: The mark on bars that start where the one before ended.
STEP = "step"
#: Width of a letter beside a bar, in inches.
_LETTER = 0.085


def bridge(
    *,
    name: str,
    title: str,
    subtitle: str,
    source: str,
    ends: tuple[tuple[str, float], tuple[str, float]],
    steps: Sequence[tuple[str, float]],
    measure: Measure,
    by: str,
) -> Chart:
    """Steps (label, change) between two ends (label, value); steps add up to the difference of the ends.

    Nought is the first end, the last bar the whole change; the largest step is in gold.
    """
    import pandas as pd

    whole = ends[1][1] - ends[0][1]
    names = row_names([ends[0][0], *(text for text, _ in steps), ends[1][0]], 30)
    figure = theme.figure(1.45 + (0.36 + names.more) * (len(steps) + 2) + 0.25 * (len(title) > 74))
    bottom, top = titled(figure, title, subtitle, source)
    left = 0.03 + min(0.34, 0.0115 * names.longest)
    axes = figure.add_axes((left, bottom, 0.97 - left, top - bottom))
    places = np.arange(len(names.shown))[::-1]
    sizes = np.array([change for _, change in steps])
    starts = np.concatenate([[0.0], np.cumsum(sizes)[:-1]])
    largest = int(np.argmax(np.abs(sizes)))
    colours = [theme.ACCENT if place == largest else theme.CONTEXT for place in range(len(steps))]
    bars = axes.barh(places[1:-1], sizes, left=starts, height=0.62, color=colours, zorder=3)
    for bar in bars:
        bar.set_gid(STEP)
    marks = [Mark(artist=bar, column="value", row=row, lit=row == largest + 1) for row, bar in enumerate(bars, start=1)]
    axes.barh(places[-1:], [whole], height=0.62, color=theme.INK, zorder=3)
    # Each step hangs on the end of the one before.
    for place, end in zip(places[1:-1], starts + sizes, strict=True):
        axes.plot([end, end], [place - 0.31, place - 0.69], color=theme.QUIET, linewidth=0.9, zorder=2)
    reached = np.concatenate([starts, starts + sizes, [0.0, whole]])
    low, high = float(reached.min()), float(reached.max())
    reach = (high - low) or 1.0
    told = consistent_rounding.stairs(ends[0][1], [change for _, change in steps], ends[1][1], measure)
    changes, in_all = told.steps.texts(signed=True), told.steps.text(told.steps.whole, signed=True)
    texts = [told.start, *changes, f"{told.end} ({in_all})"]
    # Room for the longest text right of the bars.
    room = min(0.6, _LETTER * max(map(len, texts)) / (theme.WIDTH * (0.97 - left)))
    axes.set_xlim(low - 0.02 * reach, low + reach / (1 - room))
    axes.set_ylim(-0.6, len(names.shown) - 0.4)
    bold = {0, largest + 1, len(names.shown) - 1}
    theme.name_rows(axes, places, names.shown, bold)
    tips = [0.0, *(starts + np.where(sizes >= 0, sizes, 0.0)), max(whole, 0.0)]
    for place, (tip, text) in enumerate(zip(tips, texts, strict=True)):
        axes.annotate(
            text,
            (tip, places[place]),
            xytext=(6, 0),
            textcoords="offset points",
            va="center",
            ha="left",
            fontsize=theme.LABEL,
            color=theme.INK,
            **theme.font(bold=place in bold),
        )
    data = pd.DataFrame(
        {by: [ends[0][0], *(text for text, _ in steps), ends[1][0]], "value": [ends[0][1], *sizes, ends[1][1]]}
    )
    listed = "; ".join(f"{text} {change}" for (text, _), change in zip(steps, changes, strict=True))
    return Chart(
        name=name,
        figure=figure,
        data=data,
        title=title,
        subtitle=subtitle,
        marks=tuple(marks),
        alternative=described("Bridge chart", f"{title} {texts[0]}: {listed}; {texts[-1]}."),
        shown={"value": [told.start, *changes, told.end]},
    )
