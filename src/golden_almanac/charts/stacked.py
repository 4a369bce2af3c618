"""Bars of two columns: side by side, or one on another (as amounts or as shares of each bar)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING, Any

import numpy as np

from ..stats.autocorrelated_fits import Floats
from ..text import consistent_rounding
from . import theme
from .axis_scales import short
from .chart import Chart, clip, described, row_names, titled
from .marks import Mark
from .palette import Palette, shared

if TYPE_CHECKING:
    from matplotlib.figure import Figure

_LEGEND_ROOM = 0.32


def two_way(
    *,
    name: str,
    title: str,
    subtitle: str,
    source: str,
    rows: Sequence[str],
    parts: Sequence[str],
    values: Floats,
    by: tuple[str, str],
    stacked: bool,
    shares: bool = False,
    palette: Palette | None = None,
    suffix: str = "",
) -> Chart:
    """`values` (rows, parts), none negative where stacked. Labels stand in the bars where they fit; the legend is one
    line above them, in the order of the bars."""
    import pandas as pd

    own = palette or shared() or Palette()
    kept = np.nan_to_num(values, nan=0.0)
    drawn = kept / np.maximum(kept.sum(axis=1, keepdims=True), 1e-300) if shares else kept
    names = row_names(rows)
    each = 0.36 + names.more if stacked else 0.16 + 0.2 * len(parts) + (names.more if len(parts) < 2 else 0)
    figure = theme.figure(1.35 + _LEGEND_ROOM + each * len(rows) + 0.25 * (len(title) > 74))
    bottom, top = titled(figure, title, subtitle, source)
    left = 0.03 + min(0.32, 0.0115 * names.longest)
    height = top - bottom - _LEGEND_ROOM / figure.get_figheight()
    axes = figure.add_axes((left, bottom, 0.97 - left, height))
    places = np.arange(len(rows))[::-1].astype(float)
    whole = float((drawn.sum(axis=1) if stacked else drawn).max()) or 1.0
    low = 0.0 if stacked else min(0.0, float(drawn.min()))
    axes.set_xlim(low * 1.16, whole * (1.0 if shares else 1.14))
    # The shares of each bar add up to all of it as they are written, not only as they are drawn.
    told = [consistent_rounding.shares(row) if row.sum() else [""] * len(parts) for row in drawn] if shares else None
    marks: list[Mark] = []
    for number, part in enumerate(parts):
        if stacked:
            begin = drawn[:, :number].sum(axis=1)
            texts = [short(float(size), None) + suffix for size in drawn[:, number]]
            texts = texts if told is None else [row[number] for row in told]
            bars = _stack(axes, places, begin, drawn[:, number], own.colour(part))
            _write_inside(axes, places, begin, drawn[:, number], texts, whole, len(suffix) if told is None else 0)
        else:
            thick = 0.8 / len(parts)
            at = places + 0.4 - thick * (number + 0.5)
            bars = axes.barh(at, drawn[:, number], height=0.88 * thick, color=own.colour(part), zorder=3)
            _write_beside(axes, at, drawn[:, number], suffix)
        marks += _marks(bars, number, parts)
    theme.name_rows(axes, places, names.shown)
    axes.set_ylim(-0.6, len(rows) - 0.4)
    marks += _legend(figure, parts, own, top)
    data = pd.DataFrame(
        [
            {by[0]: row, by[1]: part, "value": float(values[i, j])}
            for i, row in enumerate(rows)
            for j, part in enumerate(parts)
        ]
    )
    kind = "Stacked bars" if stacked else "Grouped bars"
    return Chart(
        name=name,
        figure=figure,
        data=data,
        title=title,
        subtitle=subtitle,
        marks=tuple(marks),
        alternative=described(kind, f"{by[1]} / {by[0]}. {title}."),
    )


def _stack(axes: Any, places: Floats, begin: Floats, sizes: Floats, colour: str) -> Any:
    """The bars of one part, each where the part before it ends."""
    bars = axes.barh(places, sizes, left=begin, height=0.62, color=colour, zorder=3)
    for bar in bars:
        bar.set_gid("step")
    return bars


def _write_inside(
    axes: Any, places: Floats, begin: Floats, sizes: Floats, texts: Sequence[str], whole: float, more: int
) -> None:
    """The numbers of a part in the middle of its bars, where they fit; the last `more` letters are let stand out."""
    for place, start, size, text in zip(places, begin, sizes, texts, strict=True):
        if size / whole > 0.014 * (len(text) - more) + 0.02:
            axes.text(
                start + size / 2, place, text, ha="center", va="center", fontsize=9, color=theme.PAPER, **theme.font()
            )


def _write_beside(axes: Any, places: Floats, sizes: Floats, suffix: str) -> None:
    """The numbers of a part at the ends of its bars."""
    for place, size in zip(places, sizes, strict=True):
        axes.annotate(
            short(float(size), None) + suffix,
            (size, place),
            xytext=(4 if size >= 0 else -4, 0),
            textcoords="offset points",
            va="center",
            ha="left" if size >= 0 else "right",
            fontsize=8.5,
            color=theme.INK,
            **theme.font(),
        )


def _marks(bars: Iterable[Any], number: int, parts: Sequence[str]) -> list[Mark]:
    """The bars of one part, one a row; the data have a line for each part of each row."""
    return [
        Mark(artist=bar, column="value", row=place * len(parts) + number, category=parts[number])
        for place, bar in enumerate(bars)
    ]


def _legend(figure: Figure, parts: Sequence[str], palette: Palette, top: float) -> list[Mark]:
    """Swatches with their names in one line; names are cut where all would not fit."""
    from matplotlib.patches import Rectangle

    width = max(6, min(24, int(105 / max(1, len(parts))) - 3))
    x, step = 0.015, 0.0085
    marks = []
    for part in parts:
        text = clip(part, width)
        size = 0.11 / figure.get_figheight()
        swatch = Rectangle(
            (x, top - 0.19 / figure.get_figheight()),
            0.014,
            size,
            color=palette.colour(part),
            transform=figure.transFigure,
        )
        marks.append(Mark(artist=swatch, category=part))
        figure.add_artist(swatch)
        figure.text(
            x + 0.019,
            top - 0.135 / figure.get_figheight(),
            text,
            fontsize=9.5,
            color=theme.INK,
            va="center",
            ha="left",
            **theme.font(),
        )
        x += 0.034 + step * len(text)
    return marks
