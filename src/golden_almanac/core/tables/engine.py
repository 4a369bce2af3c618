"""The embedded SQL engine, locked down: it sees what is handed to it and nothing else."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from ..errors import ExpressionError, shorten
from ..expressions import quote_value


def locked(files: Sequence[str] = (), staged: Path | None = None, fill: bool = False, **settings: Any) -> Any:
    """A connection that may read the named files and nothing else, load no extension, and change no setting.

    A database file of our own is attached as `staged`, to be read, or to `fill`.
    """
    import duckdb

    connection = duckdb.connect(":memory:", config=settings)
    try:
        # In this order: later settings cannot undo earlier ones once the configuration is locked.
        for lock in (
            # A long query would draw a bar on standard output, into the JSON.
            "SET enable_progress_bar=false",
            "SET autoinstall_known_extensions=false",
            "SET autoload_known_extensions=false",
            "SET TimeZone='UTC'",
        ):
            connection.execute(lock)
        if staged is not None:
            connection.execute(f"ATTACH {quote_value(str(staged))} AS staged{'' if fill else ' (READ_ONLY)'}")
        if files:
            connection.execute(f"SET allowed_paths=[{', '.join(map(quote_value, files))}]")
        connection.execute("SET enable_external_access=false")
        connection.execute("SET lock_configuration=true")
    except BaseException:
        connection.close()
        raise
    return connection


def query(sql: str, tables: Mapping[str, Any]) -> Any:
    """Run one query over Arrow tables, by their names in it.

    Rows come back in the order of the source. Returns an Arrow table. Raises ExpressionError with
    the engine's own first line when the query cannot run.
    """
    connection = locked()
    try:
        return answer(connection, sql, tables)
    finally:
        connection.close()


def answer(connection: Any, sql: str, beside: Mapping[str, Any]) -> Any:
    """The answer to one query, with the Arrow tables `beside` at hand under their names; as `query`."""
    import duckdb

    for name, table in beside.items():
        connection.register(name, table)
    try:
        return connection.sql(sql).to_arrow_table()
    except (duckdb.OutOfMemoryException, duckdb.IOException):
        # Memory and disk are told by whoever knows the budget.
        raise
    except duckdb.Error as problem:
        reason = str(problem).splitlines()[0].removeprefix("Binder Error: ").rstrip(".")
        raise ExpressionError(
            shorten(sql), f"cannot be computed ({reason})", "Check the types of the columns it uses."
        ) from problem
    finally:
        for name in beside:
            connection.unregister(name)
