"""Whole SELECTs from people: parsed, held to reading, to the tables they may see, and to columns that are not private.

The engines are locked besides (no files, no settings, no extensions, read-only); what is refused here is refused with a
sentence, before anything runs.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from ..support.errors import ColumnError, ExpressionError, listed

if TYPE_CHECKING:
    from sqlglot import exp

#: Letters of a query at most.
MOST = 20_000
_WANTED = "Write one SELECT … FROM source."
#: Sets of rows that are made from nothing.
_TABLE_FUNCTIONS = frozenset({"unnest", "range", "generate_series", "json_each", "json_tree"})
#: What reads the machine, a file or a setting, or loads code.
_FORBIDDEN = ("read_", "duckdb_", "pragma_", "sqlite_", "parquet_", "load_", "sniff_", "fts3_", "current_setting")
_FORBIDDEN_NAMES = frozenset(
    "glob getenv getvariable set_config readfile writefile edit load_extension query query_table which_secret "
    "write_log parse_duckdb_log_message arrow_scan pandas_scan python_map_function from_substrait "
    "json_execute_serialized_sql json_serialize_sql checkpoint force_checkpoint copy_database".split()
)
#: What may stand inside an aggregate of a query over groups of a least size; the column that counts their rows.
_ARITHMETIC = "Add Avg Cast Column Count DataType Distinct Div Identifier Literal Mul Neg Paren Star Sub Sum".split()
_ROWS = "\trows"
#: Parts of statements that do more than read.
_WRITES = (
    "Alter Analyze Attach Command Commit Copy Create Delete Describe Detach Drop Execute Grant Insert Install Into "
    "Kill LoadData Lock Merge Pragma Rollback Set Show Summarize Transaction TruncateTable Update Use"
).split()


def parsed(
    query: str, tables: Sequence[str] = ("source",), private: Sequence[str] = (), dialect: str = "duckdb"
) -> exp.Query:
    """The tree of a query, if it is one SELECT over the `tables` that names no `private` column.

    Raises ExpressionError, ColumnError.
    """
    import logging

    import sqlglot
    from sqlglot import errors, exp

    logging.getLogger("sqlglot").setLevel(logging.ERROR)
    if len(query) > MOST or "\x00" in query:
        raise ExpressionError(query, "is not SQL that can be read", _WANTED)
    try:
        trees = sqlglot.parse(query, read=dialect)
    except (errors.SqlglotError, RecursionError, ValueError) as problem:
        raise ExpressionError(query, "is not SQL that can be read", _WANTED) from problem
    if len(trees) != 1 or not isinstance(trees[0], exp.Query):
        raise ExpressionError(query, "is not one query", _WANTED)
    tree: Any = trees[0]
    _only_reads(tree, query)
    _only_tables(tree, query, tables)
    hidden = {name.casefold() for name in private}
    for node in tree.find_all(exp.Identifier):
        if node.name.casefold() in hidden:
            raise ColumnError.private(node.name, "a query")
    return tree  # type: ignore[no-any-return]


def select(query: str, private: Sequence[str] = ()) -> str:
    """A SELECT over `source`, written out again. Raises ExpressionError, ColumnError."""
    try:
        return parsed(query, private=private).sql(dialect="duckdb")
    except RecursionError as problem:
        raise ExpressionError(query, "is nested too deeply", _WANTED) from problem


def aggregated(query: str, minimum: int, private: Sequence[str] = ()) -> str:
    """A SELECT of sums, counts and averages of groups, without the groups of fewer rows than `minimum`.

    Where the rows left out are fewer than that together, the smallest group that remains goes with them, since a
    total would give them away. Raises ExpressionError for a query that lists rows or asks for single values.
    """
    from sqlglot import exp

    tree: Any = parsed(query, private=private)
    plain = (
        isinstance(tree, exp.Select)
        and not any(
            tree.args.get(part) for part in ("with_", "with", "joins", "laterals", "distinct", "windows", "qualify")
        )
        and not tree.find(exp.Subquery, exp.Window, exp.SetOperation, exp.Unnest)
        and isinstance(_from(tree), exp.Table)
    )
    allowed = (exp.Sum, exp.Avg, exp.Count)
    aggregates = list(tree.find_all(exp.AggFunc, exp.AnonymousAggFunc, exp.ParameterizedAgg))
    odd = [node for node in aggregates if not isinstance(node, allowed)] + list(tree.find_all(exp.Anonymous))
    # A condition inside an aggregate could single out a row.
    odd += [one for one in tree.expressions if isinstance(one, exp.Star) or one.is_star]
    odd += [node for aggregate in aggregates for node in aggregate.walk() if type(node).__name__ not in _ARITHMETIC]
    group = tree.args.get("group")
    if not plain or odd or (not aggregates and group is None):
        raise ExpressionError(
            query,
            f"shows single rows or values, and groups of fewer than {minimum} rows are not to be shown",
            "Ask for sums, counts or averages of groups, in one SELECT … FROM source GROUP BY …",
        )
    if tree.find(exp.Rollup, exp.Cube, exp.GroupingSets):
        raise ExpressionError(query, "shows totals beside their groups", "Use a plain GROUP BY.")
    if tree.find(exp.Filter) or tree.args.get("having"):
        raise ExpressionError(query, "filters inside its groups", "Put the condition behind WHERE.")
    limit, order = tree.args.get("limit"), tree.args.get("order")
    inner = tree.copy()
    inner.set("limit", None)
    inner.set("order", None)
    # Each column by its name, as every engine can be asked for it, and beside each group the rows it has.
    heads: list[str] = []
    for one in tree.expressions:
        head = one.alias_or_name or one.sql(dialect="duckdb")
        heads.append(head if head not in heads else f"{head} {len(heads) + 1}")
    inner.set(
        "expressions",
        [
            *(exp.alias_(one.unalias(), head, quoted=True) for one, head in zip(tree.expressions, heads, strict=True)),
            exp.alias_(exp.Count(this=exp.Star()), _ROWS, quoted=True),
        ],
    )
    shown = ", ".join(f'"{head.replace(chr(34), chr(34) * 2)}"' for head in heads)
    rows, gone, small, place = (f'"{name}"' for name in (_ROWS, "\tgone", "\tsmall", "\tplace"))
    kept = (
        f"SELECT {shown} FROM ("
        f"SELECT {shown}, {rows}, row_number() OVER (ORDER BY {rows}, {shown}) AS {place}, "
        f"sum(CASE WHEN {rows} < {minimum} THEN {rows} END) OVER () AS {gone}, "
        f"count(CASE WHEN {rows} < {minimum} THEN 1 END) OVER () AS {small} "
        f"FROM ({inner.sql(dialect='duckdb')}) AS groups) AS told "
        f"WHERE {rows} >= {minimum} AND (coalesce({gone}, 0) = 0 OR ({gone} >= {minimum} AND {small} > 1) "
        f"OR {place} > {small} + 1)"
    )
    if order is not None:
        kept += f" ORDER BY {', '.join(_by_place(expression, tree.expressions) for expression in order.expressions)}"
    return kept if limit is None else f"{kept} {limit.sql(dialect='duckdb')}"


def _by_place(ordered: Any, shown: Sequence[Any]) -> str:
    """A term of ORDER BY, by its place among what is shown where it spells one of that out."""
    from sqlglot import exp

    places = {one.unalias().sql(): place for place, one in enumerate(shown, start=1)}
    place = places.get(ordered.this.sql())
    if place is None:
        return str(ordered.sql(dialect="duckdb"))
    turned = ordered.copy()
    turned.set("this", exp.Literal.number(place))
    return str(turned.sql(dialect="duckdb"))


def _from(tree: Any) -> Any:
    clause = tree.args.get("from_") or tree.args.get("from")
    return None if clause is None else clause.this


def _only_reads(tree: Any, query: str) -> None:
    from sqlglot import exp

    for node in tree.walk():
        name = type(node).__name__
        if name in _WRITES:
            raise ExpressionError(query, f"does more than read ({name.upper()})", _WANTED)
        if isinstance(node, exp.Placeholder | exp.Parameter):
            raise ExpressionError(query, "uses a placeholder", _WANTED)
        called = node.name if isinstance(node, exp.Anonymous) else name if isinstance(node, exp.Func) else ""
        called = called.casefold()
        if called.startswith(_FORBIDDEN) or called in _FORBIDDEN_NAMES or name in ("ReadCSV", "ReadParquet"):
            raise ExpressionError(query, f"uses the function {called}, which reads more than the table", _WANTED)


def _only_tables(tree: Any, query: str, tables: Sequence[str]) -> None:
    from sqlglot import exp

    known = {name.casefold() for name in tables}
    known |= {cte.alias.casefold() for cte in tree.find_all(exp.CTE)}
    for table in tree.find_all(exp.Table):
        if isinstance(table.this, exp.Func):
            called = table.this.name if isinstance(table.this, exp.Anonymous) else table.this.sql_name()
            if called.casefold() not in _TABLE_FUNCTIONS:
                raise ExpressionError(query, f"uses {called}, which reads more than the table", _WANTED)
        elif table.args.get("db") or table.args.get("catalog") or table.name.casefold() not in known:
            said = ".".join(part.name for part in table.parts)
            raise ExpressionError(
                query, f"asks for the table {said[:60]!r}", f"The tables it may ask are {listed(sorted(tables))}."
            )
