"""The cells of one sheet, column by column, so that no cell of a long sheet is looked at by itself."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, time
from typing import Any

import numpy as np
import numpy.typing as npt

from ...engine import arrow_arrays
from ...support.phrasing import phrased, phrased_count
from ..problems import Problem, Step

Ranges = Sequence[tuple[tuple[int, int], tuple[int, int]]]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Page:
    """`columns` of tidy cells, all of one length, None where empty; `filled` tells where not, shape (rows, columns)."""

    columns: list[list[Any]]
    filled: npt.NDArray[np.bool_]

    @property
    def rows(self) -> int:
        return int(self.filled.shape[0])

    @property
    def width(self) -> int:
        return int(self.filled.shape[1])

    def some(self) -> npt.NDArray[np.bool_]:
        """Which rows hold a cell at all; shape (rows,)."""
        return np.asarray(self.filled.any(axis=1))

    def row(self, place: int, left: int = 0, right: int | None = None) -> list[Any]:
        """The cells of a row, from a column up to another."""
        return [column[place] for column in self.columns[left:right]]


def page_of(grid: Sequence[Sequence[Any]], merged: Ranges) -> tuple[Page, list[Problem]]:
    """The page of a grid of rows, its cells tidied and merged cells filled, and what was mended."""
    width = max((len(row) for row in grid), default=0)
    even = all(len(row) == width for row in grid)
    rows = grid if even else [[*row, *[None] * (width - len(row))] for row in grid]
    spaced: list[tuple[int, str]] = []
    columns = [_tidied(column, spaced) for column in zip(*rows, strict=True)] if width else []
    count = _fill(columns, merged)
    filled = np.zeros((len(grid), width), dtype=bool)
    for place, column in enumerate(columns):
        filled[:, place] = np.fromiter((value is not None for value in column), dtype=bool, count=len(column))
    return Page(columns=columns, filled=filled), [*_spaces_problem(spaced), *_merged_problem(count)]


def _tidied(column: Sequence[Any], spaced: list[tuple[int, str]]) -> list[Any]:
    """Empty texts are nothing, texts bear no spaces around, moments at midnight are days."""
    texts = {value for value in column if value.__class__ is str}
    changed = {text: text.strip() or None for text in texts if not text or text != text.strip()}
    made = list(column)
    if changed:
        wide = {text for text, bare in changed.items() if bare is not None}
        if wide:
            spaced += [(row, text) for row, text in enumerate(made, start=1) if text.__class__ is str and text in wide]
        made = [changed.get(value, value) if value.__class__ is str else value for value in made]
    if datetime in set(map(type, made)):
        midnight = time()
        made = [value.date() if value.__class__ is datetime and value.time() == midnight else value for value in made]
    return made


def _fill(columns: list[list[Any]], merged: Ranges) -> int:
    """Write the value of each merged range into its empty cells; how many there were."""
    count = 0
    rows = len(columns[0]) if columns else 0
    for (top, left), (bottom, right) in merged:
        if top >= rows or left >= len(columns) or columns[left][top] is None:
            continue
        # A range over the whole width is a title, and stays in its own cell.
        if top == bottom and right - left + 1 >= len(columns) - 1:
            continue
        for column in columns[left : right + 1]:
            for row in range(top, min(bottom + 1, rows)):
                if column[row] is None:
                    column[row] = columns[left][top]
                    count += 1
    return count


def _spaces_problem(spaced: list[tuple[int, str]]) -> list[Problem]:
    if not spaced:
        return []
    spaced = sorted(spaced)
    return [
        Problem(
            check="spaces around texts",
            severity="repair",
            column=None,
            rows=len(spaced),
            repair=phrased("spaces taken off"),
            examples=tuple((row, repr(value)) for row, value in spaced[:3]),
            message=phrased_count(
                len(spaced),
                "Spaces before or after the text were taken off {n} cell.",
                "Spaces before or after the text were taken off {n} cells.",
            ),
            step=Step(do="take off spaces"),
        )
    ]


def _merged_problem(count: int) -> list[Problem]:
    if not count:
        return []
    return [
        Problem(
            check="merged cells",
            severity="repair",
            column=None,
            rows=count,
            repair=phrased("filled from the merged cell"),
            message=phrased_count(
                count,
                "{n} cell was empty because of merged cells and got the value of the merged cell.",
                "{n} cells were empty because of merged cells and got the value of the merged cell.",
            ),
            step=Step(do="fill merged cells"),
        )
    ]


def spelled(value: Any) -> str:
    """A cell as a person reads it: whole numbers without a point, days as ISO dates."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float) and value.is_integer() and abs(value) < 2**53:
        return str(int(value))
    if isinstance(value, datetime):
        return value.isoformat(sep=" ")
    return value.isoformat() if isinstance(value, date) else str(value)


def to_column(cells: Sequence[Any]) -> Any:
    """Cells as Arrow: those of one type keep it; a mixture is spelled out as text, and the text is read again."""
    import pyarrow as pa

    kinds = set(map(type, cells)) - {type(None)}
    if not kinds:
        return pa.nulls(len(cells), pa.string())
    if kinds <= {int, float}:
        return _numbers(cells)
    if kinds <= {date, datetime}:
        if datetime in kinds:
            cells = [datetime(v.year, v.month, v.day) if v.__class__ is date else v for v in cells]
        return pa.array(cells, pa.timestamp("us") if datetime in kinds else pa.date32())
    if kinds == {bool}:
        return pa.array(cells, pa.bool_())
    if kinds != {str}:
        cells = [value if value is None or value.__class__ is str else spelled(value) for value in cells]
    return pa.array(cells, pa.string())


def _numbers(cells: Sequence[Any]) -> Any:
    """Whole numbers where all are whole, doubles otherwise; very large ones as texts that lose no digit."""
    import pyarrow as pa

    if any(value.__class__ is int and abs(value) >= 2**63 for value in cells):
        return pa.array([None if value is None else str(value) for value in cells], pa.string())
    values = pa.array([None if value is None else float(value) for value in cells], pa.float64())
    known = arrow_arrays.floats(values.drop_null())
    if np.all(np.isfinite(known)) and np.all(known == np.floor(known)) and np.all(np.abs(known) < 2**53):
        return values.cast(pa.int64())
    if float not in set(map(type, cells)):
        return pa.array(cells, pa.int64())
    return values
