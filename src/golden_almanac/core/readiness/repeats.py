"""Rows that stand in the table twice. They are told, not dropped: two equal sales may both be true."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..tables import Table
from ..tables.problems import Problem, Question

#: When more rows than this share are repeats, the table simply has few columns.
_MOST = 0.05
_LEAST_COLUMNS = 3


def ready(table: Table) -> Table:
    """Tell rows equal to an earlier one in every column, and keys that stand twice."""
    if len(table.columns) < _LEAST_COLUMNS or table.rows < 2:
        return table
    number = np.zeros(table.rows, dtype=np.int64)
    for column in table.columns:
        encoded = table.arrow.column(column.name).combine_chunks().dictionary_encode()
        codes = np.asarray(encoded.indices.fill_null(len(encoded.dictionary)), dtype=np.int64)
        _, number = np.unique(number * (len(encoded.dictionary) + 1) + codes, return_inverse=True)
        if number.max() + 1 == table.rows:
            return table
    firsts = np.unique(number, return_index=True)[1]
    again = np.ones(table.rows, dtype=bool)
    again[firsts] = False
    count = int(again.sum())
    if count > _MOST * table.rows and count > 3:
        return table
    numbers = table.row_numbers()
    original = firsts[number]
    shown = tuple((int(numbers[p]), f"the same as row {int(numbers[original[p]])}") for p in np.flatnonzero(again)[:3])
    problem = Problem(
        check="repeated rows",
        severity="question",
        column=None,
        rows=count,
        examples=shown,
        message=f"{count:,} row{'s repeat' if count > 1 else ' repeats'} an earlier one in every column and "
        f"{'were' if count > 1 else 'was'} kept.",
        question=Question(
            text="Were they entered twice? If so, take them out of the source.", choices=("keep", "take out")
        ),
    )
    return replace(table, problems=(*table.problems, problem))
