"""Points of two numbers with the fitted line and its band; averages of bins where points are many."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..stats.autocorrelated_fits import Floats
from ..text import numbers
from ..text.languages import say
from . import theme
from .axis_scales import axis_texts
from .chart import Chart, described, titled
from .marks import with_notes


def averaged(points: Floats, least: int) -> Floats:
    """Points (m, 2) as averages of at least so many neighbours each: no row is shown by itself."""
    if least < 2:
        return points
    ranked = points[np.argsort(points[:, 0], kind="stable")]
    size = max(least, -(-len(ranked) // _MOST_AVERAGES))
    groups = np.array_split(ranked, max(1, len(ranked) // size))
    return np.array([group.mean(axis=0) for group in groups])


#: Averages drawn in place of points, where rows are not to be seen.
_MOST_AVERAGES = 60


def scatter(
    *,
    name: str,
    title: str,
    subtitle: str,
    source: str,
    points: Floats,
    band: Floats | None,
    axis_names: tuple[str, str],
    bins: Sequence[tuple[float, float]] = (),
    place: float | None = None,
    figures: tuple[float, ...] = (),
) -> Chart:
    """`points` (m, 2); `band` (k, 4): x, fit, low, high; `bins` averages drawn on top; `place` a cut or bend; `figures`
    what the title says beside them."""
    import pandas as pd

    figure = theme.figure(4.5 + 0.25 * (len(title) > 74))
    low, high, beyond = _reach(points[:, 1])
    subtitle = with_notes(subtitle, say("{n} beyond the scale", n=beyond) if beyond else "")
    bottom, top = titled(figure, title, subtitle, source)
    axes = figure.add_axes((0.085, bottom + 0.125, 0.88, top - bottom - 0.185))
    many = len(points) > 400
    axes.plot(
        points[:, 0],
        points[:, 1],
        linestyle="",
        marker="o",
        markersize=2.6 if many else 4.5,
        color=theme.CONTEXT,
        alpha=0.35 if many else 0.6,
        markeredgewidth=0,
        zorder=2,
    )
    if band is not None:
        axes.fill_between(band[:, 0], band[:, 2], band[:, 3], color=theme.ACCENT, alpha=0.25, linewidth=0, zorder=3)
        axes.plot(band[:, 0], band[:, 1], color=theme.ACCENT, linewidth=2, zorder=4)
    if bins:
        axes.plot(
            [one[0] for one in bins],
            [one[1] for one in bins],
            linestyle="",
            marker="o",
            markersize=6.5,
            color=theme.INK,
            markeredgecolor=theme.PAPER,
            zorder=5,
        )
    if place is not None:
        axes.axvline(place, color=theme.INK, linewidth=1.0, linestyle=(0, (3, 3)), zorder=1)
    room = (high - low) or 1.0
    axes.set_ylim(low - 0.05 * room, high + 0.08 * room)
    axes.margins(x=0.03)
    theme.dress(axes)
    axis_texts(axes, None)
    axis_texts(axes, None, which="x")
    axes.set_xlabel(axis_names[0], fontsize=theme.LABEL, color=theme.QUIET, **theme.font())
    figure.text(
        0.015, top - 0.005, axis_names[1], fontsize=theme.LABEL, color=theme.QUIET, va="top", ha="left", **theme.font()
    )
    return Chart(
        name=name,
        figure=figure,
        data=pd.DataFrame(points, columns=list(axis_names)),
        title=title,
        subtitle=subtitle,
        alternative=described("Scatter", f"{axis_names[1]} / {axis_names[0]}, {numbers.whole(len(points))}. {title}."),
        figures=figures,
    )


def _reach(values: Floats) -> tuple[float, float, int]:
    """The ends of the axis, and how many points lie beyond: a few far ones would press all others flat."""
    low, high = float(values.min()), float(values.max())
    if values.size > 400:
        a, b = (float(q) for q in np.quantile(values, (0.002, 0.998)))
        if high - low > 3 * (b - a):
            return a, b, int(((values < a) | (values > b)).sum())
    return low, high, 0
