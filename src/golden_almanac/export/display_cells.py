"""The figures of a frame as the cells of a table: each as shown, and the value that it is sorted by."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from decimal import Decimal
from numbers import Real
from typing import TYPE_CHECKING, Any

from ..text import names, numbers, page_labels

if TYPE_CHECKING:
    import pandas as pd

    from ..charts import Chart

#: Digits of a figure that is one for itself.
_DIGITS = 4


@dataclass(frozen=True, slots=True)
class Cells:
    """Heads, rows of (as shown, sorted by), and, where the parts of a column add up, the last row: their total."""

    heads: tuple[str, ...]
    rows: tuple[tuple[tuple[str, str], ...], ...]
    foot: tuple[str, ...] = ()

    def first(self, most: int) -> list[list[str]]:
        """At most so many rows as shown, then how many more there are, then the total."""
        rows = [[shown for shown, _ in row] for row in self.rows[:most]]
        blank = [""] * (len(self.heads) - 1)
        if len(self.rows) > most:
            rows.append([page_labels.more(len(self.rows) - most), *blank])
        return [*rows, list(self.foot)] if self.foot else rows


def chart_cells(chart: Chart) -> Cells:
    """The figures drawn in a chart, said as its marks say them."""
    return _cells(chart.data, chart.shown, chart.total)


def frame_cells(frame: pd.DataFrame) -> Cells:
    """The figures of a table of its own."""
    return _cells(frame, {}, {})


def _cells(frame: Any, shown: Mapping[str, Sequence[str]], total: Mapping[str, str]) -> Cells:
    columns = [
        [_cell(value, texts[place] if texts else None) for place, value in enumerate(frame[name])]
        for name, texts in ((name, shown.get(str(name))) for name in frame.columns)
    ]
    heads = [str(name) for name in frame.columns]
    foot = [total.get(name, "") for name in heads]
    if any(foot):
        foot[0] = foot[0] or page_labels.heading("total")
    return Cells(
        heads=tuple(page_labels.column(name) for name in heads),
        rows=tuple(tuple(row) for row in zip(*columns, strict=True)),
        foot=tuple(foot) if any(foot) else (),
    )


def _cell(value: Any, told: str | None) -> tuple[str, str]:
    if isinstance(value, str):
        return value, value
    if value is None or type(value).__name__ in ("NAType", "NaTType") or (isinstance(value, Real) and value != value):
        return "", ""
    if type(value).__name__.startswith("bool"):
        told = names.label("yes" if value else "no")
        return told, told
    if isinstance(value, date):
        shown = value.isoformat(" ") if isinstance(value, datetime) else value.isoformat()
        return shown.removesuffix(" 00:00:00"), value.isoformat()
    if not isinstance(value, Real | Decimal):
        return str(value), str(value)
    return told or numbers.short(float(value), _DIGITS), repr(float(value))
