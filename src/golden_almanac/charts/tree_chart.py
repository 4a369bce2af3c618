"""A tree as its branches: each split a line of text, each leaf with what it predicts and how many rows it holds."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..text import numbers
from . import theme
from .chart import Chart, clip, described, titled


def tree(
    *,
    name: str,
    title: str,
    subtitle: str,
    source: str,
    nodes: Sequence[tuple[int, str, str, float, int]],
    written: Sequence[str],
) -> Chart:
    """`nodes` in the order of a walk: (depth, condition, kind branch or leaf, value, rows); `written` their values."""
    import pandas as pd

    count = len(nodes)
    figure = theme.figure(1.35 + 0.34 * count + 0.25 * (len(title) > 74))
    bottom, top = titled(figure, title, subtitle, source)
    axes = figure.add_axes((0.02, bottom, 0.96, top - bottom))
    axes.set_xlim(0, 100)
    axes.set_ylim(-0.6, count - 0.4)
    axes.axis("off")
    whole = max((rows for *_, rows in nodes), default=1)
    values = [value for _, _, kind, value, _ in nodes if kind == "leaf"]
    extreme = max(values, key=lambda one: abs(one - float(np.mean(values)))) if values else None
    step, bar_from, bar_room = 3.4, 74.0, 22.0
    last_at: dict[int, int] = {}
    for place, ((depth, text, kind, value, rows), told) in enumerate(zip(nodes, written, strict=True)):
        y = count - 1 - place
        if depth:
            parent = last_at.get(depth - 1, place)
            x = step * (depth - 1) + 1.2
            axes.plot([x, x], [count - 1 - parent - 0.3, y], color=theme.RULE, linewidth=1.2, zorder=1)
            axes.plot([x, x + step - 1.4], [y, y], color=theme.RULE, linewidth=1.2, zorder=1)
        last_at[depth] = place
        strong = kind == "leaf" and value == extreme
        axes.text(
            step * depth + 0.4,
            y,
            clip(text, 62 - 3 * depth),
            va="center",
            ha="left",
            fontsize=theme.LABEL,
            color=theme.INK,
            **theme.font(bold=strong),
        )
        if kind == "leaf":
            axes.barh(
                y,
                bar_room * rows / whole,
                left=bar_from,
                height=0.5,
                color=theme.ACCENT if strong else theme.CONTEXT,
                alpha=0.9,
                zorder=2,
            )[0].set_gid("step")
            axes.text(
                bar_from - 1,
                y,
                told,
                va="center",
                ha="right",
                fontsize=theme.LABEL,
                color=theme.INK,
                **theme.font(bold=strong),
            )
            axes.text(
                bar_from + bar_room * rows / whole + 0.6,
                y,
                numbers.whole(rows),
                va="center",
                ha="left",
                fontsize=8.5,
                color=theme.QUIET,
                **theme.font(),
            )
    data = pd.DataFrame(nodes, columns=["depth", "condition", "kind", "value", "rows"])
    return Chart(
        name=name,
        figure=figure,
        data=data,
        title=title,
        subtitle=subtitle,
        alternative=described(
            "Tree of rules",
            f"{title}. "
            + "; ".join(f"{node[1]}: {told}" for node, told in zip(nodes, written, strict=True) if node[2] == "leaf"),
        ),
    )
