"""A table's condition taken apart, so that it can be said: labels that rows have, and comparisons beside them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from ..findings import Slice
from ..tables import Table


@dataclass(frozen=True, slots=True, kw_only=True)
class Condition:
    """One comparison of a column with values; `sign` is =, ≠, >, ≥, <, ≤, between, in, not in, missing or known; what
    is none of these has only its `sql`."""

    sql: str
    column: str = ""
    sign: str = ""
    values: tuple[Any, ...] = ()


def conditions_of(table: Table) -> tuple[Slice, tuple[Condition, ...]]:
    """The labels that all rows have, in the order of the condition, and what else is asked of them."""
    if table.where is None:
        return Slice(), ()
    import sqlglot

    tree: Any = sqlglot.parse_one(table.where, read="duckdb")
    labels: list[tuple[str, str | None]] = []
    rest = []
    for part in _parts(tree):
        one = _condition(part, table)
        column = table.column(one.column) if one.column else None
        if column is not None and one.sign == "=" and column.type == "text":
            labels.append((column.name, str(one.values[0])))
        else:
            rest.append(one)
    return Slice(tuple(labels)), tuple(rest)


def _parts(tree: Any) -> list[Any]:
    from sqlglot import exp

    while isinstance(tree, exp.Paren):
        tree = tree.this
    return [*_parts(tree.this), *_parts(tree.expression)] if isinstance(tree, exp.And) else [tree]


_SIGNS = {"EQ": "=", "NEQ": "≠", "GT": ">", "GTE": "≥", "LT": "<", "LTE": "≤"}


def _condition(tree: Any, table: Table) -> Condition:
    from sqlglot import exp

    sql = str(tree.sql(dialect="duckdb"))
    turned = isinstance(tree, exp.Not)
    inner = tree.this if turned else tree
    while isinstance(inner, exp.Paren):
        inner = inner.this
    name = type(inner).__name__
    column = inner.this if isinstance(getattr(inner, "this", None), exp.Column) else None
    if isinstance(inner, exp.Column) and inner.name in table.names:
        return Condition(sql=sql, column=inner.name, sign="=", values=(not turned,))
    if column is None or column.name not in table.names:
        return Condition(sql=sql)
    if name in _SIGNS and not turned:
        value = _value(inner.expression)
        return (
            Condition(sql=sql)
            if value is None
            else Condition(sql=sql, column=column.name, sign=_SIGNS[name], values=(value,))
        )
    if name == "Between" and not turned:
        low, high = _value(inner.args["low"]), _value(inner.args["high"])
        if low is not None and high is not None:
            return Condition(sql=sql, column=column.name, sign="between", values=(low, high))
    if name == "In":
        values = tuple(_value(one) for one in inner.expressions)
        if values and None not in values:
            return Condition(sql=sql, column=column.name, sign="not in" if turned else "in", values=values)
    if name in ("Is", "NullSafeEQ", "NullSafeNEQ"):
        flag = inner.expression
        if isinstance(flag, exp.Null):
            return Condition(sql=sql, column=column.name, sign="known" if turned else "missing")
        if isinstance(flag, exp.Boolean):
            return Condition(sql=sql, column=column.name, sign="=", values=(bool(flag.this) is not turned,))
    return Condition(sql=sql)


def _value(tree: Any) -> Any:
    """A literal's value; None for anything else."""
    from sqlglot import exp

    if isinstance(tree, exp.Neg):
        inner = _value(tree.this)
        return -inner if isinstance(inner, float) else None
    if isinstance(tree, exp.Literal):
        return str(tree.this) if tree.is_string else float(tree.this)
    if isinstance(tree, exp.Boolean):
        return bool(tree.this)
    return _value(tree.this) if isinstance(tree, exp.Cast) else None
