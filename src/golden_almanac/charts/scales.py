"""Axis numbers in the reader's scale, with units."""

from __future__ import annotations

from typing import Any

from ..core.measures import Measure
from ..words import numbers
from . import theme


def axis_texts(axes: Any, measure: Measure | None, *, index: bool = False, which: str = "y") -> None:
    """A handful of round ticks, written short: 1.2M, 40%, 6."""
    from matplotlib.ticker import FuncFormatter, MaxNLocator

    axis = axes.yaxis if which == "y" else axes.xaxis
    axis.set_major_locator(MaxNLocator(nbins=5, steps=[1, 2, 2.5, 5, 10]))
    axis.set_major_formatter(FuncFormatter(lambda value, _: short(value, measure, index=index)))
    for label in axis.get_ticklabels():
        label.set(**theme.font())


def short(value: float, measure: Measure | None, *, index: bool = False) -> str:
    if measure is not None and measure.share and not index:
        return numbers.percent(100 * value) if value else "0%"
    return numbers.short(value)
