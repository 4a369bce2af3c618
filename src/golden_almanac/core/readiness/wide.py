"""Periods across the columns, turned into rows: one date column, one value column."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from ..tables import Table
from ..tables.problems import Problem
from ..tables.roles import describe
from ..tables.texts import dates

#: Fewer period columns than this are columns in their own right.
LEAST_PERIODS = 4
#: Period columns must make most of the table's numbers.
_MOST = 0.6


def ready(table: Table) -> Table:
    """Melt columns whose headings are dates, months, quarters or years."""
    import pyarrow as pa

    numbers = [column for column in table.columns if column.type in ("number", "empty")]
    period = _periods([column.name for column in numbers])
    if len(period) < LEAST_PERIODS or len(period) < _MOST * len(numbers):
        return table
    names = [column.name for column in table.columns if column.name not in period]
    n, k = table.rows, len(period)
    place = np.repeat(np.arange(n), k)
    melted: dict[str, Any] = {name: table.arrow.column(name).take(pa.array(place)) for name in names}
    order = list(period)
    melted["period"] = pa.array([period[name] for _ in range(n) for name in order], pa.date32())
    flat = np.column_stack([table.numbers(name) for name in order]).ravel()
    melted["value"] = pa.array(flat, pa.float64(), mask=np.isnan(flat))
    arrow = pa.table(melted)
    columns = tuple(describe(name, name, arrow.column(name)) for name in arrow.column_names)
    problem = Problem(
        check="periods across columns",
        severity="repair",
        column=None,
        rows=k,
        message=f"{k} columns are periods ({order[0]} to {order[-1]}); they were turned into rows, with the columns "
        "“period” and “value”.",
        repair="turned into rows",
    )
    return replace(
        table,
        arrow=arrow,
        columns=columns,
        problems=(*table.problems, problem),
        rows_read=table.rows_read,
        _cache={("row numbers",): table.row_numbers()[place]},
    )


def _periods(names: list[str]) -> dict[str, Any]:
    """Headings that are periods, with their first days; empty unless all of one form."""
    from datetime import date

    years = [name for name in names if name.isdigit() and 1900 <= int(name) <= 2100]
    if len(years) >= LEAST_PERIODS and len(set(years)) == len(years):
        return {name: date(int(name), 1, 1) for name in years}
    dated = [name for name in names if any(letter.isdigit() for letter in name)]
    found = dates.read(dated) if dated else None
    if found is None or found.question is not None:
        return {}
    good = {name: value for name, value in zip(dated, found.values, strict=True) if value is not None}
    plain = {name: value.date() if hasattr(value, "hour") else value for name, value in good.items()}
    return plain if len(set(plain.values())) == len(plain) else {}
