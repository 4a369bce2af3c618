"""Boxes of groups: quartiles, median, mean, and whiskers to the farthest value within one and a half box lengths."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..aggregation.measures import Measure
from ..stats.autocorrelated_fits import Floats
from ..text import numbers
from ..text.languages import say
from . import theme
from .axis_scales import axis_texts, short
from .chart import Chart, described, row_names, titled
from .marks import with_notes


def boxes(
    *,
    name: str,
    title: str,
    subtitle: str,
    source: str,
    labels: Sequence[str],
    samples: Sequence[Floats],
    measure: Measure | None,
    by: str,
    highlight: str | None = None,
) -> Chart:
    """A lying box for each group, in the order given; values beyond the whiskers are counted, not drawn one on
    another."""
    import pandas as pd

    count = len(labels)
    names = row_names(labels)
    figure = theme.figure(1.75 + (0.42 + names.more) * count + 0.25 * (len(title) > 74))
    bottom, top = titled(figure, title, subtitle, source)
    left = 0.03 + min(0.32, 0.0115 * names.longest)
    low_room = 0.3 / figure.get_figheight()
    axes = figure.add_axes((left, bottom + low_room, 0.8 - left, top - bottom - low_room))
    places = np.arange(count)[::-1]
    rows = []
    for place, label, values in zip(places, labels, samples, strict=True):
        q1, median, q3 = (float(q) for q in np.quantile(values, (0.25, 0.5, 0.75)))
        reach = 1.5 * (q3 - q1)
        inside = values[(values >= q1 - reach) & (values <= q3 + reach)]
        low, high = float(inside.min()), float(inside.max())
        strong = label == highlight
        colour = theme.ACCENT if strong else theme.CONTEXT
        axes.plot([low, q1], [place, place], color=colour, linewidth=1.2, zorder=2)
        axes.plot([q3, high], [place, place], color=colour, linewidth=1.2, zorder=2)
        axes.fill_between([q1, q3], place - 0.28, place + 0.28, color=colour, alpha=0.35, linewidth=0, zorder=2)
        axes.plot([median, median], [place - 0.28, place + 0.28], color=theme.INK, linewidth=2, zorder=4)
        mean = float(values.mean())
        axes.plot([mean], [place], marker="D", markersize=5, color=colour, markeredgecolor=theme.PAPER, zorder=5)
        beyond = int(values.size - inside.size)
        axes.annotate(
            with_notes(short(median, measure), say("{n} beyond", n=numbers.whole(beyond)) if beyond else ""),
            (1.0, place),
            xycoords=("axes fraction", "data"),
            xytext=(8, 0),
            textcoords="offset points",
            va="center",
            ha="left",
            fontsize=theme.LABEL,
            color=theme.INK,
            **theme.font(bold=strong),
        )
        rows.append((label, values.size, low, q1, median, q3, high, mean, beyond))
    theme.dress(axes, grid="x")
    axes.set_yticks(places, names.shown)
    for place, tick in enumerate(axes.get_yticklabels()):
        tick.set(color=theme.INK, fontsize=theme.LABEL, va="center", linespacing=0.95)
        tick.set(**theme.font(bold=labels[place] == highlight))
    axes.set_ylim(-0.6, count - 0.4)
    axis_texts(axes, measure, which="x")
    columns = [by, "n", "low", "q1", "median", "q3", "high", "mean", "beyond"]
    data = pd.DataFrame(rows, columns=columns)
    told = "; ".join(say("{label} median {value}", label=row[0], value=short(row[4], measure)) for row in rows)
    return Chart(
        name=name,
        figure=figure,
        data=data,
        title=title,
        subtitle=subtitle,
        alternative=described("Box chart", f"{title}. {told}."),
    )
