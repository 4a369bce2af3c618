"""Whether the rows of a table are events, of which one counts how many there were, or the figures of periods."""

from __future__ import annotations

import numpy as np

from .. import Table

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
    return bool(counts.size and np.mean(counts) >= _EVENTS and alike < _PANEL)
