"""A table of numbers as tiles, each with its number: darker is more; or, signed, gold above and grey below."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..stats.autocorrelated_fits import Floats
from . import theme
from .chart import Chart, clip, described, row_names, titled


def heat(
    *,
    name: str,
    title: str,
    subtitle: str,
    source: str,
    rows: Sequence[str],
    columns: Sequence[str],
    values: Floats,
    texts: Sequence[Sequence[str]],
    signed: bool = False,
    by: tuple[str, str] = ("row", "column"),
) -> Chart:
    """`values` (rows, columns), NaN for no value; `texts` are the same in words."""
    import pandas as pd
    from matplotlib.colors import to_rgb

    names, heads = row_names(rows, 24), row_names(columns, 14)
    slanted = heads.longest > 88 // max(1, len(columns))
    shown_columns = [clip(text, 14) for text in columns] if slanted else heads.shown
    two = heads.lines > 1 and not slanted
    figure = theme.figure(
        1.6 + (0.36 + names.more) * len(rows) + (0.55 if slanted else 0.16 * two) + 0.25 * (len(title) > 74)
    )
    bottom, top = titled(figure, title, subtitle, source)
    left = 0.03 + min(0.28, 0.0115 * names.longest)
    head = (0.85 if slanted else 0.3 + 0.16 * two) / figure.get_figheight()
    axes = figure.add_axes((left, bottom, 0.975 - left, top - bottom - head))
    known = values[np.isfinite(values)]
    most = float(np.abs(known).max()) if known.size else 1.0
    low = 0.0 if signed or not known.size else float(known.min())
    paper, accent, grey = (np.array(to_rgb(colour)) for colour in (theme.PAPER, theme.ACCENT, theme.CONTEXT))
    picture = np.ones((*values.shape, 3)) * paper
    for i, j in np.ndindex(*values.shape):
        value = values[i, j]
        if not np.isfinite(value):
            continue
        strength = abs(value) / (most or 1.0) if signed else (value - low) / ((most - low) or 1.0)
        goal = accent if not signed or value > 0 else grey
        picture[i, j] = paper + 0.85 * float(np.clip(strength, 0, 1)) * (goal - paper)
    axes.imshow(picture, aspect="auto", interpolation="nearest")
    size = theme.LABEL if len(columns) <= 10 else 8.5
    for i, j in np.ndindex(*values.shape):
        if np.isfinite(values[i, j]):
            bright = float(picture[i, j] @ np.array([0.299, 0.587, 0.114])) > 0.55
            axes.text(
                j,
                i,
                texts[i][j],
                ha="center",
                va="center",
                fontsize=size,
                color=theme.TILE_INK if bright else theme.TILE_PAPER,
                **theme.font(),
            )
    theme.dress(axes, grid="")
    axes.xaxis.tick_top()
    axes.tick_params(length=0)
    axes.set_xticks(
        range(len(columns)), shown_columns, rotation=35 if slanted else 0, ha="left" if slanted else "center"
    )
    axes.set_yticks(range(len(rows)), names.shown)
    for label in axes.get_yticklabels():
        label.set_verticalalignment("center")
    for label in (*axes.get_xticklabels(), *axes.get_yticklabels()):
        label.set(color=theme.INK, fontsize=size, linespacing=0.95, **theme.font())
    data = pd.DataFrame(
        [
            {by[0]: rows[i], by[1]: columns[j], "value": float(values[i, j])}
            for i in range(len(rows))
            for j in range(len(columns))
        ]
    )
    return Chart(
        name=name,
        figure=figure,
        data=data,
        title=title,
        subtitle=subtitle,
        alternative=described("Table of tiles", f"{len(rows)} × {len(columns)}. {title}."),
    )
