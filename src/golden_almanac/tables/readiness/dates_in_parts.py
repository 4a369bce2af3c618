"""Dates that stand in several columns, a year here and a month there, put together."""

from __future__ import annotations

from .. import Table
from ..meaning.date_parts import time_of_parts
from ..reading_guide import Guide


def ready(table: Table, guide: Guide) -> Table:
    """The table with a column of dates, where its years, months, quarters, weeks or days make one."""
    return time_of_parts(table)
