"""SQL expressions from people, held to plain expressions over known columns.

One expression, known columns, functions from a closed list: no subquery, window, placeholder or
statement, no function of chance, clock, session or machine. What passes is written out again from
the parse tree, with every column quoted, so that no text of the caller ever reaches the engine.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from ..support.errors import ColumnError, ExpressionError
from ..support.printable import UNSEEN

if TYPE_CHECKING:
    from sqlglot import exp

DIALECT = "duckdb"
#: Letters that cannot be shown, one each.
_UNSEEN = re.compile(f"({UNSEEN.pattern}|[\t\n])")

#: Row functions that give the same answer on every day and every machine.
_PLAIN_NODES = (
    "Abs Add And Between Boolean Case Cast Ceil Chr Coalesce Column Concat DataType Date DateDiff DateTrunc "
    "TimestampTrunc Day DayOfMonth DayOfWeek DayOfWeekIso DayOfYear Distinct Div DPipe EQ Exp Extract Floor "
    "Greatest GT GTE Identifier If ILike In IntDiv Interval Is IsInf IsNan Least Left Length Like Literal Ln Log "
    "Lower LT LTE Mod Month Mul Neg NEQ Not Null Nullif NullSafeEQ NullSafeNEQ Or Paren Pow Quarter RegexpLike "
    "Replace Right Round Sign Sqrt StartsWith Star StrPosition Sub Substring Trim TryCast TsOrDsToDate Tuple "
    "Upper Var Week WeekOfYear Xor Year"
).split()
#: Levels of an expression, and of replacements inside each other.
_DEEPEST, _MOST_REPLACED = 150, 3
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
    except (errors.SqlglotError, RecursionError, ValueError) as problem:
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
    _not_too_deep(tree, text, what)
    return tree  # type: ignore[no-any-return]


def _not_too_deep(tree: Any, text: str, what: str) -> None:
    """Refuses what the engines would follow for ever: brackets within brackets, replacements of replacements."""
    deepest: list[tuple[Any, int, int]] = [(tree, 0, 0)]
    while deepest:
        node, depth, replaced = deepest.pop()
        # Each replacement can make a text as many times longer as its own is long.
        replaced += type(node).__name__ == "Replace"
        if depth > _DEEPEST or replaced > _MOST_REPLACED:
            raise ExpressionError(text, "is nested too deeply", f"Give {what}.")
        deepest += [(child, depth + 1, replaced) for child in node.iter_expressions()]


def bind(tree: exp.Expression, columns: Sequence[str], where: str, private: Sequence[str] = ()) -> exp.Expression:
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
            error = ColumnError.unknown(name, columns, where, private)
            if node.this.args.get("quoted"):
                raise ColumnError(
                    name, str(error), "(Text stands between single quotes, column names between double ones.)"
                )
            raise error
        return exp.column(exp.to_identifier(found, quoted=True))

    return tree.copy().transform(resolve)


def condition(text: str, columns: Sequence[str], private: Sequence[str] = ()) -> str:
    """A `--where` condition as safe SQL text over the quoted columns.

    Raises ExpressionError or ColumnError.
    """
    what = "one condition over the table's columns, such as \"fare > 0 AND route = 'Outer Bar'\""
    return to_sql(bind(parse(text, aggregates=False, what=what), columns, "the condition", private))


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
    text = str(value)
    if not _UNSEEN.search(text):
        return "'" + text.replace("'", "''") + "'"
    # What steers a terminal or breaks a line is spelled out, so that the SQL can be shown and pasted.
    pieces = _UNSEEN.split(text)
    told = [f"chr({ord(piece)})" if _UNSEEN.fullmatch(piece) else quote_value(piece) for piece in pieces if piece]
    return f"({' || '.join(told)})" if len(told) > 1 else told[0]


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
