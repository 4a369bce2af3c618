"""Columns that tell nothing: empty, almost empty, or one value throughout."""

from __future__ import annotations

from dataclasses import replace

from ...support.phrasing import phrased, phrased_count
from .. import Column, Role, Table
from ..problems import Problem, Question
from ..reading_guide import Guide

_ALMOST = 0.9
_LARGEST = 1.7e308


def ready(table: Table, guide: Guide) -> Table:
    """Tell columns without use to a report."""
    too_large = {column.name for column in table.with_role(Role.MEASURE) if overflows(table, column)}
    problems = [
        Problem(
            check="numbers too large",
            severity="question",
            column=name,
            rows=table.rows,
            message=phrased(
                "The sum of {column} is beyond the largest number that can be held, so it takes no part.",
                column=repr(name),
            ),
            question=Question(text=phrased("Divide it in the source, to millions for instance.")),
        )
        for name in sorted(too_large)
    ]
    if too_large:
        columns = tuple(
            replace(column, role=Role.IGNORED, adds_up=None) if column.name in too_large else column
            for column in table.columns
        )
        table = replace(table, columns=columns)
    for column in table.columns:
        if column.missing >= table.rows:
            empty = phrased("{column} is empty and takes no part.", column=repr(column.name))
            problems.append(_note("empty column", column.name, table.rows, empty))
        elif column.missing > _ALMOST * table.rows:
            filled = table.rows - column.missing
            nearly = phrased_count(
                filled,
                "{column} is filled in {n} row only.",
                "{column} is filled in {n} rows only.",
                column=repr(column.name),
            )
            problems.append(_note("almost empty column", column.name, column.missing, nearly))
        elif column.distinct == 1 and table.rows > 1:
            same = phrased("{column} holds one value throughout and takes no part.", column=repr(column.name))
            problems.append(_note("constant column", column.name, table.rows, same))
    return replace(table, problems=(*table.problems, *problems))


def overflows(table: Table, column: Column) -> bool:
    """True when the sum of the squares, which variances need, could be beyond a double."""
    if column.type != "number" or column.missing >= table.rows:
        return False
    low, high = table.extent(column.name)
    return bool(max(abs(float(low)), abs(float(high))) > (_LARGEST / table.rows) ** 0.5)


def _note(check: str, column: str, rows: int, text: str) -> Problem:
    return Problem(check=check, severity="note", column=column, rows=rows, message=text)
