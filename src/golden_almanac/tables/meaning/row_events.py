"""Whether the rows of a table are events, of which one counts how many there were, or the figures of periods."""

from __future__ import annotations

import numpy as np

from .. import Role, Table

#: Rows looked at for series, and the share of the dates from its first to its last that have a row of a label.
_LOOKED_AT, _FILLED = 100_000, 0.3
#: Rows a date from which a table is one of events, not of periods.
_EVENTS = 3
#: The share of dates with one number of rows from which a table is a panel.
_PANEL = 0.8


def of_events(table: Table, time: str) -> bool:
    """Whether rows are events, several a day and never quite as many, rather than the figures of periods."""
    if not table.store.abilities.in_order:
        # So many rows are events, and to count them by day would be a pass over the file.
        return True
    _, counts = table.day_counts(time)
    alike = np.mean(counts == np.median(counts)) if counts.size else 1.0
    several = bool(counts.size and np.mean(counts) >= _EVENTS and alike < _PANEL)
    return several and not _in_series(table, time)


def _in_series(table: Table, time: str) -> bool:
    """Whether rows are the figures of labels, one a date for each, some of which begin or end on the way."""
    days = table.days(time)[:_LOOKED_AT].astype("datetime64[D]").astype(np.int64)
    day = np.unique(days, return_inverse=True)[1]
    for column in table.with_role(Role.DIMENSION):
        codes = table.codes(column.name)[0][:_LOOKED_AT].astype(np.int64)
        _, label = np.unique(codes, return_inverse=True)
        pairs = label * (int(day.max(initial=0)) + 1) + day
        first = np.full(int(label.max(initial=0)) + 1, day.size, dtype=np.int64)
        last = np.zeros(first.size, dtype=np.int64)
        np.minimum.at(first, label, day)
        np.maximum.at(last, label, day)
        filled = pairs.size / max(1, int((last - first + 1).sum()))
        if filled >= _FILLED and np.unique(pairs).size == pairs.size:
            return True
    return False
