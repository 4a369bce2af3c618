"""Totals and subtotals among the rows, found by arithmetic and not only by the word."""

from __future__ import annotations

import re
from dataclasses import replace

import numpy as np
import numpy.typing as npt

from ..tables import Role, Table
from ..tables.guide import Guide
from ..tables.problems import Problem, Step, counted
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
_WHY = "a total of the rows before"
#: A column that lacks more labels than this labels nothing.
_MOST_BLANK = 0.35


def ready(table: Table, guide: Guide) -> Table:
    """Set aside rows that equal the sum of the rows before them."""
    amounts = [column.name for column in table.columns if column.role is Role.MEASURE and column.adds_up]
    if not amounts or table.rows < 3:
        return table
    values = np.column_stack([np.nan_to_num(table.numbers(name)) for name in amounts])
    places = np.flatnonzero(_totals(values, _said(table), _blank(table)))
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
        repair="set aside",
        message=f"{counted(count, 'row is a total', 'rows are totals')} of the rows before and "
        f"{'was' if count == 1 else 'were'} set aside, so that nothing is counted twice.",
        step=Step(do=SET_ASIDE, facts={"why": _WHY, "places": places.tolist()}),
    )
    table = set_aside(table, places, _WHY)
    return replace(table, problems=(*table.problems, problem))


def _totals(
    values: npt.NDArray[np.float64], said: npt.NDArray[np.bool_], blank: npt.NDArray[np.bool_]
) -> npt.NDArray[np.bool_]:
    """Rows whose amounts are the sums of a run of rows just before them (other totals left out)."""
    n = values.shape[0]
    found = np.zeros(n, dtype=bool)
    look = np.arange(1, n) if n <= _LOOK_AT_ALL else np.union1d(np.flatnonzero(said | blank), [n - 1])
    if look.size > _MOST_LOOKS:
        return found
    sums = np.vstack([np.zeros((1, values.shape[1])), np.cumsum(values, axis=0)])
    kept_before = np.arange(n + 1)
    scale = 1e-9 * np.maximum(np.abs(values).sum(axis=0), 1.0) + 1e-6
    for row in look:
        own = values[row]
        solid = np.abs(own) > 0
        if not solid.any():
            continue
        target = sums[row] - own
        column = int(np.argmax(np.abs(own)))
        starts = np.flatnonzero(np.abs(sums[:row, column] - target[column]) <= scale[column])
        starts = starts[(np.abs(sums[starts] - target) <= scale).all(axis=1)] if starts.size else starts
        if starts.size == 0:
            continue
        length = int(kept_before[row] - kept_before[starts[0]])
        # A sum of two small numbers may be chance: the row must say so, bear no label, or match in many columns.
        sure = said[row] or blank[row] or (solid.sum() >= 3 and length >= 3)
        if length >= 2 and sure:
            found[row] = True
            # A total found takes no part in later sums.
            sums[row + 1 :] -= own
            kept_before[row + 1 :] -= 1
    return found


def _said(table: Table) -> npt.NDArray[np.bool_]:
    """Rows in which some label says "total"."""
    found = np.zeros(table.rows, dtype=bool)
    for column in table.columns:
        if column.type == "text" and column.distinct <= 100_000:
            codes, labels = table.codes(column.name)
            told = np.array([label is not None and bool(_WORDS.search(label)) for label in labels])
            if told.any():
                found |= told[codes]
    return found


def _blank(table: Table) -> npt.NDArray[np.bool_]:
    """Rows without a label in any column that labels most other rows."""
    found: npt.NDArray[np.bool_] | None = None
    for column in table.columns:
        if column.type in ("text", "date") and column.missing <= _MOST_BLANK * table.rows:
            missing = np.asarray(table.arrow.column(column.name).is_null())
            found = missing if found is None else found & missing
    return np.zeros(table.rows, dtype=bool) if found is None else found
