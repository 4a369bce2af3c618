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

    @property
    def words(self) -> tuple[bool, ...]:
        """Of each column, whether it is read as words, from the left, and not as figures; the first always is."""
        return tuple(
            place == 0 or _worded([row[place][0] for row in self.rows]) for place in range(len(self.heads))
        )  # fmt: skip

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


def _worded(cells: Sequence[str]) -> bool:
    """Whether cells are words: most begin with a letter, or what is left of them without digits is different in each
    ("6100 Insurance"), where figures have a unit in common ("17.4 million")."""
    told = [cell for cell in cells if cell and cell != "–"]
    bare = ["".join(letter for letter in cell if letter.isalpha()) for cell in told]
    if sum(map(bool, bare)) * 2 <= len(told):
        return False
    begun = sum(cell[0].isalpha() for cell in told)
    return begun * 2 > len(told) or (len(told) > 2 and len(set(bare)) * 2 > len(told))


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
