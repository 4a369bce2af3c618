"""Statements of the house, written once in its own dialect, as other engines know them.

The names `source` and `numbered`, and small tables beside them, become the SELECTs that they stand for. What sqlglot
would leave as an engine does not know it is rewritten here, or by the engine's adapter; every statement of the house is
run on the real engines in the tests.
"""

from __future__ import annotations

import logging
from collections.abc import Mapping
from functools import lru_cache
from typing import TYPE_CHECKING, Any

from ...sql.expressions import quote_name, quote_value
from ...sql.server_functions import refuse_reaching
from ...support.errors import BudgetError, ExpressionError
from .adapter import Adapter

if TYPE_CHECKING:
    import pyarrow as pa

#: The relation in statements of the house; what people write cannot name it.
BASE = "golden_almanac_base_relation"
#: Rows of a small table that are written into a statement at most.
_MOST_BESIDE = 20_000


def translated(sql: str, adapter: Adapter, relations: Mapping[str, str]) -> str:
    """A statement in the dialect of an engine; `relations` are the SELECTs of the house that names stand for. Raises
    ExpressionError for what cannot be read, or what the engine cannot be asked."""
    import sqlglot
    from sqlglot import errors, exp

    logging.getLogger("sqlglot").setLevel(logging.ERROR)
    try:
        if BASE in sql:
            raise ValueError(BASE)
        tree: Any = sqlglot.parse_one(sql, read="duckdb")
    except (errors.SqlglotError, RecursionError, ValueError) as problem:
        raise ExpressionError(sql, "is not SQL that can be read", "Write one SELECT … FROM source.") from problem
    refuse_reaching(tree, sql)
    own = {one.alias.casefold() for one in tree.find_all(exp.CTE)}
    for table in list(tree.find_all(exp.Table)):
        name = table.name.casefold()
        if name in relations and name not in own and not table.args.get("db"):
            alias = table.args.get("alias") or exp.TableAlias(this=exp.to_identifier(name))
            made = exp.Subquery(this=_relation(relations[name]).copy(), alias=alias.copy())
            for key in ("joins", "laterals", "pivots"):
                made.set(key, table.args.get(key))
            table.replace(made)
    for place, part in enumerate(tree.find_all(exp.Subquery)):
        # Some engines want a name for each part of a FROM.
        if isinstance(part.parent, exp.From | exp.Join) and not part.args.get("alias"):
            part.set("alias", exp.TableAlias(this=exp.to_identifier(f"part{place}")))
    tree = adapter.rewritten(tree.transform(_plain))
    try:
        told = str(tree.sql(dialect=adapter.dialect, comments=False))
    except (errors.SqlglotError, RecursionError, ValueError) as problem:
        raise ExpressionError(sql, "cannot be asked of this database", "Ask in plainer SQL.") from problem
    return told.replace(BASE, adapter.relation.sql)


@lru_cache(maxsize=256)
def _relation(sql: str) -> Any:
    import sqlglot

    return sqlglot.parse_one(sql, read="duckdb")


def _plain(node: Any) -> Any:
    """What the house's own dialect knows and most engines do not, in terms that all know."""
    from sqlglot import exp

    name = node.name.casefold() if isinstance(node, exp.Anonymous) else ""
    if name == "isfinite":
        ends = [exp.cast(exp.Literal.string(word), "double") for word in ("infinity", "-infinity", "nan")]
        return exp.Paren(this=exp.not_(exp.In(this=node.expressions[0].copy(), expressions=ends)))
    if isinstance(node, exp.Div) and not isinstance(node.expression, exp.Literal | exp.Nullif):
        # Nothing is divided by nought, where some engines stop.
        below = exp.Nullif(this=node.expression.copy(), expression=exp.Literal.number(0))
        return exp.Div(
            this=node.this.copy(), expression=below, typed=node.args.get("typed"), safe=node.args.get("safe")
        )
    if isinstance(node, exp.DayOfWeekIso):
        return exp.Extract(this=exp.var("ISODOW"), expression=node.this.copy())
    return node


def beside_sql(table: pa.Table) -> str:
    """A small Arrow table as a SELECT from its values. Raises BudgetError where it is too long to be written out."""
    if table.num_rows > _MOST_BESIDE:
        raise BudgetError(
            f"{table.num_rows:,} rows are too many to be sent along with a statement. Ask by a longer period, or by "
            "fewer labels."
        )
    names = ", ".join(quote_name(name) for name in table.column_names)
    kinds = [_KINDS[str(kind)] for kind in table.schema.types]
    columns = [column.to_pylist() for column in table.columns]
    rows = [
        f"({', '.join(f'CAST({_literal(value)} AS {kind})' for value, kind in zip(row, kinds, strict=True))})"
        for row in zip(*columns, strict=True)
    ]
    told = ", ".join(rows) or f"({', '.join(f'CAST(NULL AS {kind})' for kind in kinds)})"
    return f"SELECT * FROM (VALUES {told}) AS given({names})" + ("" if rows else " WHERE FALSE")


#: What types of small tables are called.
_KINDS = {
    "string": "VARCHAR", "large_string": "VARCHAR", "double": "DOUBLE", "int32": "INT", "int64": "BIGINT",
    "date32[day]": "DATE", "bool": "BOOLEAN", "int8": "INT", "int16": "INT",
}  # fmt: skip


def _literal(value: Any) -> str:
    if isinstance(value, float):
        return f"'{value!r}'"
    return quote_value(value if value is None or isinstance(value, bool | int) else str(value))
