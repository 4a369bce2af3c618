"""Tables of a server: fetched where they are short, else left there, and asked where they are."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

from ...engine.remote import spark
from ...engine.remote.adapter import Adapter, Expected
from ...engine.remote.postgresql import PostgreSQL, unreachable
from ...engine.remote.remote_store import Remote
from ...sql.expressions import quote_name
from ...support import progress
from ...support.errors import SourceError
from ..calendar import Calendar
from ..private_names import is_among, wanted_of
from ..table import MOST_SAMPLED, Table
from .database_servers import Opened, fetched, is_address, opened
from .large_files import described_table
from .raw_table import Loaded, Origin, from_arrow, tidy_names

#: Rows beyond which a sample is drawn, and a table is left where it is.
_MOST_FETCHED = 512 << 20
LONG = int(1.5 * MOST_SAMPLED)


def remote_source(
    source: Any,
    name: str | None,
    calendar: Calendar,
    *,
    table: str | None,
    query: str | None,
    hold: bool,
    private: Sequence[str],
) -> Table | Loaded:
    """The table of a database or cluster by its address, or of a Spark frame; its rows where they are few."""
    if is_spark(source):
        adapter: Adapter = _spark(source, table, query)
        address = source if isinstance(source, str) else None
        origin = Origin(kind="spark", table=table, query=query, address=address)
        return remote_table(adapter, name or table or ("query" if query else "table"), origin, calendar, hold, private)
    server = opened(source, table, query, private)
    if server.kind != "postgresql":
        return fetched(server)
    adapter = PostgreSQL(connect=_connecting(server), relation=server.relation, shown=server.shown)
    return remote_table(adapter, name or server.relation.table or "query", server.origin, calendar, hold, private)


def _spark(source: Any, table: str | None, query: str | None) -> spark.Spark:
    return spark.of_frame(source) if spark.is_frame(source) else spark.of_address(source, table, query)


def is_spark(source: Any) -> bool:
    """Whether a source is a frame of Spark, or a cluster by its address."""
    return spark.is_address(source) or spark.is_frame(source)


def is_remote(source: Any) -> bool:
    """Whether rows of a source are elsewhere: on a database server, on a cluster."""
    return is_spark(source) or is_address(source)


def expected_size(source: Any, *, table: str | None, query: str | None) -> Expected:
    """How long a table is, as its engine reckons. Raises SourceError."""
    if is_spark(source):
        return _spark(source, table, query).expected_size()
    server = opened(source, table, query)
    if server.kind != "postgresql":
        raise SourceError(
            server.shown, "its size is not known beforehand", "Its rows are read once, whatever their number."
        )
    adapter = PostgreSQL(connect=_connecting(server), relation=server.relation, shown=server.shown)
    try:
        return adapter.expected_size()
    finally:
        adapter.close()


def remote_table(
    adapter: Adapter, name: str, origin: Origin, calendar: Calendar, hold: bool, private: Sequence[str]
) -> Table | Loaded:
    """The table that an adapter reaches, or its rows where they are few."""
    found = adapter.columns()
    original = [one[0] for one in found]
    renamed = dict(zip(original, tidy_names(original), strict=True))
    hidden = wanted_of(private)
    kept = [one for one in found if not is_among(renamed[one[0]], hidden)] if private else found
    if not kept:
        raise SourceError(name, "all of its columns are private", "Leave at least one to report on.")
    store = Remote(adapter=adapter, listed=tuple((renamed[raw], sql, kind) for raw, sql, kind in kept))
    told = _first_look(store)
    rows = store.rows
    adapter.expected = rows
    if rows == 0:
        raise SourceError(name, "it holds no rows", "Check the export or the query that made it.")
    gone = tuple(renamed[raw] for raw, _, _ in found if raw not in {one[0] for one in kept})
    if rows <= LONG or (hold and rows * len(kept) * 24 <= _MOST_FETCHED):
        progress.say(f"fetching {rows:,} rows")
        loaded = replace(from_arrow(store.whole(), origin.kind), origin=origin, original=[one[0] for one in kept])
        adapter.close()
        return loaded
    store = _settled(store, told)
    return replace(described_table(name, store, [one[0] for one in kept], origin, calendar), private=gone)


def _first_look(store: Remote) -> set[str]:
    """How many rows there are, which the store remembers; the columns of moments that all lie at midnight, and those of
    numbers that are not all finite: by one statement."""
    tests = {name: f"bool_and({quote_name(name)} = date_trunc('day', {quote_name(name)}))"
             for name, _, kind in store.listed if kind == "datetime"}  # fmt: skip
    tests |= {name: f"NOT (isfinite(min({quote_name(name)})) AND isfinite(max({quote_name(name)})))"
              for name, sql, kind in store.listed if kind == "number" and "DOUBLE" in sql}  # fmt: skip
    listed = ["count(*) AS n", *(f"{sql} AS m{at}" for at, sql in enumerate(tests.values()))]
    found = store.query(f"SELECT {', '.join(listed)} FROM source")
    store.remember_rows(int(found.column("n")[0].as_py()))
    return {name for at, name in enumerate(tests) if found.column(f"m{at}")[0].as_py()}


def _settled(store: Remote, told: set[str]) -> Remote:
    """Moments that all lie at midnight are dates; what is not finite counts as missing, as in every source."""
    if not told:
        return store
    listed = []
    for name, sql, kind in store.listed:
        if name in told and kind == "datetime":
            listed.append((name, f"CAST({sql} AS DATE)", "date"))
        else:
            listed.append((name, f"CASE WHEN isfinite({sql}) THEN {sql} END" if name in told else sql, kind))
    made = replace(store, listed=tuple(listed), _made={})
    made.remember_rows(store.rows)
    return made


def _connecting(server: Opened) -> Callable[[], Any]:
    """What opens a connection of the driver's own."""

    def connect() -> Any:
        from sqlalchemy.exc import SQLAlchemyError

        try:
            lent = server.engine.raw_connection()
        except SQLAlchemyError as problem:
            raise unreachable(server.shown, problem) from None
        driver = lent.driver_connection
        lent.detach()
        return driver

    return connect
