"""Periods across the columns, turned into rows: one date column, one value column."""

from __future__ import annotations

import re
from dataclasses import replace
from typing import Any

import numpy as np

from ...support.phrasing import phrased, phrased_count, together
from .. import Table
from ..parsing import date_formats
from ..problems import Problem, Step
from ..reading_guide import Guide
from .reckoned_totals import NEAR, last_digit
from .repairs import TURN, turn

#: Fewer period columns than this are columns in their own right.
LEAST_PERIODS = 4
#: Period columns must make most of the table's numbers.
_MOST = 0.6


#: A heading that is a year: 1960, year_1960, "FY 2021", X1960 (as programs write numbers as names).
_YEAR = re.compile(r"(?:(?:year|yr|jahr|annee|año|ano|anio|fy|cy|y|x)[ _.-]?)?(\d{4})", re.IGNORECASE)


def ready(table: Table, guide: Guide) -> Table:
    """Turn columns whose headings are dates, months, quarters or years into rows."""
    numbers = [column for column in table.columns if column.type in ("number", "empty")]
    period = periods([column.name for column in numbers])
    if len(period) < LEAST_PERIODS:
        return table
    names = list(period)
    totals = _totals(table, names, [column.name for column in numbers if column.name not in period])
    if len(period) < _MOST * (len(numbers) - len(totals)):
        return table
    turned = phrased(
        "{n} columns are periods ({first} to {last}); they were turned into rows, with the columns “period” and "
        "“value”.",
        n=len(period),
        first=names[0],
        last=names[-1],
    )
    left_out = phrased_count(
        len(totals),
        "{names} adds periods up and was left out, so that nothing is counted twice.",
        "{names} add periods up and were left out, so that nothing is counted twice.",
        names=[repr(name) for name in totals],
    )
    said = together(turned, left_out if totals else "")
    columns = {name: day.isoformat() for name, day in period.items()}
    problem = Problem(
        check="periods across columns",
        severity="repair",
        column=None,
        rows=len(period),
        message=said,
        repair=phrased("turned into rows"),
        step=Step(do=TURN, facts={"columns": columns, "without": totals}),
    )
    table = turn(table, period, totals)
    return replace(table, problems=(*table.problems, problem))


def _totals(table: Table, periods: list[str], others: list[str]) -> list[str]:
    """Columns that on every row are the sum of a run of period columns (a year's total, a quarter's), but for the last
    digit of each."""
    values = np.column_stack([np.nan_to_num(table.numbers(name)) for name in periods])
    sums = np.column_stack([np.zeros(table.rows), np.cumsum(values, axis=1)])
    scale = 1e-9 * np.abs(values).sum(axis=1).max() + 1e-6
    found = []
    for name in others:
        own = np.nan_to_num(table.numbers(name))
        digit = last_digit(own) / 2
        # Where a digit says nothing (counts of one or two) sums must be exact.
        digit = digit if digit * (1 + len(periods)) <= NEAR * float(np.median(np.abs(own))) else 0.0
        runs = ((first, last) for first in range(len(periods)) for last in range(first + 2, len(periods) + 1))
        if own.any() and any(
            np.all(np.abs(sums[:, last] - sums[:, first] - own) <= scale + digit * (1 + last - first))
            for first, last in runs
        ):
            found.append(name)
    return found


def periods(names: list[str]) -> dict[str, Any]:
    """Headings that are periods, with their first days; empty unless all of one form."""
    from datetime import date

    years = {name: int(said[1]) for name in names if (said := _YEAR.fullmatch(name.strip()))}
    years = {name: year for name, year in years.items() if 1900 <= year <= 2100}
    if len(years) >= LEAST_PERIODS and len(set(years.values())) == len(years):
        return {name: date(year, 1, 1) for name, year in years.items()}
    dated = [name for name in names if any(letter.isdigit() for letter in name)]
    found = date_formats.read("", dated) if dated else None
    if found is None or found.question is not None:
        return {}
    good = {name: value for name, value in zip(dated, found.values, strict=True) if value is not None}
    plain = {name: value.date() if hasattr(value, "hour") else value for name, value in good.items()}
    return plain if len(set(plain.values())) == len(plain) else {}
