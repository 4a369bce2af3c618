"""SQL expressions from people, held to plain expressions over known columns.

One expression, known columns, functions from a closed list: no subquery, window, placeholder or
statement, no function of chance, clock, session or machine. What passes is written out again from
the parse tree, with every column quoted, so that no text of the caller ever reaches the engine.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from .errors import ColumnError, ExpressionError

if TYPE_CHECKING:
    from sqlglot import exp

DIALECT = "duckdb"

#: Row functions that give the same answer on every day and every machine.
_PLAIN_NODES = (
    "Abs Add And Between Boolean Case Cast Ceil Coalesce Column Concat DataType Date DateDiff DateTrunc "
    "TimestampTrunc Day DayOfMonth DayOfWeek DayOfWeekIso DayOfYear Distinct Div DPipe EQ Exp Extract Floor "
    "Greatest GT GTE Identifier If ILike In IntDiv Interval Is IsInf IsNan Least Left Length Like Literal Ln Log "
    "Lower LT LTE Mod Month Mul Neg NEQ Not Null Nullif NullSafeEQ NullSafeNEQ Or Paren Pow Quarter RegexpLike "
    "Replace Right Round Sign Sqrt StartsWith Star StrPosition Sub Substring Trim TryCast TsOrDsToDate Tuple "
    "Upper Var Week WeekOfYear Xor Year"
).split()
_AGGREGATE_NODES = ("Sum", "Avg", "Count", "Min", "Max", "Alias")


def parse(text: str, *, aggregates: bool, what: str) -> exp.Expression:
    """Parse one expression and refuse all that is not plain.

    Raises ExpressionError naming the part that was refused.
    """
    import logging

    import sqlglot
    from sqlglot import errors

    logging.getLogger("sqlglot").setLevel(logging.ERROR)
    if not text.strip():
        raise ExpressionError(text, "is empty", f"Give {what}.")
    if "\x00" in text or len(text) > 10_000:
        raise ExpressionError(text, "is not an expression that can be read", f"Give {what}.")
    try:
        trees = sqlglot.parse(text, read=DIALECT)
    except (errors.SqlglotError, RecursionError) as problem:
        raise ExpressionError(text, "is not SQL that can be read" + _place(problem), f"Give {what}.") from problem
    if len(trees) != 1 or trees[0] is None:
        raise ExpressionError(text, "is more than one expression", f"Give {what}.")
    tree: Any = trees[0]
    allowed = {*_PLAIN_NODES, *(_AGGREGATE_NODES if aggregates else ())}
    for node in tree.walk():
        name = type(node).__name__
        if name in allowed:
            continue
        raise ExpressionError(text, f"uses {_spell(node)}, which is not a plain expression", f"Give {what}.")
    return tree  # type: ignore[no-any-return]


def bind(tree: exp.Expression, columns: Sequence[str], where: str) -> exp.Expression:
    """The tree with every column resolved (case folded) to the table's spelling, and quoted."""
    from sqlglot import exp

    folded = {name.casefold(): name for name in reversed(columns)}
    exact = set(columns)

    def resolve(node: exp.Expression) -> exp.Expression:
        if not isinstance(node, exp.Column):
            return node
        if isinstance(node.this, exp.Star):
            return node
        name = ".".join(part.name for part in node.parts)
        found = name if name in exact else folded.get(name.casefold())
        if found is None:
            error = ColumnError.unknown(name, columns, where)
            if node.this.args.get("quoted"):
                raise ColumnError(
                    name, str(error), "(Text stands between single quotes, column names between double ones.)"
                )
            raise error
        return exp.column(exp.to_identifier(found, quoted=True))

    return tree.copy().transform(resolve)


def condition(text: str, columns: Sequence[str]) -> str:
    """A `--where` condition as safe SQL text over the quoted columns.

    Raises ExpressionError or ColumnError.
    """
    what = "one condition over the table's columns, such as \"fare > 0 AND route = 'Outer Bar'\""
    return to_sql(bind(parse(text, aggregates=False, what=what), columns, "the condition"))


def to_sql(tree: exp.Expression) -> str:
    return tree.sql(dialect=DIALECT)


def quote_name(name: str) -> str:
    """A column name as a quoted SQL identifier."""
    return '"' + name.replace('"', '""') + '"'


def quote_value(value: object) -> str:
    """A label as an SQL literal."""
    if value is None:
        return "NULL"
    if isinstance(value, bool):
        return "TRUE" if value else "FALSE"
    if isinstance(value, int | float):
        return repr(value)
    return "'" + str(value).replace("'", "''") + "'"


def single_select(query: str) -> str:
    """A query written out again, if it is one SELECT. Raises ExpressionError."""
    import sqlglot
    from sqlglot import errors, exp

    try:
        trees = sqlglot.parse(query, read=DIALECT)
    except errors.SqlglotError as problem:
        raise ExpressionError(query, "is not SQL that can be read", "Write one SELECT … FROM source.") from problem
    if len(trees) != 1 or not isinstance(trees[0], exp.Query):
        raise ExpressionError(query, "is not one query", "Write one SELECT … FROM source.")
    return trees[0].sql(dialect=DIALECT)


def _place(problem: Exception) -> str:
    details = getattr(problem, "errors", None)
    if details and details[0].get("col"):
        return f" (trouble at character {details[0]['col']})"
    return ""


def _spell(node: Any) -> str:
    name = type(node).__name__
    if name in ("Select", "Subquery", "Union", "Exists"):
        return "a query"
    if name == "Window":
        return "a window"
    if name in ("Anonymous", "Func", "AnonymousAggFunc"):
        return f"the function {node.name}"
    if name in ("Placeholder", "Parameter"):
        return "a placeholder"
    if name in _AGGREGATE_NODES:
        return f"the aggregate {name.lower()}"
    sql_name = getattr(node, "sql_name", None)
    if callable(sql_name):
        return f"the function {sql_name().lower()}"
    return f"the statement or construct {name.upper()}"
