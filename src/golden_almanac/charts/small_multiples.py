"""Small multiples: the series of a few slices, each on its own scale from nought, the periods compared marked."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np

from ..aggregation.measures import Measure
from ..tables import Timeline
from . import theme
from .axis_scales import axis_texts
from .chart import Chart, clip, described, titled
from .line_chart import date_ticks, shade
from .marks import Mark

_COLUMNS = 2


def multiples(
    *,
    name: str,
    title: str,
    subtitle: str,
    source: str,
    timeline: Timeline,
    offset: int,
    series: Sequence[tuple[str, Any]],
    spans: Sequence[tuple[float, float]],
    measure: Measure,
    highlight: int,
    beside: Callable[[Any, int, Any], None] | None = None,
) -> Chart:
    """A panel for each series (label, values over periods from `offset` on); the first `highlight` are in gold.

    `spans` are places (first, past the last) to be shaded; `beside` draws more on a panel (its axes, which series, the
    places of the periods).
    """
    import pandas as pd

    rows = -(-len(series) // _COLUMNS)
    figure = theme.figure(1.35 + 1.75 * rows, several=True)
    bottom, top = titled(figure, title, subtitle, source)
    places = np.arange(len(series[0][1])) + offset
    height = (top - bottom) / rows
    marks = []
    for index, (label, values) in enumerate(series):
        row, column = divmod(index, _COLUMNS)
        axes = figure.add_axes(
            (0.075 + 0.49 * column, top - (row + 1) * height + 0.25 * height, 0.4, 0.56 * height)
        )  # fmt: skip
        known = np.asarray(values, dtype=float)
        lit = index < highlight
        drawn = axes.plot(places, known, color=theme.ACCENT if lit else theme.CONTEXT, linewidth=1.8, zorder=3)
        marks.append(Mark(artist=drawn[0], column=label, lit=lit))
        if beside is not None:
            beside(axes, index, places)
        finite = known[np.isfinite(known)]
        low, high = float(finite.min(initial=0.0)), float(finite.max(initial=0.0))
        axes.set_ylim(1.1 * min(0.0, low), 1.1 * max(0.0, high) or 1.0)
        axes.set_xlim(places[0] - 0.5, places[-1] + 0.5)
        shade(axes, spans)
        theme.dress(axes)
        axes.axhline(0, color=theme.INK, linewidth=0.9, zorder=1)
        axis_texts(axes, measure)
        # The first year must not run into the nought of the axis.
        axes.tick_params(axis="x", pad=9)
        date_ticks(axes, timeline, int(places[0]), int(places[-1]), few=True)
        axes.annotate(
            clip(label, 40),
            (0, 1),
            xycoords="axes fraction",
            xytext=(0, 5),
            textcoords="offset points",
            fontsize=theme.LABEL,
            color=theme.ACCENT if lit else theme.INK,
            ha="left",
            va="bottom",
            **theme.font(bold=True),
        )
    data: dict[str, Any] = {"period": [str(timeline.period(int(place)).start) for place in places]}
    data |= {label: list(map(float, values)) for label, values in series}
    return Chart(
        name=name,
        figure=figure,
        data=pd.DataFrame(data),
        title=title,
        subtitle=subtitle,
        marks=tuple(marks),
        alternative=described("Small line charts", f"{title} " + ", ".join(label for label, _ in series) + "."),
    )
