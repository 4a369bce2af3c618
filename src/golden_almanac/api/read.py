"""`ga.read`: a table from anywhere, made fit to report from."""

from __future__ import annotations

import os
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from ..support.errors import RequestError
from ..support.progress import told_to
from ..tables import Calendar, Guide, Table
from ..tables import read as read_raw
from ..tables import repair_log as logs
from ..tables.disclosure import check_private, folded, minimum_of
from ..tables.joins import Tables
from ..tables.meaning.exchange_rates import converted
from ..tables.meaning.understanding import understood
from ..tables.readiness import doubtful, ready


def read(
    source: Any,
    *,
    name: str | None = None,
    roles: Mapping[str, str] | None = None,
    natures: Mapping[str, str] | None = None,
    rates: Any = None,
    sheet: str | None = None,
    table: str | None = None,
    query: str | None = None,
    answers: Mapping[str, str] | None = None,
    repairs: Any = None,
    calendar: Calendar | None = None,
    memory: str | int | None = None,
    hold: bool = False,
    private: Sequence[str] | str | None = None,
    minimum_group: int = 0,
    joins: Sequence[str] = (),
    rows: str | None = None,
    progress: Callable[[str], None] | None = None,
) -> Table:
    """Read a table, mend what is safe, ask about what is not, and list both in `table.readiness`.

    Parameters
    ----------
    source
        A path to a CSV, Parquet or JSON file, a workbook (xlsx, xls, ods), a SQLite or DuckDB file, or one of
        these compressed (gz, zst, zip with one member); a pattern such as `sailings-*.csv` or a list of paths, whose
        tables are put one below the other with a column for the file; a brief (monthly.toml), whose table is read as it
        says; a database's or cluster's address (postgresql://…, spark://…, sc://…) with its `table` or a `query`, a
        Spark frame (see `docs/scale.md`); a pandas DataFrame; or any object with the Arrow PyCapsule interface (Arrow
        and Polars tables, DuckDB relations). A `Table` is returned as it is, and of several `Tables` their star.
    name
        What to call the table; the file's name by default.
    roles
        Roles that override the guess: `{"crew": "dimension", "ticket": "key"}`; one of time, dimension,
        measure, key, text, ignored, part of a date.
    natures
        What kind of number a column holds, where the guess is wrong: `{"closing_balance": "stock"}`; one of flow,
        count, stock, running total, share, price, score, duration, reading, code (see `docs/meaning.md`).
    rates
        What currencies (or units) are worth in one of them, where a column of them stands beside amounts: a mapping
        such as `{"USD": 0.92, "EUR": 1}`, or anything this function takes that has a column of labels, one of rates and
        perhaps one of dates from which they hold. Amounts are then turned into the one whose rate is 1.
    sheet, table, query
        Which sheet of a workbook (the largest table by default, with the sheets of the same columns), which table of
        a database (with its schema: "shop.sales"), or one SELECT over it.
    answers
        Answers to questions of an earlier reading, by their key: `{"date order/Date": "day first"}`. A key without
        a column answers for all columns.
    repairs
        A repair log (a path, or what `Table.repair_log` gave): just its repairs are made, and nothing is decided anew.
    calendar
        Fiscal years, weeks, time zone and public holidays: `ga.Calendar(fiscal_start=4, holidays="DE")`.
    memory
        How much memory a CSV or Parquet file may take, such as "4GB"; half of the machine's by default. What would take
        more is left in its file and asked in SQL, and so are Parquet tables of a million rows and more in which
        nothing is to be mended.
    hold
        Read into memory whatever fits the budget, however long; every check of readiness is then made on every row.
    private
        Columns that do not exist for anything downstream: they are dropped where the table is read, and nothing may
        name them.
    minimum_group
        Labels with fewer rows are put together as "(other)", and with them whatever a total would give them away by;
        rows by themselves are not shown.
    joins
        Tables whose columns are added, as `join_named` reads them: "ports.csv on port = name".
    rows
        What the rows are, many of them: "sailings"; by default guessed where the key's or the file's name is plain.
    progress
        Called with a line of text: what is being done, how far it is, how long it will take.

    Returns
    -------
    Table
        Rows in the order of the source, numbered as there. Spellings of "no value" are missing only among numbers,
        dates and yes/no; nothing is filled in.

    Raises
    ------
    SourceError
        There is no such file, or it holds nothing that can be read.
    ColumnError, RequestError
        `roles` names a column or a role that does not exist, or that the column cannot have; an answer to a question
        that the table does not put; a repair log made for another source; rates with holes, or for no amounts.
    """
    if isinstance(source, Tables):
        source = source.star()
    if isinstance(source, str | os.PathLike) and os.fspath(source).casefold().endswith(".toml"):
        chosen = (roles, natures, rates, sheet, table, query, answers, repairs, calendar, private, rows)
        if any(chosen) or joins or minimum_group:
            raise RequestError("The brief", os.fspath(source), "read without further options: what it says holds")
        return _briefed(Path(source), progress)
    hidden = [private] if isinstance(private, str) else list(private or ())
    least = minimum_of(minimum_group)
    if isinstance(source, Table):
        if _READ in source._cache and not (hidden or joins or least > source.minimum or roles or natures or rates):
            # As this function gave it: there is nothing to do again.
            return _called(source, rows)
        made = source.leave_out(hidden) if hidden else source
        return _called(_finished(made, source, joins, hidden, least, roles, natures, rates), rows)
    log = None if repairs is None else logs.opened(repairs)
    guide = Guide(
        answers=dict(answers or {}),
        log=None if log is None else log.steps,
        zone=None if calendar is None else calendar.zone,
    )
    if log is not None:
        sheet, table, query = sheet or log.sheet, table or log.table, query or log.query
    with told_to(progress):
        made = _ready(
            guide,
            lambda held: read_raw(
                source,
                guide,
                name=name,
                sheet=sheet,
                table=table,
                query=query,
                calendar=calendar,
                memory=memory,
                hold=hold or held,
                private=hidden,
            ),
        )
    if log is not None:
        log.check(made)
    return _called(_finished(made, source, joins, hidden, least, roles, natures, rates), rows)


def _briefed(path: Path, progress: Callable[[str], None] | None) -> Table:
    """The table that a brief reads."""
    from ..reports.brief import read as read_brief
    from .brief_report import brief_table

    return brief_table(read_brief(path), progress or (lambda _: None))


#: What a table that `read` gave is known by.
_READ = ("read",)


def _called(table: Table, rows: str | None) -> Table:
    """The table with what its rows are called. Raises RequestError for what is no word."""
    table._cache[_READ] = True
    if rows is None:
        return table
    word = " ".join(rows.split()).lower()
    if not word or len(word) > 40 or not all(letter.isalpha() or letter in " -'" for letter in word):
        raise RequestError("What rows are called", rows, 'a word for many of them, such as "sailings"')
    return replace(table, noun=word)


def _finished(
    made: Table,
    source: Any,
    joins: Sequence[str],
    private: Sequence[str],
    least: int,
    roles: Mapping[str, str] | None,
    natures: Mapping[str, str] | None,
    rates: Any,
) -> Table:
    """The table with what is joined to it, its roles set; without what must not be shown."""
    for text in joins:
        from .join import join_named

        made = join_named(made, source, text, private)
    check_private(private, [made])
    made = understood(made)
    made = made if natures is None else made.set_natures(natures)
    made = made if roles is None else made.set_roles(roles)
    made = made if rates is None else converted(made, _rates(rates))
    return folded(made, max(least, made.minimum))


def _rates(rates: Any) -> Table:
    if isinstance(rates, Mapping) and all(isinstance(rate, int | float) for rate in rates.values()):
        rates = {"currency": list(map(str, rates)), "rate": list(map(float, rates.values()))}
    return read(rates)


def _ready(guide: Guide, raw: Callable[[bool], Table]) -> Table:
    """The table made ready; one that was left in its file though it fits is read whole where something is amiss."""
    made = ready(raw(False), guide)
    if made.store.abilities.in_order or not made.store.abilities.estimates or not doubtful(made):
        # What is on a server stays there.
        return made
    whole = raw(True)
    return ready(whole, guide) if whole.store.abilities.in_order else made
