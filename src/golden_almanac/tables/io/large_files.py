"""Tables too large to hold, or so long that a pass over the file is faster: left where they are, and described.

Parquet files are asked as they stand. A text file is put, typed, into a database in a folder of its own first, since
each look at it would parse it anew.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path
from typing import Any

from ...engine import arrow_arrays, memory_budget
from ...engine.filed_store import Filed, Scratch, parquet_view
from ...engine.remote.remote_store import Remote
from ...engine.sql_store import SqlStore
from ...sql.expressions import quote_name
from ...support import progress
from ...support.errors import BudgetError, SourceError
from ..calendar import Calendar
from ..problems import Problem
from ..reading_guide import Guide
from ..roles import Facts, described, type_name
from ..table import MOST_SAMPLED, Column, Role, Table
from . import text_files
from .raw_table import Origin, tidy_names
from .staging import staged

#: Parquet tables from this length on are asked where they are.
LONG = 4 * MOST_SAMPLED
#: What a table takes once it is in memory, against its size: unpacked columns, lines of text.
_UNPACKED, _LINES = 2.0, 3.0
#: Bytes of a cell in memory, with the codes made of it.
_CELL = 12
#: Different values up to which they are counted one by one.
_FEW, _MOST_TEXTS = 1000, 6000


@dataclass(frozen=True, slots=True, kw_only=True)
class Size:
    """How long a table is (None for text, whose lines are not counted beforehand) and what it takes in memory."""

    rows: int | None
    memory: float


def size_of(files: Sequence[Path]) -> Size | None:
    """The size of Parquet files, or of one text file, without reading them; None for other sources."""
    endings = {file.suffix.lower() for file in files}
    if endings <= set(text_files.PARQUET_ENDINGS):
        from pyarrow import parquet

        try:
            facts = [parquet.read_metadata(file) for file in files]
        except Exception:  # noqa: BLE001  the reader of the whole file says what is wrong with it
            return None
        groups = [fact.row_group(place) for fact in facts for place in range(fact.num_row_groups)]
        rows = sum(fact.num_rows for fact in facts)
        unpacked = _UNPACKED * sum(group.total_byte_size for group in groups)
        return Size(rows=rows, memory=max(unpacked, float(_CELL * rows * facts[0].num_columns)))
    if len(files) == 1 and endings <= set(text_files.CSV_ENDINGS):
        return Size(rows=None, memory=_LINES * files[0].stat().st_size)
    return None


def filed(
    files: Sequence[Path], name: str, guide: Guide, calendar: Calendar, memory: int, several: bool
) -> Table | None:
    """The table as it stands in its file, described; None for one whose columns are not plain."""
    if memory < memory_budget.needed(0, 0, 0):
        raise BudgetError(
            f"The memory budget of {memory_budget.said(memory)} is too small for {name}: the smallest that would do is "
            f"{memory_budget.said(memory_budget.needed(0, 0, 0))}. Raise it with --memory."
        )
    if files[0].suffix.lower() in text_files.CSV_ENDINGS:
        store, original, origin, first, problems, units = staged(files[0], guide, memory)
        return described_table(name, store, original, origin, calendar, first, problems, units)
    return _parquet(files, name, guide, calendar, memory, several)


def _parquet(
    files: Sequence[Path], name: str, guide: Guide, calendar: Calendar, memory: int, several: bool
) -> Table | None:
    from pyarrow import parquet

    schemas = [parquet.read_schema(file) for file in files]
    if any(not schema.equals(schemas[0]) for schema in schemas[1:]):
        return None
    original = [str(name) for name in schemas[0].names]
    names = tidy_names(original)
    columns: dict[str, str] = {}
    for own, raw, kind in zip(names, original, schemas[0].types, strict=True):
        sql = _plain(quote_name(raw), kind, guide)
        if sql is None:
            return None
        columns[own] = sql
    part = "file" if several else None
    if part is not None and part in names:
        return None
    paths = tuple(str(file.resolve()) for file in files)
    store = Filed(
        files=paths,
        select=parquet_view([Path(path) for path in paths], columns, part),
        columns=(*names, *([part] if part else [])),
        memory=memory,
        scratch=Scratch(),
    )
    store = _settled(store, columns, schemas[0], [Path(path) for path in paths], part)
    return described_table(
        name, store, [*original, *([part] if part else [])], Origin(kind="parquet", part=part), calendar
    )


def _plain(quoted: str, kind: Any, guide: Guide) -> str | None:
    """A column of a Parquet file in a type the rest of the house knows, or None where there is none."""
    import pyarrow as pa

    if pa.types.is_dictionary(kind):
        kind = kind.value_type
    if pa.types.is_floating(kind) or pa.types.is_decimal(kind):
        return quoted if kind == pa.float64() else f"CAST({quoted} AS DOUBLE)"
    if pa.types.is_timestamp(kind):
        return None if kind.tz is not None and guide.zone is not None else f"CAST({quoted} AS TIMESTAMP)"
    if pa.types.is_date(kind):
        return f"CAST({quoted} AS DATE)"
    plain = (pa.types.is_integer, pa.types.is_boolean, pa.types.is_string, pa.types.is_large_string)
    return quoted if any(is_so(kind) for is_so in plain) else None


def _settled(store: Filed, columns: dict[str, str], schema: Any, files: Sequence[Path], part: str | None) -> Filed:
    """Moments that all lie at midnight are dates; what is not finite counts as missing."""
    import pyarrow as pa

    tests = {}
    for name, kind in zip(columns, schema.types, strict=True):
        quoted = quote_name(name)
        if pa.types.is_timestamp(kind):
            tests[name] = f"bool_and({quoted} = date_trunc('day', {quoted}))"
        elif pa.types.is_floating(kind):
            tests[name] = f"NOT (isfinite(min({quoted})) AND isfinite(max({quoted})))"
    if not tests:
        return store
    listed = [f"{sql} AS m{place}" for place, sql in enumerate(tests.values())]
    found = store.query(f"SELECT {', '.join(listed)} FROM source")
    for place, (name, sql) in enumerate(tests.items()):
        if found.column(f"m{place}")[0].as_py():
            column = columns[name]
            moment = sql.startswith("bool_and")
            columns[name] = f"CAST({column} AS DATE)" if moment else f"CASE WHEN isfinite({column}) THEN {column} END"
    return replace(store, select=parquet_view(files, columns, part), _made={})


def described_table(
    name: str,
    store: Filed | Remote,
    original: Sequence[str],
    origin: Origin,
    calendar: Calendar,
    first_row: int = 1,
    problems: tuple[Problem, ...] = (),
    units: Mapping[str, str] | None = None,
) -> Table:
    """The table of a store, its columns described by passes over it; `units` are those that cells bore before they were
    turned into numbers."""
    if store.rows == 0:
        raise SourceError(name, "it holds no rows", "Check the export or the query that made it.")
    kinds = store.schema()
    blank = [
        Column(
            name=column, original=raw, type=type_name(kinds.field(column).type), role=Role.IGNORED, adds_up=None,
            unit=None, missing=0, distinct=0,
        )
        for column, raw in zip(kinds.names, original, strict=True)
    ]  # fmt: skip
    table = Table(
        name=name, store=store, columns=tuple(blank), rows_read=store.rows, first_row=first_row, problems=problems,
        origin=origin, calendar=calendar,
    )  # fmt: skip
    columns = tuple(
        described(column.name, column.original, facts, (units or {}).get(column.name))
        for column, facts in zip(blank, _facts(table, store, kinds), strict=True)
    )
    return replace(table, columns=columns)


def _facts(table: Table, store: SqlStore, kinds: Any) -> list[Facts]:
    """The facts of each column: one pass for all, and one for those with few different values."""
    import pyarrow as pa

    listed, counts = ["count(*) AS n"], table.store.abilities.estimates
    for place, column in enumerate(table.columns):
        quoted = quote_name(column.name)
        listed.append(f"count({quoted}) AS c{place}")
        listed += [f"approx_count_distinct({quoted}) AS a{place}"] if counts else []
        if column.type in ("number", "date"):
            listed += [f"min({quoted}) AS l{place}", f"max({quoted}) AS h{place}"]
    progress.say(f"looking through {table.rows:,} rows")
    found = table.store.query(f"SELECT {', '.join(listed)} FROM source")
    row = {name: found.column(name)[0].as_py() for name in found.column_names}
    rows = int(row["n"])
    if not counts:
        drawn = table.sample() or table
        for place, column in enumerate(table.columns):
            row[f"a{place}"] = _reckoned(drawn.arrow.column(column.name), int(row[f"c{place}"]))
    ends = {
        column.name: (row[f"l{place}"], row[f"h{place}"])
        for place, column in enumerate(table.columns)
        if column.type in ("number", "date")
    }
    store.remember_extents(ends)
    few = [
        column.name
        for place, column in enumerate(table.columns)
        if column.type != "date" and int(row[f"a{place}"]) <= (_MOST_TEXTS if column.type == "text" else _FEW)
    ]
    counted = table.store.label_counts(few)
    facts: list[Facts] = []
    for place, column in enumerate(table.columns):
        filled, distinct = int(row[f"c{place}"]), int(row[f"a{place}"])
        whole = bool(pa.types.is_integer(kinds.field(column.name).type))
        if column.type == "date":
            distinct = int(table.day_counts(column.name)[0].size)
        elif column.name in counted:
            distinct = sum(label is not None for label in counted[column.name][0])
        elif whole and distinct >= 0.9 * filled:
            # Numbers that may be a key: whether none comes twice must be known.
            quoted = quote_name(column.name)
            again = table.store.query(f"SELECT count(DISTINCT {quoted}) AS n FROM source")
            distinct = int(again.column("n")[0].as_py())
        else:
            # An estimate, and given as one: in two figures.
            distinct = int(float(f"{distinct:.2g}"))
        facts.append(
            Facts(
                kind=column.type,
                whole=whole,
                rows=rows,
                missing=rows - filled,
                distinct=min(distinct, filled),
                low=ends[column.name][0] if column.type == "number" else None,
                high=ends[column.name][1] if column.type == "number" else None,
                longest=partial(_longest, table, column.name),
            )
        )
    return facts


def _reckoned(drawn: Any, filled: int) -> int:
    """How many different values there are about, by those of a sample: those seen, and as many unseen as there must be
    where so many were seen just once or twice (Chao 1984)."""
    import pyarrow.compute as pc

    counts = arrow_arrays.wholes(pc.value_counts(drawn.drop_null()).field("counts"))
    once, twice = int((counts == 1).sum()), int((counts == 2).sum())
    if counts.size and once == counts.size:
        return filled
    unseen = once * (once - 1) / (2 * (twice + 1))
    return min(filled, int(counts.size + unseen))


def _longest(table: Table, name: str) -> int:
    sample = None if table.store.abilities.estimates else table.sample()
    if sample is not None:
        import pyarrow.compute as pc

        return int(pc.max(pc.utf8_length(sample.arrow.column(name))).as_py() or 0)
    found = table.store.query(f"SELECT max(length({quote_name(name)})) AS n FROM source")
    return int(found.column("n")[0].as_py() or 0)
