"""Averages in bins of equally many rows: one dot a bin, along two numeric axes."""

from __future__ import annotations

import numpy as np

from ..aggregation.measure_names import spoken
from ..stats.autocorrelated_fits import Floats
from ..text import names
from . import theme
from .axis_scales import axis_texts
from .chart import Chart, described, not_from_nought, titled
from .marks import with_notes


def dots(
    *,
    name: str,
    title: str,
    subtitle: str,
    source: str,
    x: Floats,
    y: Floats,
    columns: tuple[str, str],
    alternative: str = "",
) -> Chart:
    """Dots joined by a line, `y` over `x`; both axes start where the data do, and the subtitle says so."""
    import pandas as pd

    figure = theme.figure(3.9)
    from_zero = bool(y.min() >= 0 and y.min() < 0.5 * y.max())
    subtitle = subtitle if from_zero else with_notes(subtitle, not_from_nought())
    bottom, top = titled(figure, title, subtitle, source)
    axes = figure.add_axes((0.075, bottom + 0.13, 0.89, top - bottom - 0.2))
    axes.plot(x, y, color=theme.CONTEXT, linewidth=1.2, zorder=2)
    axes.plot(x, y, linestyle="", marker="o", markersize=7, color=theme.ACCENT, zorder=3)
    room = float(np.ptp(y)) or 1.0
    axes.set_ylim(0.0 if from_zero else float(y.min()) - 0.1 * room, float(y.max()) + 0.1 * room)
    axes.margins(x=0.04)
    theme.dress(axes)
    axis_texts(axes, None)
    axis_texts(axes, None, which="x")
    axes.set_xlabel(spoken(columns[0]), fontsize=theme.LABEL, color=theme.QUIET, **theme.font())
    figure.text(
        0.015,
        top - 0.01,
        names.capital(spoken(columns[1])),
        fontsize=theme.LABEL,
        color=theme.QUIET,
        va="top",
        ha="left",
        **theme.font(),
    )
    return Chart(
        name=name,
        figure=figure,
        data=pd.DataFrame({columns[0]: x, columns[1]: y}),
        title=title,
        subtitle=subtitle,
        alternative=alternative or described("Dot chart", title),
    )
