"""A printed table drawn: bars in its cells, a scale a column, or a heat map where all cells share one."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from . import theme
from .chart import Chart, clip, described, row_names, titled

Floats = npt.NDArray[np.float64]


def cell_bars(
    *,
    name: str,
    title: str,
    subtitle: str,
    source: str,
    rows: Sequence[str],
    heads: Sequence[str],
    values: Floats,
    texts: Sequence[Sequence[str]],
    bold: set[int],
    by: str,
) -> Chart:
    """`values`, shape (rows, columns), as bars from nought, each column on a scale of its own; NaN for no value;
    `texts` the same in words. Rows in `bold` stand for others and take no part in the scales."""
    import pandas as pd

    names = row_names(list(rows), 26)
    figure = theme.figure(1.7 + (0.36 + names.more) * len(rows) + 0.25 * (len(title) > 74))
    bottom, top = titled(figure, title, subtitle, source)
    left, head = 0.03 + min(0.3, 0.0115 * names.longest), 0.3 / figure.get_figheight()
    places = np.arange(len(rows))[::-1]
    inner = np.array([row not in bold for row in range(len(rows))])
    wide = (0.975 - left) / len(heads)
    for column, text in enumerate(heads):
        axes = figure.add_axes((left + column * wide, bottom, 0.92 * wide, top - bottom - head))
        own = values[:, column]
        known = own[np.isfinite(own) & inner]
        low, high = float(min(known.min(initial=0.0), 0.0)), float(max(known.max(initial=0.0), 0.0))
        reach = (high - low) or 1.0
        shown = inner & np.isfinite(own)
        axes.barh(
            places[shown], own[shown], height=0.62, zorder=2,
            color=[theme.ACCENT if low < 0 and value < 0 else theme.CONTEXT for value in own[shown]], alpha=0.55,
        )  # fmt: skip
        # Numbers stand at the right, bars take the rest.
        axes.set_xlim(low - 0.02 * reach, low + reach * 2.1)
        axes.set_ylim(-0.6, len(rows) - 0.4)
        for row, y in enumerate(places):
            axes.annotate(
                texts[row][column], (1, y), xycoords=("axes fraction", "data"), ha="right", va="center",
                fontsize=theme.LABEL, color=theme.INK, **theme.font(bold=row in bold),
            )  # fmt: skip
        axes.set_title(clip(text, 22), fontsize=theme.LABEL, color=theme.QUIET, loc="right", pad=4, **theme.font())
        axes.patch.set_visible(False)
        axes.set_xticks([])
        if column:
            axes.set_yticks([])
        else:
            theme.name_rows(axes, places, names.shown, bold)
        for spine in axes.spines.values():
            spine.set_visible(False)
        axes.axvline(0, color=theme.RULE, linewidth=0.9, zorder=1)
    data = pd.DataFrame({by: list(rows)} | {text: values[:, column] for column, text in enumerate(heads)})
    listed = "; ".join(f"{row} {', '.join(cells)}" for row, cells in zip(rows, texts, strict=True))
    return Chart(
        name=name,
        figure=figure,
        data=data,
        title=title,
        subtitle=subtitle,
        alternative=described("Table with bars", f"{title} {listed}."),
        shown={text: [cells[column] for cells in texts] for column, text in enumerate(heads)},
        figures=(),
    )
