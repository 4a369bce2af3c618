"""A sentence in place of a chart, where there is nothing to draw."""

from __future__ import annotations

from typing import Any

from . import theme
from .chart import Chart, described, titled, wrap


def said(*, name: str, title: str, subtitle: str, source: str, sentence: str, data: Any = None) -> Chart:
    """A figure of the house width that says why there is no chart."""
    import pandas as pd

    figure = theme.figure(1.9 + 0.25 * (len(title) > 74))
    bottom, top = titled(figure, title, subtitle, source)
    axes = figure.add_axes((0.015, bottom, 0.97, top - bottom))
    axes.axis("off")
    axes.axhline(0.98, color=theme.RULE, linewidth=0.8)
    text = "\n".join(wrap(sentence, 100))
    axes.text(0, 0.6, text, va="center", ha="left", fontsize=theme.LABEL, color=theme.INK, **theme.font())
    made = data if data is not None else pd.DataFrame({"note": [sentence]})
    return Chart(
        name=name,
        figure=figure,
        data=made,
        title=title,
        subtitle=subtitle,
        alternative=described("No chart", f"{title}. {sentence}"),
    )
