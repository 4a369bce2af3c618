"""Dots with their intervals, one row each, beside a line at nought (or another reference)."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence

import numpy as np

from . import theme
from .chart import Chart, described, row_names, titled
from .marks import Mark
from .palette import by_hand


def intervals(
    *,
    name: str,
    title: str,
    subtitle: str,
    source: str,
    labels: Sequence[str],
    values: Sequence[float],
    low: Sequence[float],
    high: Sequence[float],
    texts: Sequence[str],
    by: str,
    highlight: Collection[str] = (),
    beside: Sequence[float] | None = None,
    reference: float = 0.0,
    written: Callable[[float], str] | None = None,
) -> Chart:
    """A dot and a whisker a row, in the order given; `texts` stand at the right, `beside` are hollow dots (the same
    without adjustment). `written` puts a value into the alternative text."""
    import pandas as pd

    count = len(labels)
    names = row_names(labels, 34)
    figure = theme.figure(1.45 + (0.33 + names.more) * count + 0.25 * (len(title) > 74))
    bottom, top = titled(figure, title, subtitle, source)
    left = 0.03 + min(0.38, 0.0112 * names.longest)
    right = 0.975 - min(0.34, 0.0098 * max(len(text) for text in texts))
    axes = figure.add_axes((left, bottom, right - left, top - bottom))
    places = np.arange(count)[::-1]
    marked = [label in highlight for label in labels]
    ends = [value for value in (*low, *high, *values, *(beside or ()), reference) if np.isfinite(value)]
    room = (max(ends) - min(ends)) or 1.0
    axes.set_xlim(min(ends) - 0.04 * room, max(ends) + 0.04 * room)
    axes.set_ylim(-0.6, count - 0.4)
    theme.name_rows(axes, places, names.shown, [i for i in range(count) if marked[i]])
    for line in axes.lines:
        line.remove()
    axes.axvline(reference, color=theme.INK, linewidth=0.9, zorder=1)
    marks: list[Mark] = []
    for label, place, value, first, last, strong in zip(labels, places, values, low, high, marked, strict=True):
        colour = by_hand(label) or (theme.ACCENT if strong else theme.CONTEXT)
        axes.plot([first, last], [place, place], color=colour, linewidth=2.2, solid_capstyle="butt", zorder=2)
        dot = axes.plot([value], [place], marker="o", markersize=7.5, color=colour, zorder=4)
        category = label if by_hand(label) else ""
        marks.append(Mark(artist=dot[0], column="value", row=len(marks), category=category, lit=strong))
    if beside is not None:
        axes.plot(
            beside,
            places,
            linestyle="",
            marker="o",
            markersize=6,
            markerfacecolor=theme.PAPER,
            markeredgecolor=theme.QUIET,
            zorder=3,
        )
    for place, text, strong in zip(places, texts, marked, strict=True):
        axes.annotate(
            text,
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
    data = {by: list(labels), "value": list(values), "low": list(low), "high": list(high)}
    if beside is not None:
        data["unadjusted"] = list(beside)
    told = "; ".join(f"{label} {text}" for label, text in zip(labels, texts, strict=True))
    return Chart(
        name=name,
        figure=figure,
        data=pd.DataFrame(data),
        title=title,
        subtitle=subtitle,
        marks=tuple(marks),
        alternative=described("Dots with intervals", f"{title}. {told}."),
    )
