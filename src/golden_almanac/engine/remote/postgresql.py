"""PostgreSQL: one connection in a transaction that cannot write, and sees the rows as they were when it began."""

from __future__ import annotations

import io
import threading
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

from ...sql.expressions import quote_name
from ...support.errors import AlmanacError, ExpressionError, SourceError
from ...support.run_log import log
from ..query_bounds import ANSWER, SECONDS, Clock, too_large
from .adapter import Expected, Relation

if TYPE_CHECKING:
    import pyarrow as pa

#: Times that a statement is tried where the connection is lost, and seconds waited at most before the next.
_TIMES, _WAITED = 4, 8.0
#: Seconds that a statement of the house may take, and that a connection is kept after the last one may have ended.
_PATIENCE, _IDLE = 3_600, 60
#: Object numbers of types, as the protocol has them.
_BOOLEAN, _WHOLE, _FLOAT, _NUMERIC, _DATE, _MOMENT, _ZONED = 16, (20, 21, 23, 26), (700, 701), 1700, 1082, 1114, 1184
_TEXTS = (25, 1043, 1042, 18, 19)


@dataclass(slots=True, eq=False)
class PostgreSQL:
    """`connect` gives a new connection of psycopg; `relation` is what is read of it."""

    connect: Callable[[], Any]
    relation: Relation
    shown: str
    dialect: str = "postgres"
    groupings: tuple[int, int] = (24, 31)
    _connection: Any = None
    _lock: Any = field(default_factory=threading.RLock)
    expected: int | None = None
    _timer: Any = None

    def run(self, sql: str) -> pa.Table:
        return self._tried(lambda connection: _answer(connection, sql, None), sql, _PATIENCE)

    def bounded(self, sql: str, seconds: float) -> pa.Table:
        return self._tried(lambda connection: _answer(connection, sql, ANSWER), sql, seconds)

    def columns(self) -> list[tuple[str, str, str]]:
        sql = f"SELECT * FROM {self.relation.sql}"
        kinds = self._tried(lambda connection: _described(connection, sql), sql, SECONDS)
        return [(name, *_plain(quote_name(name), kind)) for name, kind in kinds]

    def expected_size(self) -> Expected:
        sql = f"EXPLAIN (FORMAT JSON) SELECT * FROM {self.relation.sql}"
        plan = self._tried(lambda connection: connection.execute(sql).fetchone()[0], sql, SECONDS)[0]["Plan"]
        return Expected(int(plan["Plan Rows"]), int(plan["Plan Width"]))

    def cancel(self) -> None:
        connection = self._connection
        if connection is not None:
            with suppress(Exception):
                connection.cancel()

    def close(self) -> None:
        connection, self._connection = self._connection, None
        if self._timer is not None:
            self._timer.cancel()
        if connection is not None:
            with suppress(Exception):
                connection.close()

    def rewritten(self, tree: Any) -> Any:
        return tree.transform(_known)

    def _tried(self, work: Callable[[Any], Any], sql: str, seconds: float) -> Any:
        """The work on the connection; done again on a new one where that was lost. Reading may be repeated."""
        import psycopg
        import tenacity

        def once() -> Any:
            with self._lock:
                if self._timer is not None:
                    self._timer.cancel()
                try:
                    made = work(self._open(seconds))
                    self._rest()
                    return made
                except psycopg.errors.QueryCanceled as problem:
                    self.close()
                    raise Clock(seconds).error() from problem
                except psycopg.OperationalError:
                    self.close()
                    raise
                except psycopg.Error as problem:
                    self.close()
                    raise _refused(self.shown, sql, problem) from None
                except BaseException:
                    # A connection in the midst of an answer is of no more use.
                    self.close()
                    raise

        tries = tenacity.Retrying(
            retry=tenacity.retry_if_exception(_is_lost),
            stop=tenacity.stop_after_attempt(_TIMES),
            wait=tenacity.wait_exponential(multiplier=0.5, max=_WAITED),
            before_sleep=lambda _: log.warning("the connection to %s was lost; trying again", self.shown),
            reraise=True,
        )
        try:
            return tries(once)
        except AlmanacError:
            raise
        except psycopg.Error as problem:
            raise unreachable(self.shown, problem) from None

    def _open(self, seconds: float) -> Any:
        """The connection, in its transaction; the time that a statement may take is set for each."""
        if self._connection is None:
            made = self.connect()
            made.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ READ ONLY")
            for setting in (
                "SET LOCAL TIME ZONE 'UTC'",
                "SET LOCAL DateStyle TO 'ISO, YMD'",
                "SET LOCAL IntervalStyle TO 'iso_8601'",
                "SET LOCAL extra_float_digits TO 1",
                "SET LOCAL bytea_output TO 'hex'",
                "SET LOCAL standard_conforming_strings TO on",
                # Statements are long: to compile them takes longer than to run them.
                "SET LOCAL jit TO off",
            ):
                made.execute(setting)
            self._connection = made
            self._hold_to_it(made)
        self._connection.execute(f"SET LOCAL statement_timeout = {int(1000 * seconds)}")
        return self._connection

    def _rest(self) -> None:
        """A transaction left open keeps the server from tidying up, and others from changing the table: it ends soon
        after the last statement."""
        self._timer = threading.Timer(_IDLE, self._let_go)
        self._timer.daemon = True
        self._timer.start()

    def _let_go(self) -> None:
        if self._lock.acquire(blocking=False):
            try:
                self.close()
            finally:
                self._lock.release()

    def _hold_to_it(self, connection: Any) -> None:
        """Refuses to go on with other rows than those that were begun with, where a connection is a new one."""
        if self.expected is None:
            return
        rows = int(connection.execute(f"SELECT count(*) FROM {self.relation.sql}").fetchone()[0])
        if rows != self.expected:
            self.close()
            raise SourceError(
                self.shown,
                f"its rows changed while they were read ({self.expected:,} before, {rows:,} now)",
                "Run it again.",
            )


def _is_lost(problem: BaseException) -> bool:
    import psycopg

    return isinstance(problem, psycopg.OperationalError) and not isinstance(
        problem, psycopg.errors.QueryCanceled | psycopg.errors.InsufficientPrivilege
    )


def unreachable(shown: str, problem: Any) -> SourceError:
    """The error for a database that cannot be reached; what it said itself may hold secrets, and is not repeated."""
    return SourceError(
        shown,
        "the database cannot be reached, or ended the connection",
        "Check the address, the secret and the server.",
    )


def _refused(shown: str, sql: str, problem: Any) -> AlmanacError:
    """What the server refused, in our words, with its own first line where that names what is wrong."""
    import psycopg

    told = str(problem).splitlines()[0] if str(problem) else type(problem).__name__
    if isinstance(problem, psycopg.errors.InsufficientPrivilege):
        return SourceError(shown, "you may not read this table", "Ask for the right to read it: GRANT SELECT.")
    if isinstance(problem, psycopg.errors.UndefinedTable | psycopg.errors.UndefinedColumn):
        return SourceError(shown, f"its table is not what it was when the reading began ({told})", "Run it again.")
    return ExpressionError(sql, f"was refused by the database ({told})", "Ask in plainer SQL.")


def _described(connection: Any, sql: str) -> list[tuple[str, int]]:
    """The names and types of a statement's answer, without running it."""
    import psycopg
    from psycopg import pq

    raw = connection.pgconn
    prepared = raw.prepare(b"", sql.encode())
    if prepared.status != pq.ExecStatus.COMMAND_OK:
        state = (prepared.error_field(pq.DiagnosticField.SQLSTATE) or b"").decode()
        told = (prepared.error_field(pq.DiagnosticField.MESSAGE_PRIMARY) or b"").decode("utf-8", "replace")
        try:
            kind: Any = psycopg.errors.lookup(state)
        except KeyError:
            kind = psycopg.OperationalError if raw.status != pq.ConnStatus.OK else psycopg.DatabaseError
        raise kind(told)
    found = raw.describe_prepared(b"")
    return [(found.fname(place).decode(), int(found.ftype(place))) for place in range(found.nfields)]


def _answer(connection: Any, sql: str, most: int | None) -> pa.Table:
    """The answer of a statement, sent as text and read column by column."""
    import pyarrow as pa
    from pyarrow import csv

    kinds = _described(connection, sql)
    content, size = io.BytesIO(), 0
    with connection.cursor() as cursor, cursor.copy(f"COPY ({sql}) TO STDOUT (FORMAT csv)") as sent:
        for block in sent:
            size += len(block)
            if most is not None and size > most:
                raise too_large()
            content.write(block)
    # Names may come twice; a column without rows is one all the same.
    places = [f"c{place}" for place in range(len(kinds))]
    types = {place: _arrow(kind) for place, (_, kind) in zip(places, kinds, strict=True)}
    if size == 0:
        rows = pa.table({place: pa.array([], kind) for place, kind in types.items()})
    else:
        content.seek(0)
        rows = csv.read_csv(
            content,
            read_options=csv.ReadOptions(column_names=places, block_size=1 << 22),
            parse_options=csv.ParseOptions(newlines_in_values=True),
            convert_options=csv.ConvertOptions(
                column_types=types, null_values=[""], true_values=["t"], false_values=["f"],
                strings_can_be_null=True, quoted_strings_can_be_null=False,
            ),
        )  # fmt: skip
    columns = [_numeric(rows.column(place)) if kind == _NUMERIC else rows.column(place)
               for place, (_, kind) in zip(places, kinds, strict=True)]  # fmt: skip
    return pa.Table.from_arrays(columns, names=[name for name, _ in kinds])


def _arrow(kind: int) -> Any:
    import pyarrow as pa

    if kind == _BOOLEAN:
        return pa.bool_()
    if kind in _WHOLE:
        return pa.int64()
    if kind in _FLOAT:
        return pa.float64()
    if kind == _DATE:
        return pa.date32()
    return pa.timestamp("us") if kind == _MOMENT else pa.string()


def _numeric(column: Any) -> Any:
    """Exact numbers: whole ones as decimals of 38 digits, others as doubles."""
    import pyarrow as pa
    import pyarrow.compute as pc

    if not pc.any(pc.match_substring_regex(column, r"[^-0-9]")).as_py():
        return column.cast(pa.decimal128(38, 0))
    return column.cast(pa.float64())


def _plain(quoted: str, kind: int) -> tuple[str, str]:
    """A column in a type that the house knows, and that type."""
    if kind == _BOOLEAN:
        return quoted, "boolean"
    if kind in _WHOLE:
        return f"CAST({quoted} AS BIGINT)", "number"
    if kind in _FLOAT or kind == _NUMERIC:
        return f"CAST({quoted} AS DOUBLE)", "number"
    if kind == _DATE:
        return quoted, "date"
    if kind in (_MOMENT, _ZONED):
        return (f"{quoted} AT TIME ZONE 'UTC'" if kind == _ZONED else quoted), "datetime"
    # Labels are sorted by their letters, as everywhere, whatever the database's own order of words.
    text = quoted if kind in _TEXTS else f"CAST({quoted} AS VARCHAR)"
    return f'{text} COLLATE "C"', "text"


def _known(node: Any) -> Any:
    """What sqlglot leaves as PostgreSQL does not know it."""
    from sqlglot import exp

    if isinstance(node, exp.StrPosition):
        return exp.Anonymous(this="strpos", expressions=[node.this.copy(), node.args["substr"].copy()])
    if isinstance(node, exp.Cast) and node.to.this is exp.DataType.Type.INT128:
        inner = node.this.unnest()
        if isinstance(inner, exp.Mul) or (isinstance(inner, exp.Cast) and inner.to.this is exp.DataType.Type.BIGINT):
            # Sums of whole numbers of 64 bits are exact here, whatever their number.
            return node.this
    if isinstance(node, exp.DataType) and node.this in (exp.DataType.Type.INT128, exp.DataType.Type.UINT128):
        return exp.DataType.build("numeric(38, 0)", dialect="postgres")
    return node
