"""An outcome along a number: the average in each bin with its range, the line between, and where it is cut or bends."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..aggregation.measures import Measure
from . import theme
from .axis_scales import axis_texts
from .chart import Chart, described, not_from_nought, titled
from .marks import with_notes


def curve(
    *,
    name: str,
    title: str,
    subtitle: str,
    source: str,
    points: Sequence[tuple[float, float, float, int]],
    measure: Measure | None,
    axis_names: tuple[str, str],
    place: float | None = None,
    place_text: str = "",
    step: bool = False,
) -> Chart:
    """`points` are (middle, mean, standard error, rows); `place` a cut point (`step`: the line breaks there) or
    bend."""
    import pandas as pd

    figure = theme.figure(4.2 + 0.25 * (len(title) > 74))
    x, y, e = (np.array([point[i] for point in points], dtype=float) for i in range(3))
    e = np.where(np.isfinite(e), e, 0.0)
    from_zero = bool(y.min() >= 0 and y.min() < 0.5 * y.max())
    subtitle = subtitle if from_zero else with_notes(subtitle, not_from_nought())
    bottom, top = titled(figure, title, subtitle, source)
    axes = figure.add_axes((0.085, bottom + 0.13, 0.88, top - bottom - 0.19))
    parts = [np.arange(x.size)]
    if step and place is not None:
        parts = [np.flatnonzero(x <= place), np.flatnonzero(x > place)]
    for part in parts:
        axes.plot(x[part], y[part], color=theme.CONTEXT, linewidth=1.6, zorder=2)
    axes.errorbar(x, y, yerr=1.96 * e, fmt="none", ecolor=theme.CONTEXT, elinewidth=1.2, zorder=2)
    if place is not None:
        # What the sentence is about lies beyond the place.
        before, after = x <= place, x > place
        axes.plot(x[before], y[before], linestyle="", marker="o", markersize=7, color=theme.CONTEXT, zorder=3)
        axes.plot(x[after], y[after], linestyle="", marker="o", markersize=7, color=theme.ACCENT, zorder=3)
    else:
        axes.plot(x, y, linestyle="", marker="o", markersize=7, color=theme.ACCENT, zorder=3)
    low, high = float((y - 1.96 * e).min()), float((y + 1.96 * e).max())
    room = (high - low) or 1.0
    axes.set_ylim(0.0 if from_zero else low - 0.1 * room, high + 0.16 * room)
    axes.margins(x=0.04)
    theme.dress(axes)
    if place is not None:
        axes.axvline(place, color=theme.INK, linewidth=1.0, linestyle=(0, (3, 3)), zorder=1)
        late = place > (x.min() + x.max()) / 2
        axes.annotate(
            place_text,
            (place, 1.0),
            xycoords=("data", "axes fraction"),
            xytext=(-5 if late else 5, -2),
            textcoords="offset points",
            ha="right" if late else "left",
            va="top",
            fontsize=theme.LABEL,
            color=theme.INK,
            **theme.font(bold=True),
        )
    axis_texts(axes, measure)
    axis_texts(axes, None, which="x")
    axes.set_xlabel(axis_names[0], fontsize=theme.LABEL, color=theme.QUIET, **theme.font())
    figure.text(
        0.015, top - 0.005, axis_names[1], fontsize=theme.LABEL, color=theme.QUIET, va="top", ha="left", **theme.font()
    )
    data = pd.DataFrame({axis_names[0]: x, axis_names[1]: y, "error": e, "rows": [point[3] for point in points]})
    return Chart(
        name=name,
        figure=figure,
        data=data,
        title=title,
        subtitle=subtitle,
        alternative=described(
            "Dot chart", f"{title}. " + "; ".join(f"{a:.4g}: {b:.4g}" for a, b in zip(x, y, strict=True)) + "."
        ),
    )
