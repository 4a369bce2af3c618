"""Sorted bars with one highlight; bars start at nought."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import Any

import numpy as np
import numpy.typing as npt

from ..aggregation.measures import Measure
from ..text import consistent_rounding, numbers
from . import theme
from .axis_scales import cell_format, short
from .chart import Chart, described, more_left_out, other, row_names, titled
from .marks import Mark, with_notes
from .palette import by_hand

Floats = npt.NDArray[np.float64]
#: A label, its size, and the half width of its 95% range.
_Row = tuple[str, float, float]
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
    every = list(zip(labels, (float(value) for value in values), errors or [0.0] * len(labels), strict=True))
    if order:
        every.sort(key=lambda row: (-row[1], row[0]))
    amounts = [row[1] for row in every]
    together = consistent_rounding.split(amounts, sum(amounts), measure) if adds_up and len(every) > 1 else None
    # By the whole row: labels that are drawn alike need not be one.
    steps = {} if together is None else dict(zip(every, together.parts, strict=True))
    rows, rest = _kept(every, marked, most)
    if rest and adds_up:
        rows = [*rows, (other(len(rest)), float(sum(row[1] for row in rest)), 0.0)]
        if together is not None:
            steps[rows[-1]] = sum(steps[row] for row in rest)
    elif rest:
        notes = (*notes, more_left_out(len(rest)))
    names = row_names([row[0] for row in rows])
    figure = theme.figure(1.35 + (0.36 + names.more) * len(rows) + 0.25 * (len(title) > 74) + (0.2 if reference else 0))
    bottom, top = titled(figure, title, with_notes(subtitle, *notes), source)
    left = 0.03 + min(0.32, 0.0115 * names.longest)
    axes = figure.add_axes((left, bottom, 0.97 - left, top - bottom))
    sizes = np.array([row[1] for row in rows], dtype=float)
    ends = sizes + np.array([row[2] for row in rows]) * np.sign(sizes + (sizes == 0))
    drawn = _drawn(axes, rows, marked, hatched, whiskers=errors is not None)
    _set_limits(axes, ends, room=0.55 if reference else 0.0)
    theme.name_rows(
        axes, np.arange(len(rows))[::-1], names.shown, [place for place, row in enumerate(rows) if row[0] in marked]
    )
    texts = [_size(row[1], measure, signed=signed, coarse=bool(suffix or percent)) for row in rows]
    if together is not None:
        texts = [together.text(steps[row], signed=signed, compact=True) for row in rows]
    _write_sizes(axes, rows, ends, [numbers.as_percent(text) if percent else text + suffix for text in texts], marked)
    if reference is not None:
        _draw_reference(axes, len(rows), reference[1], f"{reference[0]} {short(reference[1], measure)}")
    place_of = {row: place for place, row in reversed(list(enumerate(every)))}
    return Chart(
        name=name,
        figure=figure,
        data=pd.DataFrame({by: [row[0] for row in every], "value": amounts}),
        shown={} if together is None else {"value": together.texts(signed=signed)},
        total={} if together is None else {"value": together.text(together.whole, signed=signed)},
        title=title,
        subtitle=with_notes(subtitle, *notes),
        scope=subtitle,
        marks=tuple(
            Mark(
                artist=bar,
                column="value" if row in place_of else "",
                row=place_of.get(row),
                category=row[0] if by_hand(row[0]) else "",
                lit=row[0] in marked,
            )
            for bar, row in zip(drawn, rows, strict=True)
        ),
        kind="bars",
        number_format='0.0"%"' if percent else cell_format((row[1] for row in rows), measure),
        alternative=described(
            "Bar chart", f"{title} " + "; ".join(f"{row[0]} {short(row[1], measure)}" for row in rows)
        ),
    )


def _kept(rows: Sequence[_Row], marked: Collection[str], most: int) -> tuple[list[_Row], list[_Row]]:
    """The rows that are drawn, one that is marked among them, and the rest."""
    if len(rows) <= most:
        return list(rows), []
    keep = list(rows[:most])
    lit = [row for row in rows if row[0] in marked]
    if marked and not any(row in keep for row in lit):
        keep = [*keep[: most - 1], *lit[:1]]
    return keep, [row for row in rows if row not in keep]


def _drawn(
    axes: Any, rows: Sequence[_Row], marked: Collection[str], hatched: Collection[str], *, whiskers: bool
) -> Sequence[Any]:
    """The bars, from the top down."""
    places, sizes = np.arange(len(rows))[::-1], [row[1] for row in rows]
    colours = [by_hand(row[0]) or (theme.ACCENT if row[0] in marked else theme.CONTEXT) for row in rows]
    drawn = axes.barh(places, sizes, height=0.62, color=colours, zorder=3)
    for bar, row in zip(drawn, rows, strict=True):
        if row[0] in hatched:
            bar.set(hatch="////", edgecolor=theme.PAPER, linewidth=0)
    if whiskers:
        reach = [row[2] for row in rows]
        axes.errorbar(sizes, places, xerr=reach, fmt="none", ecolor=theme.INK, elinewidth=1.1, capsize=2.5, zorder=4)
    return drawn  # type: ignore[no-any-return]


def _set_limits(axes: Any, ends: Floats, *, room: float) -> None:
    """Limits that hold the ends of all bars with their numbers, and so much more `room` above them, in rows."""
    low, high = min(0.0, float(np.min(ends))), max(0.0, float(np.max(ends)))
    reach = (high - low) or 1.0
    axes.set_xlim(low - (0.16 * reach if low < 0 else 0.0), high + 0.16 * reach)
    axes.set_ylim(-0.6, ends.size - 0.4 + room)


def _size(size: float, measure: Measure | None, *, signed: bool, coarse: bool) -> str:
    """The number of a bar by itself."""
    if signed and measure is not None and measure.in_points:
        return numbers.signed(size, numbers.difference(size, measure))
    if signed:
        return numbers.signed(size, short(abs(size), measure, 2 if coarse else 3))
    return short(size, measure)


def _write_sizes(axes: Any, rows: Sequence[_Row], ends: Floats, texts: Sequence[str], marked: Collection[str]) -> None:
    """The numbers at the ends of the bars."""
    for place, row, end, text in zip(range(len(rows) - 1, -1, -1), rows, ends, texts, strict=True):
        axes.annotate(
            text,
            (end, place),
            xytext=(5 if row[1] >= 0 else -5, 0),
            textcoords="offset points",
            va="center",
            ha="left" if row[1] >= 0 else "right",
            fontsize=theme.LABEL,
            color=theme.INK,
            **theme.font(bold=row[0] in marked),
        )


def _draw_reference(axes: Any, rows: int, value: float, text: str) -> None:
    """A dashed line over so many rows, with what it is above them."""
    axes.axvline(value, ymax=1 - 0.25 / (rows + 0.75), color=theme.INK, linewidth=1.0, linestyle=(0, (3, 3)), zorder=6)
    axes.annotate(
        text,
        (value, rows - 0.4),
        xytext=(0, 2),
        textcoords="offset points",
        ha="center",
        va="bottom",
        fontsize=8.5,
        color=theme.QUIET,
        **theme.font(),
    )
