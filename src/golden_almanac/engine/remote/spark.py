"""Spark: a table or a frame of a session, asked in its SQL; what fails on a worker, Spark itself runs again."""

from __future__ import annotations

import re
import threading
import uuid
from contextlib import suppress
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

from ...sql.expressions import quote_name
from ...support.errors import AlmanacError, ExpressionError, SourceError
from ..query_bounds import ANSWER, Clock, too_large
from .adapter import Expected, Relation

if TYPE_CHECKING:
    import pyarrow as pa

#: Bytes of the units that Spark tells sizes in.
_UNITS = {"B": 1, "KiB": 1 << 10, "MiB": 1 << 20, "GiB": 1 << 30, "TiB": 1 << 40, "PiB": 1 << 50}


@dataclass(slots=True, eq=False)
class Spark:
    """A `session`, and what is read of it: `relation` is a table, or a view of a frame that was handed over."""

    session: Any
    relation: Relation
    shown: str
    dialect: str = "spark"
    groupings: tuple[int, int] = (24, 60)
    expected: int | None = None
    #: What jobs of this table are known by, so that no one else's are stopped.
    _group: str = field(default_factory=lambda: f"golden-almanac-{uuid.uuid4().hex}")

    def run(self, sql: str) -> pa.Table:
        with suppress(Exception):
            # A session over a wire has tags in place of groups.
            self._tagged()
        try:
            found = self.session.sql(sql).toArrow()
        except Exception as problem:  # noqa: BLE001  the virtual machine throws anything
            raise _refused(self.shown, sql, problem) from None
        return _plain(found)

    def bounded(self, sql: str, seconds: float) -> pa.Table:
        clock = Clock(seconds)

        def ring() -> None:
            clock.rang = True
            self.cancel()

        timer = threading.Timer(seconds, ring)
        timer.daemon = True
        timer.start()
        try:
            found = self.run(sql)
        except AlmanacError as problem:
            if clock.rang:
                raise clock.error() from problem
            raise
        finally:
            timer.cancel()
        if found.nbytes > ANSWER:
            raise too_large()
        return found

    def columns(self) -> list[tuple[str, str, str]]:
        schema = self._asked(f"SELECT * FROM {self.relation.sql} LIMIT 0")
        return [(one.name, *_typed(quote_name(one.name), one.dataType.typeName())) for one in schema.fields]

    def expected_size(self) -> Expected:
        # Only some formats tell how many rows there are: else they are counted by what they would take.
        sql = f"EXPLAIN COST SELECT * FROM {self.relation.sql}"
        try:
            told = self.session.sql(sql).toArrow().column(0)[0].as_py()
        except Exception as problem:  # noqa: BLE001  as in run
            raise _refused(self.shown, sql, problem) from None
        width = 8 * max(1, len(self.columns()))
        match = re.search(r"sizeInBytes=([\d.]+) (\w+)(?:, rowCount=([\d.E+]+))?", told)
        size = float(match[1]) * _UNITS.get(match[2], 1) if match else 0.0
        if match is not None and match[3] is not None:
            rows = int(float(match[3]))
            return Expected(rows, int(size / max(rows, 1)))
        return Expected(int(size / width), width)

    def _asked(self, sql: str) -> Any:
        try:
            return self.session.sql(sql).schema
        except Exception as problem:  # noqa: BLE001  as in run
            raise _refused(self.shown, sql, problem) from None

    def _tagged(self) -> None:
        if hasattr(self.session, "sparkContext"):
            self.session.sparkContext.setJobGroup(self._group, "golden-almanac", interruptOnCancel=True)
        else:
            self.session.addTag(self._group)

    def cancel(self) -> None:
        with suppress(Exception):
            if hasattr(self.session, "sparkContext"):
                self.session.sparkContext.cancelJobGroup(self._group)
            else:
                self.session.interruptTag(self._group)

    def close(self) -> None:
        """A session belongs to whoever opened it."""

    def rewritten(self, tree: Any) -> Any:
        return tree.transform(_known)


def of_frame(frame: Any) -> Spark:
    """The adapter of a frame: a view of this program's own is made of it."""
    name = f"golden_almanac_{uuid.uuid4().hex}"
    frame.createOrReplaceTempView(name)
    return Spark(session=frame.sparkSession, relation=Relation(sql=name), shown="the Spark frame")


def of_address(address: str, table: str | None, query: str | None) -> Spark:
    """The adapter of a table by its address: spark://host:port, or sc://host:port of a server that is talked to over a
    wire. Raises SourceError."""
    try:
        from pyspark.sql import SparkSession
    except ImportError:
        raise SourceError(
            address, "Spark is not installed", "Install it: pip install 'golden-almanac[spark]'."
        ) from None
    builder: Any = SparkSession.builder
    try:
        made = builder.remote(address) if address.startswith("sc://") else builder.master(address)
        session = made.config("spark.sql.session.timeZone", "UTC").getOrCreate()
    except Exception as problem:  # noqa: BLE001  as in run
        raise SourceError(
            address, f"Spark cannot be reached ({_first(problem)})", "Check the address and the cluster."
        ) from None
    if query is not None:
        return Spark(
            session=session,
            relation=Relation(sql=f"({query.strip().rstrip(';')}) AS asked", query=query),
            shown=address,
        )
    if table is None:
        raise SourceError(address, "no table is named", "Name one with --table catalog.schema.table, or --query.")
    quoted = ".".join(f"`{part.replace('`', '``')}`" for part in table.split("."))
    return Spark(session=session, relation=Relation(sql=quoted, table=table), shown=address)


def is_frame(source: Any) -> bool:
    """Whether a source is a frame of Spark."""
    return type(source).__module__.startswith("pyspark.sql") and hasattr(source, "createOrReplaceTempView")


def is_address(source: Any) -> bool:
    return isinstance(source, str) and bool(re.match(r"(spark|sc)://", source))


def _refused(shown: str, sql: str, problem: Exception) -> AlmanacError:
    told = _first(problem)
    lowered = told.casefold()
    if any(word in lowered for word in ("table_or_view_not_found", "unresolved_column", "not_found")):
        return SourceError(shown, f"its table is not what was asked for ({told})", "Check its name, and run it again.")
    if any(word in lowered for word in ("permission", "not authorized", "access denied")):
        return SourceError(shown, "you may not read this table", "Ask for the right to read it.")
    if any(word in lowered for word in ("cancelled", "sparkcontext", "connection", "stopped", "py4jnetworkerror")):
        return SourceError(shown, f"Spark stopped ({told})", "Check the cluster, and run it again.")
    return ExpressionError(sql, f"was refused by Spark ({told})", "Ask in plainer SQL.")


def _first(problem: Exception) -> str:
    lines = [line for line in str(problem).splitlines() if line.strip()]
    return (lines[0] if lines else type(problem).__name__)[:300]


def _typed(quoted: str, kind: str) -> tuple[str, str]:
    """A column in a type that the house knows, and that type."""
    if kind == "boolean":
        return quoted, "boolean"
    if kind in ("byte", "short", "integer", "long"):
        return f"CAST({quoted} AS BIGINT)", "number"
    if kind in ("float", "double") or kind.startswith("decimal"):
        return f"CAST({quoted} AS DOUBLE)", "number"
    if kind == "date":
        return quoted, "date"
    if kind.startswith("timestamp"):
        return f"CAST({quoted} AS TIMESTAMP)", "datetime"
    return (quoted, "text") if kind in ("string", "varchar", "char") else (f"CAST({quoted} AS VARCHAR)", "text")


def _plain(found: Any) -> Any:
    """An answer in the types of the house: moments without a zone, whole numbers of 64 bits."""
    import pyarrow as pa

    columns = []
    for column in found.columns:
        if pa.types.is_timestamp(column.type):
            column = column.cast(pa.timestamp("us"))
        elif pa.types.is_integer(column.type):
            column = column.cast(pa.int64())
        elif pa.types.is_decimal(column.type):
            column = column.cast(pa.decimal128(38, 0) if column.type.scale == 0 else pa.float64())
        elif pa.types.is_large_string(column.type):
            column = column.cast(pa.string())
        columns.append(column)
    return pa.Table.from_arrays(columns, names=found.column_names)


def _known(node: Any) -> Any:
    """What sqlglot leaves as Spark does not know it."""
    from sqlglot import exp

    if isinstance(node, exp.DataType) and node.this in (exp.DataType.Type.INT128, exp.DataType.Type.UINT128):
        return exp.DataType.build("decimal(38, 0)", dialect="spark")
    if isinstance(node, exp.Extract) and node.name.upper() == "ISODOW":
        day = exp.Anonymous(this="weekday", expressions=[node.expression.copy()])
        return exp.Paren(this=exp.Add(this=day, expression=exp.Literal.number(1)))
    if (isinstance(node, exp.Func) and node.sql_name().upper() == "GROUPING") or (
        isinstance(node, exp.Anonymous) and node.name.upper() == "GROUPING"
    ):
        return exp.Anonymous(this="grouping_id", expressions=[one.copy() for one in node.expressions])
    return node
