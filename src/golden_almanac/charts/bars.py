"""Sorted bars with one highlight; bars start at nought."""

from __future__ import annotations

from collections.abc import Collection, Sequence

import numpy as np

from ..aggregation.measures import Measure
from ..text import consistent_rounding, numbers
from . import theme
from .axis_scales import cell_format, short
from .chart import Chart, described, more_left_out, other, row_names, titled
from .marks import Mark, with_notes
from .palette import by_hand

#: More bars than this fold into "other".
_MOST_BARS = 10


def bars(
    *,
    name: str,
    title: str,
    subtitle: str,
    source: str,
    labels: Sequence[str],
    values: Sequence[float],
    highlight: str | Collection[str] | None,
    measure: Measure | None,
    by: str,
    adds_up: bool,
    order: bool = True,
    errors: Sequence[float] | None = None,
    reference: tuple[str, float] | None = None,
    signed: bool = False,
    most: int = _MOST_BARS,
    suffix: str = "",
    percent: bool = False,
    hatched: Collection[str] = (),
    notes: Sequence[str] = (),
) -> Chart:
    """Horizontal bars, largest first unless `order` is False; labels and numbers stand on the marks.

    `errors` are 95% half widths; `reference` a labelled line; `signed` writes + and −; `suffix` follows each number,
    `percent` says that they are percentages; `hatched` are labels of what is unfinished. The numbers of bars that add
    up are rounded together, so that they do. `notes` are said behind the subtitle, of marks that only the picture has.
    Past ten labels the rest are one bar "other (n)" where values add up, and are left out, and counted, where not.
    """
    import pandas as pd

    marked = set() if highlight is None else {highlight} if isinstance(highlight, str) else set(highlight)
    rows = list(zip(labels, values, errors or [0.0] * len(labels), strict=True))
    if order:
        rows.sort(key=lambda row: (-row[1], row[0]))
    data_rows = {row: place for place, row in reversed(list(enumerate(rows)))}
    whole = pd.DataFrame({by: [row[0] for row in rows], "value": [float(row[1]) for row in rows]})
    amounts = [float(row[1]) for row in rows]
    together = consistent_rounding.split(amounts, sum(amounts), measure) if adds_up and len(rows) > 1 else None
    # By the whole row: labels that are drawn alike need not be one.
    steps = {} if together is None else dict(zip(rows, together.parts, strict=True))
    rest = []
    if len(rows) > most:
        keep = (
            rows[:most]
            if not marked or marked & {row[0] for row in rows[:most]}
            else [*rows[: most - 1], *[row for row in rows if row[0] in marked][:1]]
        )
        rest = [row for row in rows if row not in keep]
        rows = keep
        if adds_up:
            rows = [*rows, (other(len(rest)), float(sum(row[1] for row in rest)), 0.0)]
            if together is not None:
                steps[rows[-1]] = sum(steps[row] for row in rest)
        else:
            notes = (*notes, more_left_out(len(rest)))
    names = row_names([row[0] for row in rows])
    figure = theme.figure(1.35 + (0.36 + names.more) * len(rows) + 0.25 * (len(title) > 74) + (0.2 if reference else 0))
    bottom, top = titled(figure, title, with_notes(subtitle, *notes), source)
    left = 0.03 + min(0.32, 0.0115 * names.longest)
    axes = figure.add_axes((left, bottom, 0.97 - left, top - bottom))
    places = np.arange(len(rows))[::-1]
    sizes = np.array([row[1] for row in rows], dtype=float)
    colours = [by_hand(row[0]) or (theme.ACCENT if row[0] in marked else theme.CONTEXT) for row in rows]
    drawn = axes.barh(places, sizes, height=0.62, color=colours, zorder=3)
    for bar, row in zip(drawn, rows, strict=True):
        if row[0] in hatched:
            bar.set(hatch="////", edgecolor=theme.PAPER, linewidth=0)
    marks = [
        Mark(
            artist=bar,
            column="value" if row in data_rows else "",
            row=data_rows.get(row),
            category=row[0] if by_hand(row[0]) else "",
            lit=row[0] in marked,
        )
        for bar, row in zip(drawn, rows, strict=True)
    ]
    if errors is not None:
        axes.errorbar(
            sizes,
            places,
            xerr=[row[2] for row in rows],
            fmt="none",
            ecolor=theme.INK,
            elinewidth=1.1,
            capsize=2.5,
            zorder=4,
        )
    ends = sizes + np.array([row[2] for row in rows]) * np.sign(sizes + (sizes == 0))
    low, high = min(0.0, float(np.min(ends))), max(0.0, float(np.max(ends)))
    reach = (high - low) or 1.0
    axes.set_xlim(low - (0.16 * reach if low < 0 else 0.0), high + 0.16 * reach)
    axes.set_ylim(-0.6, len(rows) - 0.4 + (0.55 if reference else 0))
    theme.name_rows(axes, places, names.shown, [place for place, row in enumerate(rows) if row[0] in marked])
    for place, size, end, row in zip(places, sizes, ends, rows, strict=True):
        if together is not None:
            text = together.text(steps[row], signed=signed, compact=True)
        elif signed and measure is not None and measure.share:
            text = numbers.signed(size, numbers.difference(size, measure))
        elif signed:
            text = numbers.signed(size, short(abs(size), measure, 2 if suffix or percent else 3))
        else:
            text = short(size, measure)
        axes.annotate(
            numbers.as_percent(text) if percent else text + suffix,
            (end, place),
            xytext=(5 if size >= 0 else -5, 0),
            textcoords="offset points",
            va="center",
            ha="left" if size >= 0 else "right",
            fontsize=theme.LABEL,
            color=theme.INK,
            **theme.font(bold=row[0] in marked),
        )
    if reference is not None:
        axes.axvline(
            reference[1],
            ymax=1 - 0.25 / (len(rows) + 0.75),
            color=theme.INK,
            linewidth=1.0,
            linestyle=(0, (3, 3)),
            zorder=6,
        )
        axes.annotate(
            f"{reference[0]} {short(reference[1], measure)}",
            (reference[1], len(rows) - 0.4),
            xytext=(0, 2),
            textcoords="offset points",
            ha="center",
            va="bottom",
            fontsize=8.5,
            color=theme.QUIET,
            **theme.font(),
        )
    return Chart(
        name=name,
        figure=figure,
        data=whole,
        shown={} if together is None else {"value": together.texts(signed=signed)},
        total={} if together is None else {"value": together.text(together.whole, signed=signed)},
        title=title,
        subtitle=with_notes(subtitle, *notes),
        scope=subtitle,
        marks=tuple(marks),
        kind="bars",
        number_format='0.0"%"' if percent else cell_format((row[1] for row in rows), measure),
        alternative=described(
            "Bar chart", f"{title} " + "; ".join(f"{row[0]} {short(row[1], measure)}" for row in rows)
        ),
    )
