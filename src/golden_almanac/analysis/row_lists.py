"""Rows as they stand, in the order of a column, with the SELECT that gives them again."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from ..sql.expressions import quote_name
from ..support.errors import ColumnError, ExpressionError, RequestError
from ..tables import Role, Table

#: Rows that are listed unless more are asked for.
MOST_LISTED = 50


@dataclass(frozen=True, slots=True, kw_only=True)
class Listed:
    """Rows as they stand; `matched` of them meet the condition, `frame` holds the first of them with their numbers."""

    table: Table
    columns: tuple[str, ...]
    rows: tuple[tuple[Any, ...], ...]
    matched: int
    order: str | None
    descending: bool
    sql: str


def listed(table: Table, *, columns: Sequence[str] | None, order: str | None, descending: bool, top: int) -> Listed:
    """Rows of a table in the order of a column, or in their own. Raises ColumnError, RequestError, ExpressionError."""
    if table.minimum > 1:
        raise ExpressionError(
            "the rows", f"would be shown one by one, and groups have {table.minimum} rows at least", "Ask for totals."
        )
    if top < 1:
        raise RequestError("The number of rows", top, "1 or more")
    names = [table.column(name).name for name in columns] if columns else table.names
    by = None if order is None else table.column(order, "the order").name
    if by is not None and table.column(by).type == "nested":
        raise ColumnError(by, f"The column {by!r} has no order.", "Name another.")
    shown = ", ".join(quote_name(name) for name in names)
    condition = f" WHERE {table.where}" if table.where is not None else ""
    ties = ", ".join(quote_name(name) for name in _telling(table))
    way = "" if by is None else f"{quote_name(by)} {'DESC' if descending else 'ASC'} NULLS LAST"
    ordered = ", ".join(part for part in (way, ties if by is not None else "") if part)
    sql = f"SELECT {shown} FROM source{condition}" + (f" ORDER BY {ordered}" if ordered else "") + f" LIMIT {top}"
    answer = table.store.query(sql)
    matched = table.rows
    rows = tuple(tuple(row.values()) for row in answer.to_pylist())
    return Listed(
        table=table, columns=tuple(names), rows=rows, matched=matched, order=by, descending=descending, sql=sql
    )


def _telling(table: Table) -> list[str]:
    """Columns that settle the order of equal rows: keys, else dates and labels."""
    keys = [column.name for column in table.with_role(Role.KEY)]
    return keys or [column.name for column in table.columns if column.role in (Role.TIME, Role.DIMENSION)]
