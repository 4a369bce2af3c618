"""Two periods, a line for each label: who went up, who went down."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import Any

from ..aggregation.measures import Measure
from . import theme
from .axis_scales import short
from .chart import Chart, described, more_left_out, not_from_nought, titled, wrapped
from .marks import with_notes

#: More lines than this cannot be told apart: the largest are shown.
_MOST = 9


def slope(
    *,
    name: str,
    title: str,
    subtitle: str,
    source: str,
    ends: tuple[str, str],
    lines: Sequence[tuple[str, float, float]],
    highlight: Collection[str],
    measure: Measure,
    by: str,
) -> Chart:
    """Lines (label, before, now) between two periods named at their ends; those to highlight are in gold."""
    import pandas as pd

    data = pd.DataFrame(
        {by: [line[0] for line in lines], ends[0]: [line[1] for line in lines], ends[1]: [line[2] for line in lines]}
    )
    ranked = sorted(lines, key=lambda one: (one[0] not in highlight, -max(abs(one[1]), abs(one[2])), one[0]))
    kept = ranked[:_MOST]
    if len(lines) > len(kept):
        subtitle = with_notes(subtitle, more_left_out(len(lines) - len(kept)))
    values = [value for _, before, now in kept for value in (before, now)]
    low, high = min(values), max(values)
    from_zero = low >= 0 and low < 0.5 * high
    if not from_zero:
        subtitle = with_notes(subtitle, not_from_nought())
    figure = theme.figure(max(3.6, 1.5 + 0.36 * len(kept)))
    bottom, top = titled(figure, title, subtitle, source)
    axes = figure.add_axes((0.31, bottom + 0.09, 0.38, top - bottom - 0.11))
    spread = (high - low) or abs(high) or 1.0
    axes.set_xlim(0, 1)
    axes.set_ylim(0 if from_zero else low - 0.06 * spread, high + 0.06 * spread)
    theme.dress(axes, grid="")
    axes.set_yticks([])
    axes.set_xticks([0, 1], list(ends))
    axes.tick_params(axis="x", pad=12)
    for tick in axes.get_xticklabels():
        tick.set(color=theme.INK, **theme.font(bold=True))
    for x in (0, 1):
        axes.axvline(x, color=theme.RULE, linewidth=0.9, zorder=1)
    for label, before, now in reversed(kept):
        own = label in highlight
        axes.plot(
            [0, 1],
            [before, now],
            color=theme.ACCENT if own else theme.CONTEXT,
            linewidth=2.4 if own else 1.4,
            marker="o",
            markersize=4,
            zorder=3 if own else 2,
            clip_on=False,
        )
    _beside(figure, axes, kept, highlight, measure)
    return Chart(
        name=name,
        figure=figure,
        data=data,
        title=title,
        subtitle=subtitle,
        alternative=described(
            "Slope chart",
            f"{title} "
            + "; ".join(f"{label} {short(before, measure)} → {short(now, measure)}" for label, before, now in kept),
        ),
    )  # fmt: skip


def _beside(
    figure: Any, axes: Any, lines: Sequence[tuple[str, float, float]], highlight: Collection[str], measure: Measure
) -> None:
    """Names and figures beside both ends, moved apart where they would touch."""
    low, high = axes.get_ylim()
    names = {label: wrapped(label, 22) for label, _, _ in lines}
    tall = any("\n" in text for text in names.values())
    step = (high - low) * (0.37 if tall else 0.2) / (figure.get_figheight() * axes.get_position().height)
    for side in (0, 1):
        heights = spread_out([now if side else before for _, before, now in lines], step, low, high)
        for (label, before, now), height in zip(lines, heights, strict=True):
            own = label in highlight
            figure_text = short(now if side else before, measure)
            axes.annotate(
                f"{names[label]}  {figure_text}" if side == 0 else f"{figure_text}  {names[label]}",
                (side, height),
                xytext=(-8 if side == 0 else 8, 0),
                textcoords="offset points",
                ha="right" if side == 0 else "left",
                va="center",
                fontsize=theme.LABEL,
                linespacing=0.95,
                color=theme.ACCENT if own else theme.INK,
                annotation_clip=False,
                **theme.font(bold=own),
            )


def spread_out(wanted: Sequence[float], step: float, low: float, high: float) -> list[float]:
    """Heights at least `step` apart, as near to those wanted as may be, none beyond the ends.

    The nearest by squares: pooled neighbours (Barlow et al. 1972) of the heights less a step for each below.
    """
    order = sorted(range(len(wanted)), key=lambda place: (wanted[place], place))
    pools: list[tuple[float, int]] = []
    for rank, place in enumerate(order):
        total, size = wanted[place] - rank * step, 1
        while pools and pools[-1][0] / pools[-1][1] > total / size:
            total, size = total + pools[-1][0], size + pools[-1][1]
            pools.pop()
        pools.append((total, size))
    level = [total / size for total, size in pools for _ in range(size)]
    most = max(low, high - step * (len(wanted) - 1))
    found = [0.0] * len(wanted)
    for rank, place in enumerate(order):
        found[place] = min(max(level[rank], low), most) + rank * step
    return found
