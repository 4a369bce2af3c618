"""Periods across the columns, turned into rows: one date column, one value column."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from ..tables import Table
from ..tables.guide import Guide
from ..tables.problems import Problem, Step
from ..tables.texts import dates
from .repairs import TURN, turn

#: Fewer period columns than this are columns in their own right.
LEAST_PERIODS = 4
#: Period columns must make most of the table's numbers.
_MOST = 0.6


def ready(table: Table, guide: Guide) -> Table:
    """Turn columns whose headings are dates, months, quarters or years into rows."""
    numbers = [column for column in table.columns if column.type in ("number", "empty")]
    period = _periods([column.name for column in numbers])
    if len(period) < LEAST_PERIODS or len(period) < _MOST * len(numbers):
        return table
    names = list(period)
    problem = Problem(
        check="periods across columns",
        severity="repair",
        column=None,
        rows=len(period),
        message=f"{len(period)} columns are periods ({names[0]} to {names[-1]}); they were turned into rows, with the "
        "columns “period” and “value”.",
        repair="turned into rows",
        step=Step(do=TURN, facts={"columns": {name: day.isoformat() for name, day in period.items()}}),
    )
    table = turn(table, period)
    return replace(table, problems=(*table.problems, problem))


def _periods(names: list[str]) -> dict[str, Any]:
    """Headings that are periods, with their first days; empty unless all of one form."""
    from datetime import date

    years = [name for name in names if name.isdigit() and 1900 <= int(name) <= 2100]
    if len(years) >= LEAST_PERIODS and len(set(years)) == len(years):
        return {name: date(int(name), 1, 1) for name in years}
    dated = [name for name in names if any(letter.isdigit() for letter in name)]
    found = dates.read("", dated) if dated else None
    if found is None or found.question is not None:
        return {}
    good = {name: value for name, value in zip(dated, found.values, strict=True) if value is not None}
    plain = {name: value.date() if hasattr(value, "hour") else value for name, value in good.items()}
    return plain if len(set(plain.values())) == len(plain) else {}
