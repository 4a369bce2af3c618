"""A measure over time: the series in ink or gold, the rest in grey, the fitted line, a marked step."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from ..aggregation.measures import Measure
from ..tables import Timeline
from ..text import dates
from . import theme
from .axis_scales import axis_texts, cell_format
from .chart import Chart, described, not_from_nought, titled, wrapped
from .marks import Mark, with_notes
from .palette import by_hand

#: The column of the fitted line.
FITTED = "fitted"


def line(
    *,
    name: str,
    title: str,
    subtitle: str,
    source: str,
    timeline: Timeline,
    measure: Measure,
    offset: int,
    series: Sequence[tuple[str, Any]],
    fit: Any = None,
    step: tuple[int, float, float] | None = None,
    partial: float | None = None,
    mark: int | None = None,
    indexed: bool = False,
    spans: Sequence[tuple[float, float]] = (),
    alternative: str = "",
    notes: Sequence[str] = (),
) -> Chart:
    """Lines over the complete periods.

    The first of `series` (label, values) is what the title is about, others are context. `fit` is a fitted line with
    NaN where it does not reach; `step` (place, before, after) marks a shift, `mark` a single place; `partial` is the
    value of an unfinished last period, shown hollow; `spans` are places (first, past the last) to be shaded; `notes`
    are said behind the subtitle, of marks that only the picture has. Values are NaN where there is no row: a gap, not a
    nought. The scale starts at nought wherever that leaves the movement visible, and the axis says so where it does
    not."""
    import pandas as pd

    every = np.concatenate([np.asarray(values, dtype=float) for _, values in series])
    every = every[np.isfinite(every)]
    if partial is not None:
        every = np.append(every, partial)
    low, high = float(every.min()), float(every.max())
    spread = (high - low) or abs(high) or 1.0
    from_zero = low >= 0 and low < 0.5 * high
    if not from_zero:
        notes = (*notes, not_from_nought())
    figure = theme.figure(3.9)
    bottom, top = titled(figure, title, with_notes(subtitle, *notes), source)
    axes = figure.add_axes((0.075, bottom + 0.07, 0.76, top - bottom - 0.07))
    places = np.arange(len(series[0][1])) + offset
    marks = _drawn(axes, places, series, lit=mark is None)
    if fit is not None:
        dashes = axes.plot(places, fit, color=theme.INK, linewidth=1.3, linestyle=(0, (4, 3)), zorder=4)
        marks.append(Mark(artist=dashes[0], column=FITTED))
    if step is not None:
        axes.axvline(step[0] + offset - 0.5, color=theme.INK, linewidth=0.9, linestyle=(0, (2, 2)), zorder=1)
    if mark is not None:
        axes.plot([places[mark]], [series[0][1][mark]], marker="o", markersize=7, color=theme.ACCENT, zorder=5)
    if partial is not None:
        _draw_unfinished(axes, float(places[-1]), float(series[0][1][-1]), partial)
    axes.set_ylim(0 if from_zero else low - 0.08 * spread, high + 0.1 * spread)
    # The first year must not run into the figures of the axis.
    axes.set_xlim(places[0] - max(0.5, 0.02 * len(places)), places[-1] + (1.5 if partial is not None else 0.5))
    shade(axes, spans)
    theme.dress(axes)
    if from_zero:
        axes.axhline(0, color=theme.INK, linewidth=0.9, zorder=1)
    axis_texts(axes, measure, index=indexed)
    date_ticks(axes, timeline, int(places[0]), int(places[-1]) + int(partial is not None))
    _end_labels(figure, axes, places, series, accent=mark is None)
    data: dict[str, Any] = {"period": [str(timeline.period(int(place)).start) for place in places]}
    data |= {label: list(map(float, values)) for label, values in series}
    if fit is not None:
        data[FITTED] = list(map(float, fit))
    return Chart(
        name=name,
        figure=figure,
        data=pd.DataFrame(data),
        title=title,
        subtitle=with_notes(subtitle, *notes),
        scope=subtitle,
        marks=tuple(marks),
        kind="line",
        number_format=cell_format((value for _, values in series for value in values), measure, index=indexed),
        alternative=alternative or described("Line chart", title),
    )


def _drawn(axes: Any, places: Any, series: Sequence[tuple[str, Any]], *, lit: bool) -> list[Mark]:
    """The lines, the first above the others, and `lit` where no single place of it is."""
    marks = []
    for index, (label, values) in reversed(list(enumerate(series))):
        accent = index == 0 and lit
        drawn = axes.plot(
            places,
            values,
            color=by_hand(label) or (theme.ACCENT if accent else theme.CONTEXT),
            linewidth=2.2 if accent else 1.4,
            solid_capstyle="round",
            zorder=3 if accent else 2,
        )
        marks.append(Mark(artist=drawn[0], column=label, category=label if by_hand(label) else "", lit=index == 0))
    return marks


def _draw_unfinished(axes: Any, place: float, value: float, partial: float) -> None:
    """What an unfinished period came to so far, hollow, a dotted line after the last whole one."""
    axes.plot([place, place + 1], [value, partial], color=theme.ACCENT, linewidth=1.2, linestyle=(0, (1, 2)), zorder=3)
    axes.plot(
        [place + 1],
        [partial],
        marker="o",
        markersize=5.5,
        markerfacecolor=theme.PAPER,
        markeredgecolor=theme.ACCENT,
        zorder=5,
    )


def shade(axes: Any, spans: Sequence[tuple[float, float]]) -> None:
    """Shade stretches of periods behind the line."""
    for first, past in spans:
        axes.axvspan(first - 0.5, past - 0.5, color=theme.RULE, alpha=0.55, linewidth=0, zorder=0)


def date_ticks(axes: Any, timeline: Timeline, first: int, last: int, *, few: bool = False) -> None:
    """Ticks at the starts of years where there are several, else at a few periods."""
    starts = [str(timeline.period(place).start) for place in range(first, last + 1)]
    years = [
        place
        for place, start in zip(range(first, last + 1), starts, strict=True)
        if start[5:7] == "01" and start[:4] != (starts[place - first - 1][:4] if place > first else "")
    ]
    if len(years) >= 2 and timeline.grain.value != "year":
        ticks, texts = years, [starts[place - first][:4] for place in years]
    else:
        stride = max(1, (last - first + 1) // (3 if few else 7))
        ticks = list(range(first + stride // 2, last + 1, stride))
        texts = [_short_date(starts[place - first], timeline.grain.value) for place in ticks]
    axes.set_xticks(ticks, texts)
    for label in axes.get_xticklabels():
        label.set(**theme.font())


def _short_date(start: str, grain: str) -> str:
    """ "2025", "Mar 2025" or "6 Jan" as the grain asks."""
    if grain == "year":
        return start[:4]
    return dates.month_short(start) if grain in ("month", "quarter") else dates.day_short(start)


def _end_labels(figure: Any, axes: Any, places: Any, series: Sequence[tuple[str, Any]], accent: bool = True) -> None:
    """Names at the ends of the lines, moved apart where they would touch."""
    low, high = axes.get_ylim()
    room = (high - low) * 0.30 / (figure.get_figheight() * axes.get_position().height)
    wanted = [(float(np.asarray(values)[np.isfinite(values)][-1]), index) for index, (_, values) in enumerate(series)]
    reached = -np.inf
    for value, index in sorted(wanted):
        # Bold letters are wider.
        text = wrapped(series[index][0], 17 if index == 0 and accent else 20)
        half = 0.31 * room * (1 + 0.85 * text.count("\n"))
        height = max(value, reached + half)
        reached = height + half
        axes.annotate(
            text,
            (axes.get_xlim()[1], height),
            xytext=(6, 0),
            textcoords="offset points",
            fontsize=theme.LABEL,
            linespacing=0.95,
            color=by_hand(series[index][0]) or (theme.ACCENT if index == 0 and accent else theme.QUIET),
            va="center",
            ha="left",
            annotation_clip=False,
            **theme.font(bold=index == 0 and accent),
        )
