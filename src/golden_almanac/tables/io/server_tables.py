"""Tables of a server: fetched where they are short, else left there, and asked where they are."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from math import isfinite
from typing import Any

from ...engine.remote import spark
from ...engine.remote.adapter import Adapter, Expected
from ...engine.remote.closed_periods import Closed, Shelf, closed_of, months_sql
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


@dataclass(frozen=True, slots=True)
class KeptSource:
    """A source whose answers over closed periods are kept on a shelf between runs; `time` is its column of dates, None
    for the first."""

    source: Any
    shelf: Shelf
    time: str | None = None


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
    kept = source if isinstance(source, KeptSource) else None
    source = source if kept is None else kept.source
    if is_spark(source):
        adapter: Adapter = _spark(source, table, query)
        address = source if isinstance(source, str) else None
        origin = Origin(kind="spark", table=table, query=query, address=address)
        told = name or table or ("query" if query else "table")
        return remote_table(adapter, told, origin, calendar, hold, private, kept)
    server = opened(source, table, query, private)
    if server.kind != "postgresql":
        return fetched(server)
    adapter = PostgreSQL(connect=_connecting(server), relation=server.relation, shown=server.shown)
    return remote_table(adapter, name or server.relation.table or "query", server.origin, calendar, hold, private, kept)


def _spark(source: Any, table: str | None, query: str | None) -> spark.Spark:
    return spark.of_frame(source) if spark.is_frame(source) else spark.of_address(source, table, query)


def is_spark(source: Any) -> bool:
    """Whether a source is a frame of Spark, or a cluster by its address."""
    return spark.is_address(source) or spark.is_frame(source)


def is_remote(source: Any) -> bool:
    """Whether rows of a source are elsewhere: on a database server, on a cluster."""
    return is_spark(source) or is_address(source) or isinstance(source, KeptSource)


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
    adapter: Adapter,
    name: str,
    origin: Origin,
    calendar: Calendar,
    hold: bool,
    private: Sequence[str],
    source: KeptSource | None = None,
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
    told, closed = _first_look(store, source)
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
    if closed is not None and closed.restated:
        shown = ", ".join(closed.restated[:3]) + (" …" if len(closed.restated) > 3 else "")
        progress.say(f"{shown}: other rows than before; everything is read again")
    store = _settled(store, told, closed)
    return replace(described_table(name, store, [one[0] for one in kept], origin, calendar), private=gone)


def _first_look(store: Remote, source: KeptSource | None) -> tuple[set[str], Closed | None]:
    """How many rows there are, which the store remembers; the columns of moments that all lie at midnight, and those of
    numbers that are not all finite; what of the rows is over, where that is kept: by one statement."""
    kinds = {name: kind for name, _, kind in store.listed}
    moments = [name for name, kind in kinds.items() if kind == "datetime"]
    numbers = [name for name, sql, kind in store.listed if kind == "number" and "DOUBLE" in sql]
    listed = [f"bool_and({quote_name(name)} = date_trunc('day', {quote_name(name)})) AS m{at}"
              for at, name in enumerate(moments)]  # fmt: skip
    for at, name in enumerate(numbers):
        listed += [f"min({quote_name(name)}) AS l{at}", f"max({quote_name(name)}) AS h{at}"]
    days = [name for name, kind in kinds.items() if kind in ("date", "datetime")]
    days = [name for name in days if source is not None and source.time in (None, name)]
    head, tail = (months_sql(days[0], list(kinds.items())), " GROUP BY 1") if days else ("count(*) AS n", "")
    found = store.query(f"SELECT {', '.join([head, *listed])} FROM source{tail}").to_pylist()
    store.remember_rows(sum(int(row["n"]) for row in found))
    told = {name for at, name in enumerate(moments) if all(row[f"m{at}"] is not False for row in found)
            and any(row[f"m{at}"] for row in found)}  # fmt: skip
    told |= {name for at, name in enumerate(numbers)
             if not all(isfinite(row[f"{end}{at}"] or 0.0) for row in found for end in "lh")}  # fmt: skip
    if not days or source is None:
        return told, None
    known = f"{store.adapter.shown} {store.adapter.relation.sql} {store.listed}"
    # What is kept of moments is asked by the days that they turn out to be.
    at_midnight = kinds[days[0]] == "date" or days[0] in told
    return told, closed_of(found, source.shelf, days[0], not at_midnight, known)


def _settled(store: Remote, told: set[str], closed: Closed | None) -> Remote:
    """Moments that all lie at midnight are dates; what is not finite counts as missing, as in every source."""
    if not told and closed is None:
        return store
    listed = []
    for name, sql, kind in store.listed:
        if name in told and kind == "datetime":
            listed.append((name, f"CAST({sql} AS DATE)", "date"))
        else:
            listed.append((name, f"CASE WHEN isfinite({sql}) THEN {sql} END" if name in told else sql, kind))
    made = replace(store, listed=tuple(listed), closed=closed, _made={})
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
