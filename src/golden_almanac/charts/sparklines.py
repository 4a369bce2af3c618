"""Small things for the top of a page: a table with a spark line in each row, and a card with one figure."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from . import theme
from .chart import Chart, clip, described, titled, wrapped


def spark_table(
    *, name: str, title: str, subtitle: str, source: str, rows: Sequence[tuple[str, str, str, Sequence[float]]], by: str
) -> Chart:
    """`rows` are (label, value, change, series), already in words; each series has its own scale, its last point in
    gold."""
    import pandas as pd

    figure = theme.figure(1.45 + 0.42 * len(rows) + 0.25 * (len(title) > 74))
    bottom, top = titled(figure, title, subtitle, source)
    axes = figure.add_axes((0.015, bottom, 0.97, top - bottom))
    axes.set_xlim(0, 100)
    axes.set_ylim(-0.6, len(rows) - 0.4)
    axes.axis("off")
    for place, (label, value, change, series) in enumerate(rows):
        y = len(rows) - 1 - place
        if place:
            axes.plot([0, 100], [y + 0.5, y + 0.5], color=theme.RULE, linewidth=0.8, zorder=1)
        axes.text(
            0, y, wrapped(label, 30), va="center", ha="left", fontsize=theme.LABEL, color=theme.INK, **theme.font()
        )
        axes.text(
            49,
            y,
            clip(value, 16),
            va="center",
            ha="right",
            fontsize=theme.LABEL,
            color=theme.INK,
            **theme.font(bold=True),
        )
        axes.text(52, y, clip(change, 26), va="center", ha="left", fontsize=9.5, color=theme.QUIET, **theme.font())
        known = np.array([np.nan if series is None else series for series in series], dtype=float)
        finite = np.isfinite(known)
        if finite.any():
            low, spread = float(np.nanmin(known)), float(np.nanmax(known) - np.nanmin(known)) or 1.0
            x = 76 + 23 * np.arange(known.size) / max(1, known.size - 1)
            heights = y - 0.3 + 0.6 * (known - low) / spread
            axes.plot(x, heights, color=theme.CONTEXT, linewidth=1.3, zorder=2)
            last = int(np.flatnonzero(finite)[-1])
            axes.plot([x[last]], [heights[last]], marker="o", markersize=4.5, color=theme.ACCENT, zorder=3)
    data = pd.DataFrame([{by: row[0], "value": row[1], "change": row[2]} for row in rows])
    told = "; ".join(f"{label} {value}, {change}" for label, value, change, _ in rows)
    return Chart(
        name=name,
        figure=figure,
        data=data,
        title=title,
        subtitle=subtitle,
        alternative=described("Table with spark lines", f"{told}."),
    )


def card(*, name: str, label: str, value: str, change: str, series: Sequence[float], source: str) -> Chart:
    """One figure, what it changed by, and its spark line."""
    import pandas as pd

    figure = theme.figure(2.0, several=True)
    _, top = titled(figure, label, change, source)
    figure.text(
        0.015, top - 0.02, value, fontsize=26, color=theme.INK, va="top", ha="left", **theme.font(serif=True, bold=True)
    )
    known = np.array([np.nan if series is None else series for series in series], dtype=float)
    axes = figure.add_axes((0.42, 0.24, 0.55, 0.42))
    axes.axis("off")
    if np.isfinite(known).sum() > 1:
        axes.plot(np.arange(known.size), known, color=theme.CONTEXT, linewidth=1.6)
        last = int(np.flatnonzero(np.isfinite(known))[-1])
        axes.plot([last], [known[last]], marker="o", markersize=7, color=theme.ACCENT)
    else:
        axes.plot([], [])
    return Chart(
        name=name,
        figure=figure,
        data=pd.DataFrame({"value": known}),
        title=label,
        subtitle=change,
        alternative=f"{label}: {value}, {change}.",
    )
