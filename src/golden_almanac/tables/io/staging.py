"""A text file larger than the memory budget, put into a database in a folder of its own, typed and counted."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import NamedTuple

from ...engine import embedded_engine, memory_budget
from ...engine.filed_store import Filed, Scratch, out_of, settings
from ...engine.store import ROW
from ...sql.expressions import quote_name, quote_value
from ...support import progress
from ...support.errors import SourceError
from ...support.parallel import stoppable
from ...support.phrasing import phrased, phrased_count
from ..calendar import Calendar
from ..parsing.sql_conversions import conversion
from ..problems import Problem, Step
from ..reading_guide import Guide
from . import text_files
from .raw_table import Origin

#: Lines from which the types are told.
_TOLD_BY = 20_000


class Staged(NamedTuple):
    """The store, the headings as written, where it comes from, the number of the first row, what was noticed, and the
    units that the cells of columns bear."""

    store: Filed
    original: list[str]
    origin: Origin
    first_row: int
    problems: tuple[Problem, ...]
    units: dict[str, str]


def staged(path: Path, guide: Guide, memory: int) -> Staged:
    """A text file put into a database of its own, its columns typed as the first lines tell.

    Raises SourceError for a file that cannot be read line by line, BudgetError where memory or disk are too small.
    """
    import duckdb

    shown = str(path)
    head = text_files.head_of(path)
    if head.titled or head.encoding not in ("utf8", "utf8-sig"):
        why = "has titles above its headings" if head.titled else "is not UTF-8"
        raise SourceError(
            shown,
            f"it is larger than the memory budget of {memory_budget.said(memory)}, and {why}",
            "Save it as plain UTF-8 CSV or as Parquet, or raise the budget with --memory.",
        )
    scratch = Scratch()
    converted, original, units = _told_by_head(path, head, scratch, guide)
    store = Filed(
        files=(),
        select=f"SELECT {', '.join(map(quote_name, head.names))}, rowid + {head.skip + 1} AS {quote_name(ROW)} "
        "FROM staged.rows",
        columns=tuple(head.names),
        memory=memory,
        scratch=scratch,
        database=scratch.path / "staged.duckdb",
    )
    read = [name for name, sql in converted.items() if sql != "x"]
    lost = " + ".join(
        f"({1 << place} * CAST({quote_name(own)} IS NOT NULL AND ({_over(converted[own], own)}) IS NULL AS BIGINT))"
        for place, own in enumerate(read[:60])
    )
    columns = ", ".join(f"{_over(sql, own)} AS {quote_name(own)}" for own, sql in converted.items())
    options = settings(memory, scratch) | {"preserve_insertion_order": "true"}
    typed = "{" + ", ".join(f"{quote_value(name)}: 'VARCHAR'" for name in head.names) + "}"
    escape = quote_value('"' if head.escape is None else head.escape)
    progress.say(f"putting {path.name} into a database on disk")
    try:
        connection = embedded_engine.locked([str(path.resolve())], store.database, fill=True, **options)
        try:
            fill = (
                f'CREATE TABLE staged.rows AS SELECT {columns}, {lost or "0"} AS "{_LOST}" FROM read_csv('
                f"{quote_value(str(path.resolve()))}, auto_detect=false, header=false, skip={head.skip}, "
                f"delim={quote_value(head.delimiter)}, quote='\"', escape={escape}, nullstr='', columns={typed})"
            )
            stoppable(lambda: connection.execute(fill), connection.interrupt)
        finally:
            connection.close()
    except (duckdb.OutOfMemoryException, duckdb.IOException) as problem:
        scratch.remove()
        raise out_of(problem, memory, scratch.path) from problem
    except duckdb.Error as problem:
        scratch.remove()
        raise SourceError(
            shown, _trouble(str(problem)), "Mend the line (a separator inside a text needs quotes) or the header."
        ) from problem
    problems = _lost(store, read, converted)
    origin = Origin(kind="csv", encoding="UTF-8", delimiter=head.delimiter)
    return Staged(store, original, origin, head.skip + 1, problems, units)


def _trouble(text: str) -> str:
    """What the engine says of a line, in our words."""
    line = re.search(r"Line: (\d+)", text)
    fields = re.search(r"Expected Number of Columns: (\d+) Found: (\d+)", text)
    if line and fields:
        return f"line {int(line[1])} has {fields[2]} fields where the header has {fields[1]}"
    return f"it cannot be read as CSV{f' (trouble at line {line[1]})' if line else ''}"


#: The column of a staged table with a bit for each cell that was no number or date.
_LOST = "\tlost"


def _told_by_head(
    path: Path, head: text_files.Head, scratch: Scratch, guide: Guide
) -> tuple[dict[str, str], list[str], dict[str, str]]:
    """How each column is turned into its type, by what reading the first lines gives; the headings as written; and the
    units that are told with the type."""
    from .reading import typed_table

    sample = scratch.path / "head.csv"
    with path.open("rb") as whole, sample.open("wb") as part:
        for _, line in zip(range(_TOLD_BY), whole, strict=False):
            part.write(line)
    texts = text_files.read_csv(sample, guide)
    raw = dict(zip(texts.names, texts.columns, strict=True))
    held = typed_table(path.name, text_files.read_csv(sample, guide), guide, Calendar())
    sample.unlink()
    found = {}
    for name in head.names:
        same = name in held.arrow.column_names and held.arrow.num_rows == len(raw[name])
        found[name] = (conversion(raw[name], held.arrow.column(name)) if same else None) or "x"
    units = {column.name: column.unit for column in held.columns if column.unit and found.get(column.name, "x") != "x"}
    return found, head.original, units


def _over(sql: str, name: str) -> str:
    """A conversion over a column."""
    return re.sub(r"\bx\b", lambda _: quote_name(name), sql)


def _lost(store: Filed, read: Sequence[str], converted: dict[str, str]) -> tuple[Problem, ...]:
    """Cells that were no number or date among so many that are."""
    if not read:
        return ()
    bits = [f"sum(({quote_name(_LOST)} >> {place}) & 1) AS b{place}" for place in range(len(read[:60]))]
    found = replace(store, select="SELECT *, 0 AS " + quote_name(ROW) + " FROM staged.rows", _made={}).query(
        f"SELECT {', '.join(bits)} FROM source"
    )
    problems = []
    for place, name in enumerate(read[:60]):
        cells = int(found.column(f"b{place}")[0].as_py() or 0)
        if cells:
            dates = "DATE" in converted[name] or "strptime" in converted[name]
            problems.append(
                Problem(
                    check="cells that do not fit",
                    severity="repair",
                    column=name,
                    rows=cells,
                    repair=phrased("counted as missing"),
                    message=phrased_count(
                        cells,
                        "{n} cell of {column} holds no date and counts as missing.",
                        "{n} cells of {column} hold no date and count as missing.",
                        column=repr(name),
                    )
                    if dates
                    else phrased_count(
                        cells,
                        "{n} cell of {column} holds no number and counts as missing.",
                        "{n} cells of {column} hold no number and count as missing.",
                        column=repr(name),
                    ),
                    step=Step(do="count as missing", column=name),
                )
            )
    return tuple(problems)
