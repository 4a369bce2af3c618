"""Two bars for each label: what of a change came from within it (rate), and what through its weight (mix)."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..aggregation.measures import Measure
from ..text import consistent_rounding
from . import theme
from .chart import Chart, described, other, row_names, titled
from .marks import Mark

_MOST = 7


def twofold(
    *,
    name: str,
    title: str,
    subtitle: str,
    source: str,
    rows: Sequence[tuple[str, float, float]],
    parts: tuple[str, str],
    measure: Measure,
    by: str,
) -> Chart:
    """Bars from nought for (label, first, second); `parts` names the two, which are in gold and grey.

    Past so many labels the rest are added together, since the parts add up.
    """
    import pandas as pd

    place_of = {row: place for place, row in reversed(list(enumerate(rows)))}
    data = pd.DataFrame(
        {by: [row[0] for row in rows], parts[0]: [row[1] for row in rows], parts[1]: [row[2] for row in rows]}
    )
    kept = sorted(rows, key=lambda row: (-abs(row[1]) - abs(row[2]), row[0]))
    if len(kept) > _MOST:
        rest = kept[_MOST:]
        kept = [*kept[:_MOST], (other(len(rest)), sum(row[1] for row in rest), sum(row[2] for row in rest))]
    # Each kind of bar adds to its own sum, which the title or the text beside it says.
    columns = [[row[1] for row in kept], [row[2] for row in kept]]
    told = [consistent_rounding.split(column, sum(column), measure).texts(signed=True) for column in columns]
    figure = theme.figure(1.75 + 0.52 * len(kept) + 0.25 * (len(title) > 74))
    bottom, top = titled(figure, title, subtitle, source)
    names = row_names([row[0] for row in kept])
    left = 0.03 + min(0.32, 0.0115 * names.longest)
    key = 0.3 / figure.get_figheight()
    axes = figure.add_axes((left, bottom, 0.97 - left, top - bottom - key))
    places = np.arange(len(kept))[::-1]
    sizes = np.array([row[1:] for row in kept], dtype=float)
    marks: list[Mark] = []
    for index, (colour, shift) in enumerate(((theme.ACCENT, 0.19), (theme.CONTEXT, -0.19))):
        bars = axes.barh(places + shift, sizes[:, index], height=0.36, color=colour, zorder=3)
        marks += [
            Mark(artist=bar, column=parts[index] if row in place_of else "", row=place_of.get(row), lit=index == 0)
            for bar, row in zip(bars, kept, strict=True)
        ]
        figure.text(
            left + 0.2 * index,
            top + 0.02 - key,
            parts[index],
            fontsize=theme.LABEL,
            color=colour if index == 0 else theme.QUIET,
            va="bottom",
            ha="left",
            **theme.font(bold=True),
        )
        for place, size, text in zip(places, sizes[:, index], told[index], strict=True):
            axes.annotate(
                text,
                (size, place + shift),
                xytext=(5 if size >= 0 else -5, 0),
                textcoords="offset points",
                va="center",
                ha="left" if size >= 0 else "right",
                fontsize=9,
                color=theme.INK,
                **theme.font(),
            )
    low, high = min(0.0, float(sizes.min())), max(0.0, float(sizes.max()))
    reach = (high - low) or 1.0
    axes.set_xlim(low - (0.2 * reach if low < 0 else 0.0), high + 0.2 * reach)
    axes.set_ylim(-0.6, len(kept) - 0.4)
    theme.name_rows(axes, places, names.shown)
    return Chart(
        name=name,
        figure=figure,
        data=data,
        title=title,
        subtitle=subtitle,
        marks=tuple(marks),
        kind="bars",
        alternative=described(
            "Bar chart",
            f"{title} "
            + "; ".join(
                f"{row[0]}: {parts[0]} {one}, {parts[1]} {two}" for row, one, two in zip(kept, *told, strict=True)
            ),
        ),
    )
