"""The embedded SQL engine, locked down: it sees the one table handed to it and nothing else."""

from __future__ import annotations

from typing import Any

from ..errors import ExpressionError, shorten

#: In this order: later settings cannot undo earlier ones once the configuration is locked.
_LOCKS = (
    # A long query would draw a bar on standard output, into the JSON.
    "SET enable_progress_bar=false",
    "SET autoinstall_known_extensions=false",
    "SET autoload_known_extensions=false",
    "SET TimeZone='UTC'",
    "SET enable_external_access=false",
    "SET lock_configuration=true",
)


def query(sql: str, source: Any) -> Any:
    """Run one query over `source` (an Arrow table, named `source` in the query).

    Rows come back in the order of the source. Returns an Arrow table. Raises ExpressionError with
    the engine's own first line when the query cannot run.
    """
    import duckdb

    connection = duckdb.connect(":memory:")
    try:
        for lock in _LOCKS:
            connection.execute(lock)
        connection.register("source", source)
        return connection.sql(sql).to_arrow_table()
    except duckdb.Error as problem:
        reason = str(problem).splitlines()[0].removeprefix("Binder Error: ").rstrip(".")
        raise ExpressionError(
            shorten(sql), f"cannot be computed ({reason})", "Check the types of the columns it uses."
        ) from problem
    finally:
        connection.close()
