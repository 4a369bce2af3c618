"""A line over time from plain figures: one or a few series, gaps where there is nothing, an unfinished end, a forecast
with its band, marked events and reference lines."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from ..stats.autocorrelated_fits import Floats
from ..text.languages import say
from . import theme
from .axis_scales import axis_texts
from .chart import Chart, clip, described, not_from_nought, titled, wrapped
from .marks import Mark, with_notes
from .palette import Palette, shared


def paths(
    *,
    name: str,
    title: str,
    subtitle: str,
    source: str,
    labels: Sequence[str],
    series: Sequence[tuple[str, Floats]],
    by: str,
    band: tuple[Floats, Floats] | None = None,
    forecast_from: int | None = None,
    events: Sequence[tuple[int, str]] = (),
    references: Sequence[tuple[str, float]] = (),
    partial_last: bool = False,
    palette: Palette | None = None,
) -> Chart:
    """`labels` name the places along the axis, `series` are (name, values) with NaN for gaps; the first is what the
    title is about. `band` (low, high) is shaded, from `forecast_from` on the line is dashed; `events` are (place,
    text)."""
    import pandas as pd

    count = len(labels)
    every = np.concatenate([values for _, values in series] + [np.asarray(end) for end in (band or ())])
    every = np.append(every[np.isfinite(every)], [value for _, value in references])
    low, high = float(every.min()), float(every.max())
    spread = (high - low) or abs(high) or 1.0
    from_zero = low >= 0 and low < 0.5 * high
    notes = [] if from_zero or low < 0 else [not_from_nought()]
    notes += [say("dashed: forecast, shaded: range")] if forecast_from is not None else []
    notes += [say("hollow: unfinished")] if partial_last else []
    scope, subtitle = subtitle, with_notes(subtitle, *notes)
    figure = theme.figure(3.9 + 0.25 * (len(title) > 74))
    bottom, top = titled(figure, title, subtitle, source)
    several = len(series) > 1
    axes = figure.add_axes((0.085, bottom + 0.07, (0.74 if several or references else 0.88), top - bottom - 0.09))
    # The first line is gold, what the title is about; no other gets that colour.
    own = palette or shared() or Palette({series[0][0]: theme.ACCENT})
    ends: list[tuple[float, str, str, bool]] = []
    marks = []
    for number, (label, values) in enumerate(series):
        colour = own.colour(label)
        drawn = _draw(axes, values, colour, forecast_from, first=number == 0, partial_last=partial_last)
        marks.append(Mark(artist=drawn, column=label, category=label if several else "", lit=number == 0))
        known = np.flatnonzero(np.isfinite(values))
        if known.size:
            ends.append((float(values[known[-1]]), wrapped(label, 20), colour, number == 0))
    if band is not None:
        axes.fill_between(np.arange(count), band[0], band[1], color=theme.ACCENT, alpha=0.2, linewidth=0, zorder=1)
    for text, value in references:
        axes.axhline(value, color=theme.INK, linewidth=1, linestyle=(0, (3, 3)), zorder=2)
        ends.append((value, wrapped(text, 20), theme.INK, False))
    _mark_events(axes, events, count)
    bottom_end = 0.0 if from_zero else low - 0.08 * spread
    axes.set_ylim(bottom_end, high + (0.18 if events else 0.08) * spread)
    axes.set_xlim(-0.5, max(0.5, count - 0.5))
    theme.dress(axes)
    step = max(1, -(-count // 8))
    shown = list(range(0, count, step))
    axes.set_xticks(shown, [clip(labels[place], 10) for place in shown])
    axes.tick_params(axis="x", pad=9)
    for tick in axes.get_xticklabels():
        tick.set(**theme.font())
    axis_texts(axes, None)
    if several or references:
        _name_ends(axes, ends)
    data = pd.DataFrame({by: list(labels), **dict(series)})
    if band is not None:
        data = data.assign(low=band[0], high=band[1])
    return Chart(
        name=name,
        figure=figure,
        data=data,
        title=title,
        subtitle=subtitle,
        scope=scope,
        marks=tuple(marks),
        kind="line",
        alternative=described("Line chart", f"{', '.join(label for label, _ in series[:6])} · {by}. {title}."),
    )


def _draw(axes: Any, values: Floats, colour: str, forecast_from: int | None, *, first: bool, partial_last: bool) -> Any:
    """One line: dashed where it is a forecast, a dot for what stands alone, hollow where its last period is unfinished.
    The solid part is returned."""
    places, solid = np.arange(values.size), values.copy()
    if partial_last:
        solid[-1] = np.nan
    if forecast_from is not None:
        ahead = solid.copy()
        ahead[: max(0, forecast_from - 1)] = np.nan
        solid[forecast_from:] = np.nan
        axes.plot(places, ahead, color=colour, linewidth=2, linestyle=(0, (4, 2)), zorder=4)
    drawn = axes.plot(places, solid, color=colour, linewidth=2.2 if first else 1.5, zorder=5 if first else 4)
    alone = np.isfinite(solid) & ~np.isfinite(np.r_[np.nan, solid[:-1]]) & ~np.isfinite(np.r_[solid[1:], np.nan])
    if alone.any():
        axes.plot(places[alone], solid[alone], linestyle="", marker="o", markersize=5, color=colour, zorder=5)
    if partial_last and np.isfinite(values[-1]):
        axes.plot(
            [places[-1]],
            [values[-1]],
            marker="o",
            markersize=6,
            markerfacecolor=theme.PAPER,
            markeredgecolor=colour,
            linestyle="",
            zorder=6,
        )
    return drawn[0]


def _mark_events(axes: Any, events: Sequence[tuple[int, str]], count: int) -> None:
    """A line for each event, with its text on the side where there is more room."""
    for place, text in events:
        axes.axvline(place, color=theme.QUIET, linewidth=1, linestyle=(0, (2, 2)), zorder=1)
        late = place > count / 2
        axes.annotate(
            clip(text, 28),
            (place, 1.0),
            xycoords=("data", "axes fraction"),
            xytext=(-4 if late else 4, -2),
            textcoords="offset points",
            ha="right" if late else "left",
            va="top",
            fontsize=9,
            color=theme.QUIET,
            **theme.font(),
        )


def _name_ends(axes: object, ends: Sequence[tuple[float, str, str, bool]]) -> None:
    """Names beside the ends of the lines, moved apart where they would overlap."""
    from matplotlib.axes import Axes
    from matplotlib.figure import Figure

    assert isinstance(axes, Axes)
    assert isinstance(axes.figure, Figure)
    low, high = axes.get_ylim()
    inches = axes.get_position().height * axes.figure.get_figheight()
    least = (high - low) * 0.19 / inches
    reached = -np.inf
    for value, text, colour, strong in sorted(ends):
        # Each takes as much room as it has lines, half of it above and half below.
        half = 0.5 * least * (1 + 0.85 * text.count("\n"))
        y = max(value, reached + half)
        reached = y + half
        axes.annotate(
            text,
            (1.0, y),
            xycoords=("axes fraction", "data"),
            xytext=(6, 0),
            textcoords="offset points",
            va="center",
            ha="left",
            fontsize=9.5,
            linespacing=0.95,
            color=colour,
            annotation_clip=False,
            **theme.font(bold=strong),
        )
