"""Growth against variability drawn: a dot for each slice, named."""

from __future__ import annotations

import numpy as np

from ..analysis.growth_and_falls import GrowthTable
from ..text import names
from ..text.languages import say
from . import theme
from .axis_scales import axis_texts
from .chart import Chart, described, titled
from .marks import Mark


def draw_growth(found: GrowthTable, title: str) -> Chart:
    """Dots of growth a year over how much it varied. Raises LookupError where fewer than two are known."""
    import pandas as pd

    known = [one for one in found.parts if one.rate is not None and one.varied is not None]
    if len(known) < 2:
        raise LookupError("fewer than two slices have a growth that varied")
    x = np.array([100 * (one.varied or 0.0) for one in known])
    y = np.array([100 * (one.rate or 0.0) for one in known])
    labels = [names.label(one.label) for one in known]
    figure = theme.figure(4.4)
    subtitle = say("Growth a year in percent, over how much it varied in points")
    bottom, top = titled(figure, title, subtitle, say("Source: {name}", name=found.table.name))
    axes = figure.add_axes((0.085, bottom + 0.1, 0.8, top - bottom - 0.12))
    lit = int(y.argmax())
    drawn = axes.plot(x, y, linestyle="", marker="o", markersize=8, color=theme.CONTEXT, zorder=3)
    axes.plot(x[lit], y[lit], linestyle="", marker="o", markersize=8, color=theme.ACCENT, zorder=4)
    room = float(np.ptp(y)) or 1.0
    reached = -np.inf
    for place in np.argsort(y):
        # Names of neighbours are moved apart upwards.
        height = max(float(y[place]), reached + 0.06 * room)
        reached = height
        axes.annotate(
            labels[place],
            (x[place], height),
            xytext=(9, 0),
            textcoords="offset points",
            fontsize=theme.LABEL,
            color=theme.ACCENT if place == lit else theme.QUIET,
            va="center",
            **theme.font(bold=bool(place == lit)),
        )
    axes.set_xlim(0, 1.15 * float(x.max()))
    axes.set_ylim(float(y.min()) - 0.12 * room, float(y.max()) + 0.12 * room)
    theme.dress(axes)
    if axes.get_ylim()[0] < 0 < axes.get_ylim()[1]:
        axes.axhline(0, color=theme.INK, linewidth=0.9, zorder=1)
    axis_texts(axes, None)
    data = pd.DataFrame(
        {names.capital(names.dimension(found.by.name)): labels, say("Varied by"): x, say("Growth a year"): y}
    )
    figures = () if found.whole.rate is None else (100 * found.whole.rate,)
    return Chart(
        name="growth",
        figure=figure,
        data=data,
        title=title,
        subtitle=subtitle,
        scope=subtitle,
        marks=(Mark(artist=drawn[0], column=say("Growth a year")),),
        alternative=described("Dots", title),
        figures=figures,
    )
