"""Cohorts drawn: a triangle of shares by cohort and age, and their curves with the odd ones lit."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..aggregation.measures import ROWS
from ..analysis.cohorts import CohortTable
from ..text import dates, names, numbers
from ..text.languages import say
from . import theme
from .axis_scales import axis_texts
from .chart import Chart, described, titled
from .heatmap import heat
from .marks import Mark

#: Cohorts and ages that a picture has room for.
_MOST_ROWS, _MOST_COLUMNS = 24, 13


def draw_triangle(found: CohortTable, title: str) -> Chart:
    """Tiles: the share of each cohort active at each age; blank where that is not over."""
    shown = [one for one in found.cohorts if one.size][-_MOST_ROWS:]
    ages = min(found.ages, _MOST_COLUMNS)
    values = 100 * np.array([one.share[:ages] for one in shown])
    texts = [["" if not np.isfinite(value) else numbers.percent(float(value)) for value in row] for row in values]
    left_out = len([one for one in found.cohorts if one.size]) - len(shown)
    grain = names.grain_noun(found.grain.value)
    subtitle = say("Share active by {grain} after joining; members in brackets", grain=grain)
    if left_out:
        subtitle = f"{subtitle} · {say('{n} earlier cohorts not shown', n=numbers.whole(left_out))}"
    return heat(
        name="cohorts",
        title=title,
        subtitle=subtitle,
        source=say("Source: {name}", name=found.table.name),
        rows=[f"{dates.period(one.period)} ({numbers.whole(one.size)})" for one in shown],
        columns=[numbers.whole(place) for place in range(ages)],
        values=values,
        texts=texts,
        by=(say("Joined", "column"), say("age", "column")),
    )


def draw_curves(found: CohortTable, title: str) -> Chart:
    """A line for each cohort by age, what all together do beside it, the odd ones lit and named."""
    import pandas as pd

    shown = [one for one in found.cohorts if one.size and np.isfinite(one.share).sum() > 1]
    odd = {str(one.period.start): one for one in found.odd[:3]}
    figure = theme.figure(4.2)
    grain = names.grain_noun(found.grain.value)
    subtitle = say("Share active by {grain} after joining; a line for each cohort", grain=grain)
    bottom, top = titled(figure, title, subtitle, say("Source: {name}", name=found.table.name))
    axes = figure.add_axes((0.085, bottom + 0.08, 0.74, top - bottom - 0.1))
    ages = np.arange(found.ages)
    columns: dict[str, np.ndarray] = {say("age", "column"): ages}
    for one in shown:
        columns[dates.period(one.period)] = one.share
        if str(one.period.start) not in odd:
            axes.plot(ages, one.share, color=theme.CONTEXT, linewidth=0.8, alpha=0.6, zorder=2)
    drawn = axes.plot(ages, found.pooled, color=theme.INK, linewidth=1.8, zorder=4)
    marks = [Mark(artist=drawn[0], column=say("All", "column"))]
    columns[say("All", "column")] = found.pooled
    seen = np.flatnonzero(np.isfinite(found.pooled))
    ends = [(int(seen[-1]), float(found.pooled[seen[-1]]), say("All", "column"), theme.INK)]
    for one in shown:
        if str(one.period.start) in odd:
            line = axes.plot(ages, one.share, color=theme.ACCENT, linewidth=2.2, zorder=5)
            marks.append(Mark(artist=line[0], column=dates.period(one.period), lit=True))
            known = np.flatnonzero(np.isfinite(one.share))
            ends.append((int(known[-1]), float(one.share[known[-1]]), dates.period(one.period), theme.ACCENT))
    reached = -1.0
    for place, height, text, colour in sorted(ends, key=lambda end: end[1]):
        height = max(height, reached + 0.055)
        reached = height
        axes.annotate(
            text, (place, height), xytext=(6, 0), textcoords="offset points", color=colour, va="center",
            fontsize=theme.LABEL, **theme.font(bold=colour == theme.ACCENT),
        )  # fmt: skip
    axes.set_ylim(0, 1.02)
    axes.set_xlim(0, max(found.ages - 1, 1))
    theme.dress(axes)
    axis_texts(axes, replace(ROWS, share=True))
    axis_texts(axes, None, which="x")
    return Chart(
        name="cohort-curves",
        figure=figure,
        data=pd.DataFrame(columns),
        title=title,
        subtitle=subtitle,
        scope=subtitle,
        marks=tuple(marks),
        number_format="0%",
        alternative=described("Lines", title),
        figures=(),
    )
