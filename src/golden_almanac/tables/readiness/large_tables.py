"""What can be told of a table that stays in its file, where no row is mended: labels, dates, columns, and, by an even
sample, rows entered twice and texts that hold numbers or dates."""

from __future__ import annotations

from dataclasses import replace

from ...engine.held_store import Held
from ...sql.expressions import quote_name
from ...support.phrasing import phrased, phrased_count
from .. import Role, Table
from ..parsing import typed
from ..problems import Problem
from ..reading_guide import Guide
from ..roles import type_name
from . import date_gaps, empty_columns, label_variants, total_rows, wide_periods

_MOST_REPEATS = 0.05
_SPOKEN = {
    "number": phrased("numbers"),
    "date": phrased("dates"),
    "datetime": phrased("moments"),
    "boolean": phrased("yes and no"),
}


def ready(table: Table, guide: Guide) -> Table:
    """The table with what was noticed."""
    for check in (label_variants, date_gaps, empty_columns):
        table = check.ready(table, guide)
    problems = [*_totals(table), *_texts(table), *_wide(table, guide), *_repeats(table)]
    return replace(table, problems=(*table.problems, *problems))


def doubtful(table: Table) -> bool:
    """Whether something was noticed that is better looked into with all rows in memory."""
    settled = {"constant column", "empty column", "almost empty column", "gaps in the dates", "unfinished period"}
    return any(problem.check not in settled for problem in table.problems)


def _totals(table: Table) -> list[Problem]:
    """Labels that say "total": whether the rows are sums of others cannot be seen without their order."""
    problems = []
    for column in table.with_role(Role.DIMENSION):
        if column.type != "text":
            continue
        names, counts = table.label_counts(column.name)
        told = [(name, int(n)) for name, n in zip(names, counts, strict=True) if name and total_rows.says_total(name)]
        if told:
            rows = sum(n for _, n in told)
            said = ", ".join(repr(name) for name, _ in told[:3])
            problems.append(
                Problem(
                    check="totals among the rows",
                    severity="note",
                    column=column.name,
                    rows=rows,
                    message=phrased_count(
                        rows,
                        "{n} row of {column} is called {names}. The table is larger than the memory budget, so whether "
                        "it is a sum of other rows was not looked into; if so, leave it out with --where.",
                        "{n} rows of {column} are called {names}. The table is larger than the memory budget, so "
                        "whether they are sums of other rows was not looked into; if so, leave them out with --where.",
                        column=repr(column.name),
                        names=said,
                    ),
                )
            )
    return problems


def _drawn(table: Table) -> Table:
    """A sample of the rows, or all where they are few, in memory."""
    return table.sample() or replace(table, store=Held(table.arrow))


def _texts(table: Table) -> list[Problem]:
    """Columns of text that read as numbers or dates throughout (in the sample)."""
    import pyarrow as pa
    import pyarrow.compute as pc

    sample = _drawn(table)
    problems = []
    for column in table.columns:
        if column.type != "text" or column.name == table.origin.part:
            continue
        values = pc.unique(sample.arrow.column(column.name)).cast(pa.string())
        told = typed(column.name, values, lambda place, text: (place, text), stated=True)
        if "string" not in str(told.values.type):
            what = _SPOKEN[type_name(told.values.type)]
            problems.append(
                Problem(
                    check="texts that hold numbers or dates",
                    severity="note",
                    column=column.name,
                    rows=table.rows - column.missing,
                    message=phrased(
                        "The texts of {column} read as {what}, and were left as texts, since the table is larger than "
                        "the memory budget. Give them that type in the source to use them.",
                        column=repr(column.name),
                        what=what,
                    ),
                )
            )
    return problems


def _wide(table: Table, guide: Guide) -> list[Problem]:
    period = wide_periods.periods([column.name for column in table.columns if column.type in ("number", "empty")])
    if len(period) < wide_periods.LEAST_PERIODS:
        return []
    return [
        Problem(
            check="periods across columns",
            severity="note",
            column=None,
            rows=len(period),
            message=phrased(
                "{n} columns are periods. The table is larger than the memory budget, so they were not turned into "
                "rows; do so in the source, or raise the budget with --memory.",
                n=len(period),
            ),
        )
    ]


def _repeats(table: Table) -> list[Problem]:
    """Equal rows are drawn into the sample together, so it shows whether there are many."""
    if table.private or len(table.columns) < 3 or any(column.distinct == table.rows for column in table.columns):
        return []
    sample = _drawn(table)
    every = ", ".join(quote_name(column.name) for column in sample.columns)
    answer = sample.store.query(f"SELECT count(*) - count(DISTINCT hash({every})) AS n FROM source")
    again = int(answer.column("n")[0].as_py())
    if not 0 < again <= max(3, _MOST_REPEATS * sample.rows):
        return []
    rows = round(again * table.rows / sample.rows)
    message = phrased_count(
        rows,
        "{n} row repeats an earlier one in every column and was kept.",
        "{n} rows repeat an earlier one in every column and were kept.",
    )
    if sample.rows < table.rows:
        message = phrased("{text} Reckoned from an even sample of {n} rows.", text=message, n=sample.rows)
    return [Problem(check="repeated rows", severity="note", column=None, rows=rows, message=message)]
