"""JSON, JSON lines, and tables inside SQLite and DuckDB files."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path
from typing import Any

from ..errors import SourceError, rather
from .loaded import Loaded, Origin, from_arrow, tidy_names
from .page import to_column

JSON_ENDINGS = (".json", ".jsonl", ".ndjson")
DATABASE_ENDINGS = (".sqlite", ".sqlite3", ".db", ".duckdb", ".ddb")
_MOST_JSON = 500_000_000


def read_json(path: Path) -> Loaded:
    """An array of objects, an object that holds one, or one object a line; nested fields become "stop.name"."""
    shown = str(path)
    if path.stat().st_size > _MOST_JSON:
        raise SourceError(shown, "the JSON is larger than 500 MB", "Write it as Parquet or CSV.")
    try:
        text = path.read_text(encoding="utf-8-sig")
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
    return _from_records(names, [[record.get(name) for name in names] for record in flat], Origin(kind="json"))


def read_database(path: Path, table: str | None, query: str | None) -> Loaded:
    """A table, or the answer of one SELECT, from a SQLite or DuckDB file, opened read-only."""
    shown = str(path)
    with path.open("rb") as stream:
        head = stream.read(16)
    lite = head.startswith(b"SQLite format 3")
    kind = "sqlite" if lite else "duckdb"
    try:
        names = _tables(path, lite)
        if query is None:
            if not names:
                raise SourceError(shown, "the database holds no table", "Check that the file is the right one.")
            if table is not None and table not in names:
                raise SourceError(shown, f"there is no table named {table!r}", rather(table, names, "tables"))
            if table is None and len(names) > 1:
                raise SourceError(
                    shown, f"it holds several tables ({', '.join(names[:12])})", "Choose one with --table."
                )
            chosen = table or names[0]
            all_of_it = 'SELECT * FROM "' + chosen.replace('"', '""') + '"'
            return _queried(path, all_of_it, lite, Origin(kind=kind, table=chosen))
        return _queried(path, query, lite, Origin(kind=kind, query=query))
    except SourceError:
        raise
    except Exception as problem:
        reason = str(problem).splitlines()[0]
        raise SourceError(
            shown, f"it cannot be read as a database ({reason})", "Check the file and the query."
        ) from problem


def table_names(path: Path) -> list[str]:
    """The tables and views of a database file."""
    with path.open("rb") as stream:
        return _tables(path, stream.read(16).startswith(b"SQLite format 3"))


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


def _queried(path: Path, query: str, lite: bool, origin: Origin) -> Loaded:
    if lite:
        names, rows = _sqlite(path, query)
        return _from_records(names, rows, origin)
    import duckdb

    with duckdb.connect(str(path), read_only=True) as connection:
        connection.execute("SET enable_progress_bar=false")
        connection.execute("SET enable_external_access=false")
        arrow = connection.sql(query).to_arrow_table()
    return replace(from_arrow(arrow, origin.kind), origin=origin)


def _sqlite(path: Path, query: str) -> tuple[list[str], list[Any]]:
    import sqlite3
    from contextlib import closing

    with closing(sqlite3.connect(f"{path.resolve().as_uri()}?mode=ro", uri=True)) as connection:
        cursor = connection.execute(query)
        return [column[0] for column in cursor.description], cursor.fetchall()


def _from_records(names: list[str], rows: list[Any], origin: Origin) -> Loaded:
    columns = [
        to_column([json.dumps(v, ensure_ascii=False) if isinstance(v, list | dict) else v for v in values])
        for values in ([row[place] for row in rows] for place in range(len(names)))
    ]
    return Loaded(names=tidy_names(names), original=names, columns=columns, rows=len(rows), first_row=1, origin=origin)


def _flat(record: dict[str, Any], before: str = "") -> dict[str, Any]:
    found: dict[str, Any] = {}
    for name, value in record.items():
        if isinstance(value, dict) and value:
            found |= _flat(value, f"{before}{name}.")
        else:
            found[f"{before}{name}"] = value
    return found
