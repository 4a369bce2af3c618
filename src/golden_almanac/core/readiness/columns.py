"""Columns that tell nothing: empty, almost empty, or one value throughout."""

from __future__ import annotations

from dataclasses import replace

from ..tables import Table
from ..tables.guide import Guide
from ..tables.problems import Problem

_ALMOST = 0.95


def ready(table: Table, guide: Guide) -> Table:
    """Tell columns without use to a report."""
    problems = []
    for column in table.columns:
        if column.missing >= table.rows:
            problems.append(_note("empty column", column.name, table.rows, "is empty and takes no part"))
        elif column.missing > _ALMOST * table.rows:
            filled = table.rows - column.missing
            problems.append(
                _note("almost empty column", column.name, column.missing, f"is filled in {filled:,} rows only")
            )
        elif column.distinct == 1 and table.rows > 1:
            problems.append(
                _note("constant column", column.name, table.rows, "holds one value throughout and takes no part")
            )
    return replace(table, problems=(*table.problems, *problems))


def _note(check: str, column: str, rows: int, text: str) -> Problem:
    return Problem(check=check, severity="note", column=column, rows=rows, message=f"{column!r} {text}.")
