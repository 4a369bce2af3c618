"""Axis numbers in the reader's scale, with units."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from itertools import pairwise
from typing import Any

import numpy as np

from ..aggregation.measures import Measure
from ..text import numbers
from . import theme


def axis_texts(axes: Any, measure: Measure | None, *, index: bool = False, which: str = "y") -> None:
    """A handful of round ticks, written short: 1.2M, 40%, 6."""
    from matplotlib.ticker import FuncFormatter, MaxNLocator

    axis = axes.yaxis if which == "y" else axes.xaxis
    axis.set_major_locator(MaxNLocator(nbins=5, steps=[1, 2, 2.5, 5, 10]))
    low, high = axis.get_view_interval()
    ticks = [float(tick) for tick in axis.get_major_locator().tick_values(low, high)]
    axis.set_major_formatter(FuncFormatter(lambda value, _: _tick(value, ticks, measure, index=index)))
    axis.set_tick_params(labelfontfamily=theme.font()["family"])


def _tick(value: float, ticks: list[float], measure: Measure | None, *, index: bool) -> str:
    """One tick, with as many decimals as its neighbours need and no more."""
    percent = measure is not None and measure.share and not index
    if max(map(abs, ticks)) >= numbers.HUGE and not percent:
        return numbers.short(value, 2)
    scale, letter = (
        (0.01, "%")
        if percent
        else next(
            ((size, mark) for size, mark in ((1e12, "T"), (1e9, "bn"), (1e6, "M")) if max(map(abs, ticks)) >= size),
            (1.0, ""),
        )
    )
    step = min((abs(b - a) for a, b in pairwise(ticks)), default=1.0) / scale
    decimals = next((places for places in range(7) if abs(step - round(step, places)) < 1e-9 * step), 6)
    if float(value) == 0:
        return "0"
    text = numbers.fixed(value / scale, decimals)
    return numbers.as_percent(text) if percent else numbers.scale_letter(text, letter)


def short(value: float, measure: Measure | None, digits: int = 3, *, index: bool = False) -> str:
    if measure is None or index:
        return numbers.short(value, digits)
    if measure.share or (measure.decimals is not None and abs(value) < numbers.WRITTEN_OUT):
        return numbers.amount(value, replace(measure, unit=None), digits)
    return numbers.short(value, digits)


def cell_format(values: Iterable[float | None], measure: Measure | None, *, index: bool = False) -> str:
    """How an office program writes the same figures: the page's scale, percent and decimals, as its number format."""
    sizes = [abs(value) for value in values if value is not None and np.isfinite(value)]
    most = max(sizes, default=0.0)
    stated = None if measure is None or index else measure.decimals
    if stated is not None and measure is not None and (measure.share or most < numbers.WRITTEN_OUT):
        places = "." + "0" * stated if stated else ""
        return f"0{places}%" if measure.share else f"#,##0{places}"
    if measure is not None and measure.share and not index:
        return "0%" if most > 0.2 else "0.0%"
    if most >= 1e6 and most < 1e15:
        size, letter = next((size, mark) for size, mark in ((1e12, "T"), (1e9, "bn"), (1e6, "M")) if most >= size)
        # The letters of the reader's language, as the page's axis has them.
        suffix = numbers.scale_letter("", letter).replace('"', "")
        commas = "," * round(np.log10(size) / 3)
        return f'0.0{commas}"{suffix}"' if most < 100 * size else f'0{commas}"{suffix}"'
    if most >= 100 or all(float(size).is_integer() for size in sizes):
        return "#,##0"
    return "#,##0.0" if most >= 10 else "#,##0.00"
