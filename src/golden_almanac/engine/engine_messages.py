"""What engines say of a query, in our words: theirs ("Catalog Error", "Binder Error") never reach a reader.

The one place where messages of DuckDB and SQLite are read; what is not known here is told without a reason.
"""

from __future__ import annotations

import re
from collections.abc import Callable

from ..support.errors import ColumnError, ExpressionError, shorten


def translated(problem: Exception, sql: str) -> ExpressionError | ColumnError:
    """What an engine says of a query, in our words. Its own never reach a reader."""
    text = str(problem)
    for pattern, made in _SAID:
        found = re.search(pattern, text, re.DOTALL | re.IGNORECASE)
        if found is not None:
            return made(sql, *found.groups())
    return ExpressionError(sql, "cannot be computed", "Check the types of the columns it uses.")


def _no_column(sql: str, name: str) -> ColumnError:
    return ColumnError(name, f"There is no column named {shorten(name)!r} (in a query).", "Check its spelling.")


def _because(why: str, remedy: str) -> Callable[..., ExpressionError]:
    def made(sql: str, *parts: str) -> ExpressionError:
        return ExpressionError(sql, why.format(*(shorten(part, 60) for part in parts)), remedy)

    return made


_TYPES = "Check the types of the columns it uses."
#: What engines say, and what that means. The first that fits is taken; what none fits is told without a reason.
_SAID: tuple[tuple[str, Callable[..., ExpressionError | ColumnError]], ...] = (
    (r'Referenced column "([^"]*)" (?:not found|was not found)', _no_column),
    (r"no such column: \"?([^\"\n]*)", _no_column),
    (
        r'(?:Table|Values list) "([^"]*)" does not have a column named "([^"]*)"',
        lambda sql, _, name: _no_column(sql, name),
    ),
    (
        r"Table with name (\S+) does not exist",
        _because("asks for the table {0!r}, which is not there", "Check its name."),
    ),
    (r"no such table: (\S+)", _because("asks for the table {0!r}, which is not there", "Check its name.")),
    (
        r"(?:Scalar|Aggregate|Table)? ?Function with name \"?(\w+)\"? (?:does not exist|is not)",
        _because("uses the function {0}, which is not there", "Check its name."),
    ),
    (r"no such function: (\w+)", _because("uses the function {0}, which is not there", "Check its name.")),
    (
        r"No function matches the given name and argument types '([^'(]+)\(",
        _because("uses {0} on a type that it cannot take", _TYPES),
    ),
    (
        r"must appear in the GROUP BY clause|column \"?[^\"]*\"? must appear",
        _because("shows a column that is neither grouped nor aggregated", "Add it to GROUP BY."),
    ),
    (
        r"clause cannot contain aggregates|misuse of aggregate",
        _because("aggregates where rows are chosen", "Use HAVING, or another query."),
    ),
    (
        r"Could not convert (?:string|value)? ?'([^']*)'",
        _because("meets the text {0!r} where a number or date belongs", _TYPES),
    ),
    (
        r"Could not choose a best candidate function for the function call \"(\w+)",
        _because("uses {0} on a type that it cannot take", _TYPES),
    ),
    (
        r"could not convert|Conversion|invalid input|Cannot compare|type mismatch|No operator|Unimplemented type",
        _because("mixes types that do not go together", _TYPES),
    ),
    (
        r"(?:date|timestamp|time) field value|invalid (?:date|timestamp)|out of range for date",
        _because("meets a date that there is not", _TYPES),
    ),
    (r"out of range|overflow", _because("leads to a number that is too large", "Divide it, or cast it to DOUBLE.")),
    (r"division by zero", _because("divides by nought", "Use nullif(…, 0).")),
    (
        r"more than one row returned by a subquery",
        _because("takes several rows for one value", "Aggregate them, or add LIMIT 1."),
    ),
    (r"Ambiguous|ambiguous", _because("names a column that several tables have", "Put the table's name before it.")),
    (
        r"nested aggregate|aggregate function calls cannot be nested",
        _because("aggregates inside an aggregate", "Take the inner one in a query of its own."),
    ),
    (r"nested|depth|too deep|recursion|max_expression_depth", _because("is nested too deeply", "Make it simpler.")),
    (
        r"syntax error|Parser Error|incomplete input|unrecognized token",
        _because("is not SQL that can be read", "Write one SELECT."),
    ),
    (
        r"not authorized|readonly|read-only|prohibited|disabled|Permission",
        _because("does more than read", "Write one SELECT."),
    ),
    (r"string or blob too big|too big|too large", _because("makes a text that is too long", "Ask for shorter ones.")),
    (r"window", _because("uses a window where none can stand", "Take it in a query of its own.")),
)
