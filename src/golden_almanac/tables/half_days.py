"""A last day that is not over: the clocks of its rows stop long before those of the days before it do."""

from __future__ import annotations

import numpy as np

from ..engine.arrow_arrays import days as as_days
from ..engine.arrow_arrays import floats
from ..sql.expressions import quote_name
from .table import Table

#: The days before the last one that are looked at: all days of the week, of which each ends at its own hour.
_BEFORE = 7
#: Minutes before the earliest end of those days from which on a day looks unfinished.
_EARLY = 60


def stops_early(table: Table, column: str) -> bool:
    """Whether the rows of the last day of a column of moments stop more than an hour before those of each of the seven
    days before it did."""
    if table.column(column).type != "datetime":
        return False
    days = table.day_counts(column)[0]
    if days.size <= _BEFORE or int((days[-1] - days[-1 - _BEFORE]).astype(int)) != _BEFORE:
        return False
    key = ("stops early", column)
    if key not in table._cache:
        name = quote_name(column)
        clock = f"EXTRACT(hour FROM {name}) * 60 + EXTRACT(minute FROM {name})"
        found = table.store.query(
            f"SELECT CAST({name} AS DATE) AS day, max({clock}) AS late FROM source "
            f"WHERE CAST({name} AS DATE) >= DATE '{days[-1 - _BEFORE]}' GROUP BY 1"
        )
        late = floats(found.column("late"))[np.argsort(as_days(found.column("day")))]
        # Days without a clock are told by their rows alone.
        table._cache[key] = bool(late.size == _BEFORE + 1 and late.min() >= 0 and late[-1] < late[:-1].min() - _EARLY)
    return bool(table._cache[key])
