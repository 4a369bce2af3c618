"""Tables asked of a database by its address, through SQLAlchemy: one SELECT, in a transaction that cannot write.

A password stands in no address: it comes from the environment or from a file, and is in no text that this room gives.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any, cast

from ...engine.query_bounds import ANSWER, SECONDS, too_large, within_bounds
from ...engine.remote.adapter import Relation
from ...sql import select_statements
from ...sql.server_functions import refuse_reaching
from ...support.errors import SourceError, listed, rather
from .raw_table import Loaded, Origin
from .structured_files import from_records

_ADDRESS = re.compile(r"([a-z][a-z0-9]*)(\+[a-z0-9_]+)?://", re.IGNORECASE)
#: What the databases are called by SQLAlchemy and by sqlglot, and how a transaction is kept from writing.
_KINDS = {
    "postgresql": ("postgres", ("SET TRANSACTION READ ONLY", "SET LOCAL statement_timeout = {milliseconds}")),
    "mysql": ("mysql", ("SET SESSION TRANSACTION READ ONLY", "SET SESSION MAX_EXECUTION_TIME = {milliseconds}")),
    "mariadb": ("mysql", ("SET SESSION TRANSACTION READ ONLY",)),
    "sqlite": ("sqlite", ("PRAGMA query_only = 1",)),
}
#: The driver that is taken where an address names none.
_DRIVERS = {"postgresql": "psycopg"}
_FETCHED = 20_000


@dataclass(frozen=True, slots=True)
class Server:
    """A database by its address, and the password that goes with it, which is shown nowhere."""

    address: str
    secret: str | None = field(default=None, repr=False)

    def __str__(self) -> str:
        return without_secrets(self.address)


def is_address(text: object) -> bool:
    """Whether a source is the address of a database."""
    if not isinstance(text, str):
        return isinstance(text, Server)
    match = _ADDRESS.match(text)
    return match is not None and match[1].lower() in _KINDS


def without_secrets(address: str) -> str:
    """An address as it may be shown: without what stands before its host, and without its options."""
    return re.sub(r"\?.*$", "", re.sub(r"//[^/@]*@", "//", address))


def opened(source: Server | str, table: str | None, query: str | None, private: Sequence[str] = ()) -> Opened:
    """A table, or one SELECT, of a database, by its address. Raises SourceError, ExpressionError, ColumnError; no error
    quotes the address with what is secret in it."""
    server = source if isinstance(source, Server) else Server(source)
    shown = str(server)
    url = _url(server, shown)
    import sqlalchemy
    from sqlalchemy.exc import SQLAlchemyError

    kind = url.get_backend_name()
    engine = sqlalchemy.create_engine(url, poolclass=sqlalchemy.pool.NullPool)
    try:
        with engine.connect() as connection:
            chosen = _chosen(shown, table, query, private, _KINDS[kind][0], connection)
    except SQLAlchemyError as problem:
        raise _refused(shown, problem) from None
    finally:
        engine.dispose()
    return Opened(engine=engine, kind=kind, shown=shown, address=server.address, relation=chosen)


@dataclass(frozen=True, slots=True, kw_only=True)
class Opened:
    """A database that answers: SQLAlchemy's `engine`, the kind of database, its address as it may be `shown`, and what
    is read of it."""

    engine: Any
    kind: str
    shown: str
    address: str
    relation: Relation

    @property
    def origin(self) -> Origin:
        return Origin(kind=self.kind, table=self.relation.table, query=self.relation.query, address=self.address)


def fetched(server: Opened) -> Loaded:
    """All rows, read into memory. Raises SourceError, BudgetError."""
    from sqlalchemy.exc import SQLAlchemyError

    try:
        with server.engine.connect() as connection, connection.begin():
            for guard in _KINDS[server.kind][1]:
                connection.exec_driver_sql(guard.format(milliseconds=int(1000 * SECONDS)))
            with within_bounds(_stopping(connection.connection.driver_connection)) as clock:
                try:
                    heads, rows = _fetched(connection, f"SELECT * FROM {server.relation.sql}")
                except SQLAlchemyError as problem:
                    if clock.rang:
                        raise clock.error() from None
                    raise _refused(server.shown, problem) from None
    except SQLAlchemyError as problem:
        raise _refused(server.shown, problem) from None
    finally:
        server.engine.dispose()
    return from_records(heads, rows, server.origin)


def _stopping(raw: Any) -> Callable[[], None]:
    """What stops a query that runs, by whatever name the driver has for it."""
    for name in ("cancel", "interrupt"):
        found = getattr(raw, name, None)
        if callable(found):
            return lambda: cast(None, found())
    return lambda: None


def _url(server: Server, shown: str) -> Any:
    """The address as SQLAlchemy takes it, with its secret. Raises SourceError."""
    try:
        from sqlalchemy.engine import make_url
        from sqlalchemy.exc import ArgumentError
    except ImportError:
        raise SourceError(
            shown, "databases need SQLAlchemy, which is not installed", "Install it: pip install 'golden-almanac[sql]'."
        ) from None
    try:
        url = make_url(server.address)
    except (ArgumentError, ValueError):
        raise SourceError(
            shown, "it is no address of a database", "Write it as postgresql://user@host/database."
        ) from None
    if url.password is not None or any("pass" in key.lower() for key in url.query):
        raise SourceError(
            shown,
            "its address holds a password, which everybody would see",
            'Take it out, and name where it stands: secret = "VARIABLE" in a brief, PGPASSWORD for PostgreSQL.',
        )
    backend = url.get_backend_name()
    if "+" not in url.drivername and backend in _DRIVERS:
        url = url.set(drivername=f"{backend}+{_DRIVERS[backend]}")
    try:
        url.get_dialect().import_dbapi()
    except ImportError:
        raise SourceError(
            shown,
            f"the driver for {url.drivername} is not installed",
            "Install it: pip install 'golden-almanac[sql]' has that of PostgreSQL.",
        ) from None
    return url if server.secret is None else url.set(password=server.secret)


def _chosen(
    shown: str, table: str | None, query: str | None, private: Sequence[str], dialect: str, connection: Any
) -> Relation:
    """What is read: a table by its name, perhaps with its schema, or a query."""
    from sqlalchemy import inspect

    found = inspect(connection)
    names = sorted({*found.get_table_names(), *found.get_view_names()})
    if query is not None:
        refuse_reaching(select_statements.parsed(query, names, private, dialect), query)
        return Relation(sql=f"({query.strip().rstrip(';')}) AS asked", query=query)
    quote = connection.dialect.identifier_preparer.quote
    if table is not None and table not in names and "." in table:
        schema, _, name = table.rpartition(".")
        if found.has_table(name, schema=schema):
            return Relation(sql=f"{quote(schema)}.{quote(name)}", table=table)
    if not names:
        raise SourceError(shown, "the database holds no table that may be read", "Check the address and your rights.")
    if table is not None and table not in names:
        raise SourceError(shown, f"there is no table named {table!r}", rather(table, names, "tables"))
    if table is None and len(names) > 1:
        raise SourceError(shown, f"it holds several tables ({listed(names)})", "Choose one with --table, or --query.")
    return Relation(sql=quote(table or names[0]), table=table or names[0])


def _fetched(connection: Any, query: str) -> tuple[list[str], list[Any]]:
    from decimal import Decimal

    found = connection.exec_driver_sql(query)
    heads, rows, size = list(found.keys()), [], 0
    while block := found.fetchmany(_FETCHED):
        # Averages of whole numbers come as decimals; amounts of money do too, and keep their places.
        rows += [tuple(float(one) if isinstance(one, Decimal) else one for one in row) for row in block]
        size += sum(len(one) if isinstance(one, str | bytes) else 16 for row in block for one in row)
        if size > ANSWER:
            raise too_large()
    return heads, rows


def _refused(shown: str, problem: Any) -> SourceError:
    """What a database said, in our words; its own may quote addresses, and are not repeated."""
    kind = type(problem).__name__
    if kind == "OperationalError":
        return SourceError(
            shown,
            "the database cannot be reached, or stopped the query",
            "Check the address, the secret and the server.",
        )
    return SourceError(
        shown, "the database refused the query", "Check its tables and columns; it may only read, in one SELECT."
    )
