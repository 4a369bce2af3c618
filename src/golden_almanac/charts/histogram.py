"""How many rows have how much: bars without gaps over a numeric axis."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..aggregation.measures import Measure
from ..stats.autocorrelated_fits import Floats
from ..text.languages import say
from . import theme
from .axis_scales import axis_texts
from .chart import Chart, described, titled
from .marks import with_notes

_BINS = 40


def histogram(
    *,
    name: str,
    title: str,
    subtitle: str,
    source: str,
    values: Floats,
    measure: Measure | None,
    marks: Sequence[tuple[float, str]] = (),
    alternative: str = "",
) -> Chart:
    """Counts of rows in bins between the 0.5% and 99.5% quantile; `marks` are places named above the bars."""
    import pandas as pd

    low, high = (float(end) for end in np.quantile(values, (0.005, 0.995)))
    logs = low > 0 and high / low > 50
    edges = np.geomspace(low, high, _BINS + 1) if logs else np.linspace(low, high, _BINS + 1)
    counts = np.histogram(values, edges)[0]
    subtitle = with_notes(subtitle, say("the scale goes by multiples") if logs else "")
    figure = theme.figure(3.6)
    bottom, top = titled(figure, title, subtitle, source)
    axes = figure.add_axes((0.075, bottom + 0.08, 0.89, top - bottom - 0.14))
    axes.bar(edges[:-1], counts, width=np.diff(edges) * 0.94, align="edge", color=theme.CONTEXT, zorder=3)
    if logs:
        axes.set_xscale("log")
        from matplotlib.ticker import NullFormatter

        axes.xaxis.set_minor_formatter(NullFormatter())
    axes.set_ylim(0, 1.12 * float(counts.max()))
    theme.dress(axes)
    axes.axhline(0, color=theme.INK, linewidth=0.9, zorder=5)
    axis_texts(axes, None)
    if not logs:
        axis_texts(axes, measure, which="x")
    else:
        from .axis_scales import short

        ticks = np.geomspace(low, high, 5)
        axes.set_xticks(ticks, [short(float(tick), measure, 2) for tick in ticks])
        for label in axes.get_xticklabels():
            label.set(**theme.font())
    for place, text in marks:
        axes.axvline(place, ymax=0.93, color=theme.ACCENT, linewidth=1.6, zorder=6)
        axes.annotate(
            text, (place, 1.06 * float(counts.max())), ha="center", va="bottom", fontsize=theme.LABEL,
            color=theme.ACCENT, **theme.font(bold=True),
        )  # fmt: skip
    return Chart(
        name=name,
        figure=figure,
        data=pd.DataFrame({"from": edges[:-1], "to": edges[1:], "rows": counts}),
        title=title,
        subtitle=subtitle,
        alternative=alternative or described("Histogram", title),
    )
