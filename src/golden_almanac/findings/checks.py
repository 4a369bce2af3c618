"""The SQL that gives figures again from the source rows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from ..aggregation.measures import Measure
from ..sql import expressions
from ..tables import Period, Table
from .finding import Slice


def within(
    table: Table, where: Slice, time: str | None = None, period: Period | None = None, outside: Sequence[Slice] = ()
) -> str:
    """The WHERE text of a slice in a period; `outside` leaves the rows of slices out."""
    terms = []
    if table.where is not None:
        terms.append(f"({table.where})")
    if where.conditions:
        terms.append(where.sql(table))
    terms += [f"({slice_.sql(table)}) IS NOT TRUE" for slice_ in outside]
    if time is not None and period is not None:
        terms.append(between(time, period))
    return " AND ".join(terms) or "TRUE"


def between(time: str, period: Period) -> str:
    """The days of a period; the date is cast so that moments count to the end of their day."""
    if period.sql:
        return period.sql
    return f"CAST({expressions.quote_name(time)} AS DATE) BETWEEN DATE '{period.start}' AND DATE '{period.end}'"


def scalar(measure: Measure, condition: str, divide_by: int = 1) -> str:
    """A measure over the rows of a condition, as a subquery."""
    sql = measure.sql if divide_by == 1 else f"({measure.sql}) / {divide_by}"
    return f"(SELECT {sql} FROM source WHERE {condition})"


def over(measure: Measure, table: Table, where: Slice, time: str, period: Period) -> str:
    """A measure of a slice over a period, as a subquery; of a plan in a column of its own, that column."""
    if period.stands_in is not None:
        # Only in the measure: the condition may quote anything that a label says.
        own, other = map(expressions.quote_name, period.stands_in)
        measure = replace(measure, sql=measure.sql.replace(own, other))
    return scalar(measure, within(table, where, time, period))


def one_row(columns: dict[str, str], before: str = "") -> str:
    """One SELECT with named columns."""
    return before + "SELECT " + ", ".join(f"{sql} AS {name}" for name, sql in columns.items())
