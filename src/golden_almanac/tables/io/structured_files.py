"""JSON, JSON lines, and tables inside SQLite and DuckDB files."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any

from ...engine import embedded_engine
from ...engine.engine_messages import translated
from ...engine.query_bounds import ANSWER, too_large, within_bounds
from ...sql import select_statements
from ...support.errors import SourceError, listed, rather
from . import decoding
from .raw_table import Loaded, Origin, from_arrow, tidy_names
from .sheet_columns import to_column

_MOST_JSON = 500_000_000


def read_json(path: Path) -> Loaded:
    """An array of objects, an object that holds one, or one object a line; nested fields become "stop.name"."""
    shown = str(path)
    if path.stat().st_size > _MOST_JSON:
        raise SourceError(shown, "the JSON is larger than 500 MB", "Write it as Parquet or CSV.")
    try:
        text = decoding.decoded(path, None).text(path)
        lines = path.suffix.lower() != ".json"
        data = [json.loads(line) for line in text.splitlines() if line.strip()] if lines else json.loads(text)
    except (ValueError, RecursionError) as problem:
        where = f" at line {problem.lineno}" if isinstance(problem, json.JSONDecodeError) else ""
        raise SourceError(
            shown, f"it is no JSON that can be read{where}", "It may be cut off; export it again."
        ) from problem
    records = (
        data
        if isinstance(data, list)
        else next(
            (value for value in data.values() if isinstance(value, list) and value and isinstance(value[0], dict)), None
        )
        if isinstance(data, dict)
        else None
    )
    if not records or not all(isinstance(record, dict) for record in records):
        raise SourceError(shown, "it holds no list of records", "Give an array of objects, or one object a line.")
    flat = [_flat(record) for record in records]
    names = list(dict.fromkeys(name for record in flat for name in record))
    return from_records(names, [[record.get(name) for name in names] for record in flat], Origin(kind="json"))


def read_database(path: Path, table: str | None, query: str | None, private: Sequence[str] = ()) -> Loaded:
    """A table, or the answer of one SELECT, from a SQLite or DuckDB file, opened read-only.

    A query is parsed first: it may read the tables of the file, and name no private column. Raises SourceError,
    ExpressionError, ColumnError, BudgetError.
    """
    shown = str(path)
    with path.open("rb") as stream:
        head = stream.read(16)
    lite = head.startswith(b"SQLite format 3")
    kind = "sqlite" if lite else "duckdb"
    with _readable(path):
        names = _tables(path, lite)
        if query is not None:
            select_statements.parsed(query, names, private, kind)
            return _queried(path, query, lite, Origin(kind=kind, query=query), foreign=True)
        if not names:
            raise SourceError(shown, "the database holds no table", "Check that the file is the right one.")
        if table is not None and table not in names:
            raise SourceError(shown, f"there is no table named {table!r}", rather(table, names, "tables"))
        if table is None and len(names) > 1:
            raise SourceError(shown, f"it holds several tables ({listed(names)})", "Choose one with --table.")
        chosen = table or names[0]
        all_of_it = 'SELECT * FROM "' + chosen.replace('"', '""') + '"'
        return _queried(path, all_of_it, lite, Origin(kind=kind, table=chosen), foreign=False)


def table_names(path: Path) -> list[str]:
    """The tables and views of a database file. Raises SourceError."""
    with _readable(path), path.open("rb") as stream:
        return _tables(path, stream.read(16).startswith(b"SQLite format 3"))


@contextmanager
def _readable(path: Path) -> Iterator[None]:
    """Inside, what the engines say of a file that they cannot read is told in our words."""
    import sqlite3

    import duckdb

    try:
        yield
    except (OSError, ValueError, duckdb.Error, sqlite3.Error) as problem:
        raise SourceError(
            str(path), "it cannot be read as a database", "Check that it is a SQLite or DuckDB file, and whole."
        ) from problem


def _tables(path: Path, lite: bool) -> list[str]:
    if lite:
        rows = _sqlite(
            path,
            "SELECT name FROM sqlite_master WHERE type IN ('table', 'view') AND name NOT LIKE 'sqlite_%' ORDER BY 1",
        )
        return [str(row[0]) for row in rows[1]]
    import duckdb

    with duckdb.connect(str(path), read_only=True) as connection:
        return [
            str(row[0])
            for row in connection.execute("SELECT table_name FROM information_schema.tables ORDER BY 1").fetchall()
        ]


def _queried(path: Path, query: str, lite: bool, origin: Origin, *, foreign: bool) -> Loaded:
    if lite:
        names, rows = _sqlite(path, query, foreign=foreign)
        return from_records(names, rows, origin)
    import duckdb

    settings = embedded_engine.BOUNDED if foreign else {}
    with duckdb.connect(str(path), read_only=True, config=settings) as connection:
        # In this order: later settings cannot undo earlier ones once the configuration is locked.
        embedded_engine.silence(connection)
        for lock in (
            "python_enable_replacements",
            "autoinstall_known_extensions",
            "autoload_known_extensions",
            "enable_external_access",
        ):
            connection.execute(f"SET {lock}=false")
        connection.execute("SET lock_configuration=true")
        arrow = (
            embedded_engine.bounded_answer(connection, query, {}, 0)
            if foreign
            else connection.sql(query).to_arrow_table()
        )
    return replace(from_arrow(arrow, origin.kind), origin=origin)


#: Rows fetched at once from SQLite, steps of its machine between two looks at the clock, letters of a value at most.
_FETCHED, _STEPS, _LONGEST = 10_000, 100_000, 50_000_000


def _sqlite(path: Path, query: str, *, foreign: bool = False) -> tuple[list[str], list[Any]]:
    """Names and rows of one SELECT. What a person wrote may only read, and runs within bounds of time and memory."""
    import sqlite3
    from contextlib import closing

    with closing(sqlite3.connect(f"{path.resolve().as_uri()}?mode=ro", uri=True, check_same_thread=False)) as database:
        if not foreign:
            cursor = database.execute(query)
            return [column[0] for column in cursor.description], cursor.fetchall()
        database.set_authorizer(_reads_only)
        database.setlimit(sqlite3.SQLITE_LIMIT_LENGTH, _LONGEST)
        database.setlimit(sqlite3.SQLITE_LIMIT_ATTACHED, 0)
        with within_bounds(database.interrupt) as clock:
            database.set_progress_handler(lambda: int(clock.rang), _STEPS)
            rows: list[Any] = []
            size = 0
            try:
                cursor = database.execute(query)
                while block := cursor.fetchmany(_FETCHED):
                    rows += block
                    size += sum(len(value) if isinstance(value, str | bytes) else 16 for row in block for value in row)
                    if size > ANSWER:
                        raise too_large()
            except MemoryError as problem:
                raise too_large() from problem
            except (sqlite3.Error, sqlite3.Warning, OverflowError) as problem:
                if clock.rang:
                    raise clock.error() from problem
                if "too big" in str(problem) or "out of memory" in str(problem):
                    raise too_large() from problem
                raise translated(problem, query) from problem
            return [column[0] for column in cursor.description or ()], rows


def _reads_only(action: int, first: str | None, second: str | None, _: str | None, __: str | None) -> int:
    """What a query may do in SQLite: select, read, call functions that read nothing but what they are given."""
    import sqlite3

    if action in (sqlite3.SQLITE_SELECT, sqlite3.SQLITE_READ, sqlite3.SQLITE_RECURSIVE):
        return sqlite3.SQLITE_OK
    unsafe = ("load_extension", "readfile", "writefile", "edit", "fts3_tokenizer")
    if action == sqlite3.SQLITE_FUNCTION and (second or "").casefold() not in unsafe:
        return sqlite3.SQLITE_OK
    return sqlite3.SQLITE_DENY


def from_records(names: list[str], rows: list[Any], origin: Origin) -> Loaded:
    """Rows of values under names, as loaded."""
    columns = [
        to_column([_whole_letters(_flat_value(v)) for v in values])
        for values in ([row[place] for row in rows] for place in range(len(names)))
    ]
    names = [str(_whole_letters(name)) for name in names]
    return Loaded(names=tidy_names(names), original=names, columns=columns, rows=len(rows), first_row=1, origin=origin)


def _flat_value(value: Any) -> Any:
    if isinstance(value, bytes):
        return value.decode("utf-8", "replace")
    return json.dumps(value, ensure_ascii=False) if isinstance(value, list | dict) else value


def _whole_letters(value: Any) -> Any:
    """Halves of surrogate pairs, which are no letters, as the mark for what is lost."""
    if isinstance(value, str) and any("\ud800" <= letter <= "\udfff" for letter in value):
        return value.encode("utf-16", "surrogatepass").decode("utf-16", "replace")
    return value


def _flat(record: dict[str, Any], before: str = "") -> dict[str, Any]:
    found: dict[str, Any] = {}
    for name, value in record.items():
        if isinstance(value, dict) and value:
            found |= _flat(value, f"{before}{name}.")
        else:
            found[f"{before}{name}"] = value
    return found
