"""A forecast drawn: the past, the path with both ranges; what the past is made of; errors by horizon.

Bands and panels are pictures everywhere: a native chart of an office program would draw them as lines on one axis.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from ..analysis.forecast import Outlook
from ..text import names
from ..text.languages import say
from . import theme
from .axis_scales import axis_texts
from .chart import Chart, described, not_from_nought, titled
from .line_chart import date_ticks
from .marks import Mark, with_notes

#: Periods of the past that are drawn at most beside the forecast, by grain.
_SHOWN = {"day": 90, "week": 78, "month": 36, "quarter": 20, "year": 30}


def draw_forecast(found: Outlook, title: str) -> Chart:
    """The past, the forecast with its ranges, and the same periods of the year before."""
    import pandas as pd

    shown = min(len(found.history), max(_SHOWN[found.grain.value], 2 * len(found.ahead)))
    first = found.line.complete.start + len(found.history) - shown
    factor = 100.0 if found.measure.share else 1.0
    past = factor * np.array(found.history[-shown:])
    ahead = {
        name: factor * np.array([getattr(one, name) for one in found.ahead])
        for name in ("value", "low80", "high80", "low95", "high95")
    }
    before = factor * np.array([np.nan if one.year_before is None else one.year_before for one in found.ahead])
    places = first + np.arange(shown)
    later = first + shown + np.arange(len(found.ahead))
    every = np.concatenate([past, ahead["low95"], ahead["high95"], before[np.isfinite(before)]])
    low, high = float(every.min()), float(every.max())
    spread = (high - low) or abs(high) or 1.0
    from_zero = low >= 0 and low < 0.5 * high
    subtitle = " · ".join(
        (
            names.capital(str(names.measure_name(found.measure))),
            say("by {grain}", grain=_grain(found)),
            say("shaded: 80% and 95% ranges"),
        )
    )
    notes = () if from_zero else (not_from_nought(),)
    figure = theme.figure(3.9)
    bottom, top = titled(figure, title, with_notes(subtitle, *notes), say("Source: {name}", name=found.table.name))
    axes = figure.add_axes((0.075, bottom + 0.07, 0.76, top - bottom - 0.07))
    for wide, strength in (("95", 0.16), ("80", 0.26)):
        axes.fill_between(
            later, ahead[f"low{wide}"], ahead[f"high{wide}"], color=theme.ACCENT, alpha=strength, linewidth=0, zorder=1
        )
    drawn = axes.plot(places, past, color=theme.INK, linewidth=1.6, solid_capstyle="round", zorder=3)
    joined = np.concatenate([past[-1:], ahead["value"]])
    gold = axes.plot(np.r_[places[-1], later], joined, color=theme.ACCENT, linewidth=2.2, zorder=4)
    told = names.capital(str(names.measure_name(found.measure)))
    marks = [Mark(artist=drawn[0], column=told), Mark(artist=gold[0], column=say("forecast", "line"), lit=True)]
    if np.isfinite(before).any() and found.grain.value in ("month", "quarter"):
        grey = axes.plot(later, before, color=theme.QUIET, linewidth=1.2, linestyle=(0, (2, 2)), zorder=2)
        marks.append(Mark(artist=grey[0], column=say("a year before", "line")))
    axes.set_ylim(0 if from_zero else low - 0.08 * spread, high + 0.1 * spread)
    axes.set_xlim(places[0] - max(0.5, 0.02 * shown), later[-1] + 0.5)
    axes.axvline(places[-1] + 0.5, color=theme.QUIET, linewidth=0.8, linestyle=(0, (2, 2)), zorder=1)
    theme.dress(axes)
    axis_texts(axes, found.measure)
    date_ticks(axes, found.line, int(places[0]), int(later[-1]))
    _ends(axes, float(ahead["value"][-1]), float(before[-1]) if np.isfinite(before[-1]) and len(marks) > 2 else None)
    blank = np.full(shown, np.nan)
    ends = (say("80% from"), say("80% to"), say("95% from"), say("95% to"))
    data = {
        "period": [str(one.start) for one in found.periods[-shown:]] + [str(one.period.start) for one in found.ahead],
        told: np.r_[past, np.full(later.size, np.nan)],
        say("forecast", "line"): np.r_[blank, ahead["value"]],
    }
    data |= {
        head: np.r_[blank, ahead[name]] for head, name in zip(ends, ("low80", "high80", "low95", "high95"), strict=True)
    }
    data[say("a year before", "line")] = np.r_[blank, before]
    figures = [
        figure
        for one in ([found.total] if found.total else [])
        for figure in (
            one.value,
            one.low80,
            one.high80,
            *([one.year_before, 100 * (one.value / one.year_before - 1)] if one.year_before else []),
        )
    ]
    return Chart(
        name="forecast",
        figure=figure,
        data=pd.DataFrame(data),
        title=title,
        subtitle=with_notes(subtitle, *notes),
        scope=subtitle,
        marks=tuple(marks),
        alternative=described("Line chart", title),
        figures=tuple(figures),
    )


def _grain(found: Outlook) -> str:
    return str(names.one_of(names.grain_noun(found.grain.value)))


def _ends(axes: Any, value: float, before: float | None) -> None:
    """Names at the ends of the lines, kept apart."""
    wanted = [(value, say("forecast", "line"), theme.ACCENT, True)]
    if before is not None:
        low, high = axes.get_ylim()
        apart = 0.075 * (high - low)
        height = before if abs(before - value) > apart else value + (apart if before > value else -apart)
        wanted.append((height, say("a year before", "line"), theme.QUIET, False))
    for height, text, colour, bold in wanted:
        axes.annotate(
            text,
            (axes.get_xlim()[1], height),
            xytext=(6, 0),
            textcoords="offset points",
            fontsize=theme.LABEL,
            color=colour,
            va="center",
            ha="left",
            annotation_clip=False,
            **theme.font(bold=bold),
        )


def draw_components(found: Outlook, title: str) -> Chart:
    """What the past is made of, one below the other: the level, the season, known events, what remains."""
    import pandas as pd

    apart = found.components
    neutral = 1.0 if apart.factors else 0.0
    panels = [(say("level", "component"), apart.level, "level")]
    if np.ptp(apart.season) > 0:
        panels.append((say("season", "component"), apart.season, "season"))
    if np.ptp(apart.events) > 0:
        panels.append((say("known events", "component"), apart.events, "events"))
    panels.append((say("what remains", "component"), apart.remainder, "remainder"))
    figure = theme.figure(1.35 + 1.05 * len(panels), several=True)
    subtitle = say("factors of the level") if apart.factors else say("added to the level")
    bottom, top = titled(
        figure,
        title,
        f"{names.capital(str(names.measure_name(found.measure)))} · {subtitle}",
        say("Source: {name}", name=found.table.name),
    )
    places = found.line.complete.start + np.arange(len(found.history))
    height = (top - bottom - 0.06) / len(panels)
    marks = []
    for place, (label, values, column) in enumerate(panels):
        axes = figure.add_axes((0.09, top - (place + 1) * height + 0.03, 0.74, height - 0.05))
        if column == "level":
            drawn = axes.plot(places, values, color=theme.ACCENT, linewidth=2, zorder=3)
        else:
            drawn = axes.plot(places, values, color=theme.INK, linewidth=1.2, zorder=3)
            axes.axhline(neutral, color=theme.QUIET, linewidth=0.8, zorder=1)
        marks.append(Mark(artist=drawn[0], column=label, lit=column == "level"))
        theme.dress(axes)
        axes.locator_params(axis="y", nbins=3)
        axis_texts(axes, found.measure if column == "level" else None)
        date_ticks(axes, found.line, int(places[0]), int(places[-1]))
        if place < len(panels) - 1:
            axes.set_xticklabels([])
        axes.annotate(
            label,
            (axes.get_xlim()[1], 0.5),
            xycoords=("data", "axes fraction"),
            xytext=(6, 0),
            textcoords="offset points",
            fontsize=theme.LABEL,
            color=theme.QUIET,
            va="center",
            **theme.font(),
        )
    data = {"period": [str(one.start) for one in found.periods], **{label: values for label, values, _ in panels}}
    return Chart(
        name="components",
        figure=figure,
        data=pd.DataFrame(data),
        title=title,
        subtitle=subtitle,
        scope=subtitle,
        marks=tuple(marks),
        alternative=described("Line chart", title),
    )


def draw_errors(found: Outlook, title: str) -> Chart:
    """How much the forecast missed by at its origins, by how far ahead. Raises LookupError where that is not known."""
    import pandas as pd

    if len(found.errors) < 2 or max(found.errors) == 0:
        raise LookupError("too little is known of errors")
    values = 100 * np.array(found.errors)
    figure = theme.figure(3.2)
    subtitle = say(
        "Mean absolute error in percent of the mean, by {units} ahead", units=names.grain_noun(found.grain.value)
    )
    bottom, top = titled(figure, title, subtitle, say("Source: {name}", name=found.table.name))
    axes = figure.add_axes((0.075, bottom + 0.07, 0.86, top - bottom - 0.07))
    places = np.arange(1, values.size + 1)
    drawn = axes.bar(places, values, color=theme.CONTEXT, width=0.7, zorder=2)
    axes.set_xlim(0.4, values.size + 0.6)
    axes.set_ylim(0, 1.15 * values.max())
    theme.dress(axes)
    axes.set_xticks(places[:: max(1, -(-values.size // 12))])
    axes.axhline(0, color=theme.INK, linewidth=0.9, zorder=1)
    axis_texts(axes, None)
    return Chart(
        name="errors",
        figure=figure,
        data=pd.DataFrame({say("periods ahead"): list(map(str, places)), say("error in percent"): values}),
        title=title,
        subtitle=subtitle,
        scope=subtitle,
        marks=tuple(Mark(artist=bar, column=say("error in percent"), row=row) for row, bar in enumerate(drawn)),
        kind="bars",
        alternative=described("Bar chart", title),
    )
