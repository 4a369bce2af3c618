"""Levels that cannot be added up after all: their rows stand at different moments, so that no moment has them all."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ...support.phrasing import phrased
from .. import Role, Table
from .natures import Nature

#: The share of moments that hold about as many rows as those around them, in a table of levels.
_REGULAR = 0.9


def checked_levels(table: Table) -> Table:
    """The table with levels averaged whose rows are no snapshots of one moment each."""
    levels = [column for column in table.columns if column.nature == Nature.STOCK and column.adds_up]
    dated = sorted(table.with_role(Role.TIME), key=lambda column: column.missing)
    if not levels or not dated or _regular(table, dated[0].name):
        return table
    names = {column.name for column in levels}
    columns = []
    for column in table.columns:
        if column.name in names:
            because = phrased("{why}; its rows stand at different moments, so it is averaged", why=column.because)
            column = replace(column, adds_up=False, because=because)
        columns.append(column)
    return replace(table, columns=tuple(columns))


def _regular(table: Table, time: str) -> bool:
    """Whether each moment has the rows of all entities, as far as counts tell."""
    _, counts = table.day_counts(time)
    if counts.size < 3:
        return True
    if counts.max() == 1:
        # One row a moment is one entity, unless labels come and go from row to row.
        groups = [column for column in table.with_role(Role.DIMENSION) if column.distinct >= 2]
        return not groups
    around = np.array([np.median(counts[max(0, place - 3) : place + 4]) for place in range(counts.size)])
    return bool(np.mean(np.abs(counts - around) <= 0.34 * around) >= _REGULAR)
