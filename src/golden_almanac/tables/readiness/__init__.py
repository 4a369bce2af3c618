"""Is a table fit to report from? One check a file; what is safe is mended, what is not is asked."""

from __future__ import annotations

from collections.abc import Callable
from importlib import import_module
from typing import cast

from .. import Table
from ..reading_guide import Guide
from . import large_tables
from .large_tables import doubtful
from .repairs import again

#: In this order: rows that are sums of others, then the shape, then rows and labels that people decide on, then what
#: is only told. Each module has `ready(table, guide) -> Table`, which returns the table mended, its problems added.
CHECKS = (
    "missing_codes",
    "total_rows",
    "wide_periods",
    "dates_in_parts",
    "labelled_totals",
    "rows_to_come",
    "duplicate_rows",
    "label_variants",
    "negative_amounts",
    "running_totals",
    "date_gaps",
    "empty_columns",
    "odd_rows",
)


def ready(table: Table, guide: Guide) -> Table:
    """The table with every check made: repairs done and listed, questions put.

    With a log in the guide nothing is looked for: just its steps are made. Raises RequestError for an answer to a
    question that the table does not put.
    """
    if not table.store.abilities.in_order:
        return large_tables.ready(table, guide)
    if guide.log is not None:
        for step in guide.log:
            table = again(table, step)
        return table
    for name in CHECKS:
        check = cast(Callable[[Table, Guide], Table], import_module(f".{name}", __package__).ready)
        table = check(table, guide)
    guide.check_answers()
    return table


__all__ = ["CHECKS", "doubtful", "ready"]
