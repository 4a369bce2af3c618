"""Totals and subtotals among the rows, found by arithmetic and not only by the word."""

from __future__ import annotations

import re
from dataclasses import replace

import numpy as np
import numpy.typing as npt

from ...engine import arrow_arrays
from ...support.phrasing import phrased, phrased_count
from .. import Role, Table
from ..problems import Problem, Step
from ..reading_guide import Guide
from .empty_columns import overflows
from .repairs import SET_ASIDE, row_text, set_aside

_WORDS = re.compile(
    r"\b(sub-?\s?total|grand total|totals?|sum|overall|summe|gesamt|insgesamt|zwischensumme|somme|sous-total|suma|"
    r"totale|totaal)\b",
    re.IGNORECASE,
)
#: In tables longer than this, rows are only looked at that say they are a total, bear no label, or stand last.
_LOOK_AT_ALL = 3000
#: More rows than this that might be totals are none.
_MOST_LOOKS = 5000
_EXAMPLES = 3
#: What amounts are counted in, to reckon how often a sum would hit one by chance, and how often that may be.
_UNIT, _CHANCE = 1.0, 0.02
_WHY = "a total of the rows before"
#: A column that lacks more labels than this labels nothing.
_MOST_BLANK = 0.35


def ready(table: Table, guide: Guide) -> Table:
    """Set aside rows that equal the sum of the rows before them."""
    amounts = [column.name for column in table.columns if column.role is Role.MEASURE and column.adds_up]
    amounts = [name for name in amounts if not overflows(table, table.column(name))]
    if not amounts or table.rows < 3:
        return table
    places = np.flatnonzero(_totals(_Sums(table, amounts), _said(table), _blank(table)))
    if places.size == 0:
        return table
    count = int(places.size)
    rows = table.arrow.take(places[:_EXAMPLES].tolist()).to_pylist()
    problem = Problem(
        check="totals among the rows",
        severity="repair",
        column=None,
        rows=count,
        examples=tuple(
            table.example(int(p), row_text(cells)[:60]) for p, cells in zip(places[:_EXAMPLES], rows, strict=True)
        ),
        repair=phrased("set aside"),
        message=phrased_count(
            count,
            "{n} row is a total of the rows before and was set aside, so that nothing is counted twice.",
            "{n} rows are totals of the rows before and were set aside, so that nothing is counted twice.",
        ),
        step=Step(do=SET_ASIDE, facts={"why": _WHY, "places": places.tolist()}),
    )
    table = set_aside(table, places, _WHY)
    return replace(table, problems=(*table.problems, problem))


class _Sums:
    """Running sums of the amounts, each column's made when it is first asked for; found totals take no part."""

    def __init__(self, table: Table, names: list[str]) -> None:
        self._table, self._names = table, names
        self._made: dict[int, tuple[npt.NDArray[np.float64], float]] = {}
        self._gone: list[tuple[int, npt.NDArray[np.float64]]] = []

    def rows(self, places: npt.NDArray[np.intp]) -> npt.NDArray[np.float64]:
        """The amounts of some rows, nothing for missing ones; shape (places, columns)."""

        picked = (self._table.arrow.column(name).take(arrow_arrays.column(places)) for name in self._names)
        cells = [arrow_arrays.floats(column) for column in picked]
        return np.asarray(np.nan_to_num(np.column_stack(cells)), dtype=np.float64)

    def running(self, column: int) -> tuple[npt.NDArray[np.float64], float]:
        """Sums of the rows before each row, shape (rows + 1,), and how far two sums may differ by rounding."""
        if column not in self._made:
            values = self._table.numbers(self._names[column])
            values = np.nan_to_num(values) if np.isnan(values).any() else values
            sums = np.concatenate([[0.0], np.cumsum(values)])
            for row, own in self._gone:
                sums[row + 1 :] -= own[column]
            self._made[column] = sums, 1e-9 * max(float(np.abs(values).sum()), 1.0) + 1e-6
        return self._made[column]

    def without(self, row: int, own: npt.NDArray[np.float64]) -> None:
        """Take a row out of all sums."""
        self._gone.append((row, own))
        for column, (sums, _) in self._made.items():
            sums[row + 1 :] -= own[column]


def _totals(sums: _Sums, said: npt.NDArray[np.bool_], blank: npt.NDArray[np.bool_]) -> npt.NDArray[np.bool_]:
    """Rows whose amounts are the sums of a run of rows just before them (other totals left out)."""
    n = said.size
    found = np.zeros(n, dtype=bool)
    look = np.arange(1, n) if n <= _LOOK_AT_ALL else np.union1d(np.flatnonzero(said | blank), [n - 1])
    if look.size > _MOST_LOOKS:
        return found
    kept_before = np.arange(n + 1)
    amounts = sums.rows(look)
    likely = _likely(sums, look, amounts)
    for place, (row, own) in enumerate(zip(look, amounts, strict=True)):
        if not likely[place]:
            continue
        solid = np.abs(own) > 0
        # The largest amount is asked first; most rows are no total by it alone.
        starts: npt.NDArray[np.intp] | None = None
        for column in np.argsort(-np.abs(own), kind="stable"):
            running, rounding = sums.running(int(column))
            before = running[:row] if starts is None else running[starts]
            near = np.flatnonzero(np.abs(before - (running[row] - own[column])) <= rounding)
            starts = near if starts is None else starts[near]
            if starts.size == 0:
                break
        if starts is None or starts.size == 0:
            continue
        length = int(kept_before[row] - kept_before[starts[0]])
        # A sum of small numbers may be chance: the row must say so; or bear no label, or match in many columns, with
        # amounts so large that hardly any sum of the rows before would hit them.
        silent = blank[row] or (solid.sum() >= 3 and length >= 3)
        sure = said[row] or (silent and row * float(np.prod(_UNIT / np.maximum(np.abs(own[solid]), _UNIT))) <= _CHANCE)
        if length >= 2 and sure:
            found[row] = True
            sums.without(row, own)
            kept_before[row + 1 :] -= 1
            likely[place + 1 :] = _likely(sums, look[place + 1 :], amounts[place + 1 :])
    return found


def _likely(sums: _Sums, look: npt.NDArray[np.intp], amounts: npt.NDArray[np.float64]) -> npt.NDArray[np.bool_]:
    """Rows whose largest amount is what any run of rows that ends just before them might add up to."""
    largest = np.argsort(-np.abs(amounts), axis=1, kind="stable")[:, 0]
    found = np.zeros(look.size, dtype=bool)
    for column in np.unique(largest):
        running, rounding = sums.running(int(column))
        ordered = np.sort(running)
        mine = (largest == column) & (amounts[:, column] != 0)
        wanted = running[look[mine]] - amounts[mine, column]
        first = np.searchsorted(ordered, wanted - 1.001 * rounding)
        found[mine] = (first < ordered.size) & (
            ordered[np.minimum(first, ordered.size - 1)] <= wanted + 1.001 * rounding
        )
    return found


def _said(table: Table) -> npt.NDArray[np.bool_]:
    """Rows in which some label says "total"."""
    found = np.zeros(table.rows, dtype=bool)
    for column in table.columns:
        if column.type == "text" and column.distinct <= 100_000:
            codes, labels = table.codes(column.name)
            told = np.array([label is not None and says_total(label) for label in labels])
            if told.any():
                found |= told[codes]
    return found


def says_total(label: str) -> bool:
    """True when a label says that its row is a total."""
    return bool(_WORDS.search(label))


def _blank(table: Table) -> npt.NDArray[np.bool_]:
    """Rows without a label in any column that labels most other rows."""
    found: npt.NDArray[np.bool_] | None = None
    for column in table.columns:
        if column.type in ("text", "date") and column.missing <= _MOST_BLANK * table.rows:
            missing = arrow_arrays.flags(table.arrow.column(column.name).is_null())
            found = missing if found is None else found & missing
    return np.zeros(table.rows, dtype=bool) if found is None else found
