"""The embedded SQL engine, locked down: it sees what is handed to it and nothing else."""

from __future__ import annotations

import contextlib
import os
import threading
from collections.abc import Iterator, Mapping, Sequence
from contextlib import closing, contextmanager, suppress
from pathlib import Path
from typing import Any

from ..sql.expressions import quote_value
from .engine_messages import translated
from .query_bounds import ANSWER, MEMORY, too_large, within_bounds


def locked(
    files: Sequence[str] = (), staged: Path | None = None, fill: bool = False, bounded: bool = False, **settings: Any
) -> Any:
    """A connection that may read the named files and nothing else, load no extension, and change no setting.

    A database file of our own is attached as `staged`, to be read, or to `fill`.
    """
    import duckdb

    connection = duckdb.connect(":memory:", config={**settings, **(BOUNDED if bounded else {})})
    try:
        silence(connection)
        # In this order: later settings cannot undo earlier ones once the configuration is locked.
        for lock in (
            "SET autoinstall_known_extensions=false",
            "SET autoload_known_extensions=false",
            # Variables of this program are no tables.
            "SET python_enable_replacements=false",
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


def silence(connection: Any) -> None:
    """Have a connection draw no bar for a long query: on standard output it would stand in the JSON."""
    import duckdb

    # In a notebook without widgets no bar can be drawn, and the engine refuses even to be told so.
    with contextlib.suppress(duckdb.InvalidInputException):
        connection.execute("SET enable_progress_bar=false")


def _batches(relation: Any) -> Any:
    """The answer in blocks of rows; releases before 1.5 call this by another name."""
    read = getattr(relation, "to_arrow_reader", None) or relation.fetch_arrow_reader
    return read(_BLOCK)


def query(sql: str, tables: Mapping[str, Any]) -> Any:
    """Run one query over Arrow tables, by their names in it.

    Rows come back in the order of the source. Returns an Arrow table. Raises ExpressionError with
    the engine's own first line when the query cannot run.
    """
    with _lent() as connection:
        return answer(connection, sql, tables)


def foreign(sql: str, tables: Mapping[str, Any], rows: int) -> Any:
    """The answer to a query that a person wrote over Arrow tables of so many rows, within bounds; as
    `bounded_answer`."""
    with _lent(bounded=True) as connection:
        return bounded_answer(connection, sql, tables, rows)


#: The connections that a thread of a process asks through, one question after the other, its own and those of people
#: apart: to make and lock one takes longer than most answers.
_kept = threading.local()


@contextmanager
def _lent(bounded: bool = False) -> Iterator[Any]:
    """A locked connection with nothing in it; one through which something went wrong is not used again."""
    name = "bounded" if bounded else "own"
    held = getattr(_kept, name, None)
    # One that came with a fork of the process, or that is in use, is left alone.
    connection = held[1] if held is not None and held[0] == os.getpid() else locked(bounded=bounded)
    setattr(_kept, name, None)
    try:
        yield connection
    except BaseException:
        connection.close()
        raise
    setattr(_kept, name, (os.getpid(), connection))


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
        raise translated(problem, sql) from problem
    finally:
        for name in beside:
            connection.unregister(name)


#: What the engine is told where a person's query runs over rows in memory: nothing of it goes to disk.
BOUNDED = {"memory_limit": f"{MEMORY >> 20}MiB", "max_temp_directory_size": "0KiB"}
_BLOCK = 50_000


def bounded_answer(connection: Any, sql: str, beside: Mapping[str, Any], rows: int) -> Any:
    """The answer to a query that a person wrote, an Arrow table; stopped, with a BudgetError, where it takes too long
    or too much. Raises ExpressionError where it cannot run."""
    import duckdb
    import pyarrow as pa

    for name, table in beside.items():
        connection.register(name, table)
    try:
        with within_bounds(connection.interrupt, rows) as clock:
            try:
                with closing(_batches(connection.sql(sql))) as reader:
                    blocks, size = [], 0
                    for block in reader:
                        blocks.append(block)
                        size += block.nbytes
                        if size > ANSWER:
                            raise too_large()
                    return pa.Table.from_batches(blocks, reader.schema)
            except (duckdb.Error, pa.ArrowException, MemoryError, OSError, RuntimeError) as problem:
                if clock.rang:
                    raise clock.error() from problem
                # What is no longer let to spill to disk fails as a write.
                full = (duckdb.OutOfMemoryException, duckdb.IOException, MemoryError, pa.ArrowMemoryError)
                if isinstance(problem, full) or "Out of Memory" in str(problem):
                    raise too_large() from problem
                raise translated(problem, sql) from problem
    finally:
        # An answer that was given up may still be open: then the tables go with the connection.
        with suppress(duckdb.Error):
            for name in beside:
                connection.unregister(name)
