"""What one row is: the smallest set of columns that no two rows share."""

from __future__ import annotations

from dataclasses import replace
from itertools import combinations

import numpy as np

from ..tables import Role, Table
from ..tables.problems import Problem

_MOST_COLUMNS, _MOST_ROWS = 8, 5_000_000


def ready(table: Table) -> Table:
    """Tell "one row per …" when a key, or up to three columns together, say it."""
    found = smallest(table)
    if found is None or table.rows < 3:
        return table
    said = found[0] if len(found) == 1 else ", ".join(found[:-1]) + " and " + found[-1]
    problem = Problem(
        check="grain", severity="note", column=None, rows=table.rows, message=f"There is one row per {said}."
    )
    return replace(table, problems=(*table.problems, problem))


def smallest(table: Table) -> tuple[str, ...] | None:
    """The smallest set of columns, keys first, whose values are unique; None for none up to three."""
    for column in table.columns:
        if (
            column.role in (Role.KEY, Role.TEXT, Role.TIME, Role.DIMENSION)
            and not column.missing
            and column.distinct == table.rows
        ):
            return (column.name,)
    if table.rows > _MOST_ROWS:
        return None
    roles = (Role.TIME, Role.KEY, Role.DIMENSION)
    names = [column.name for role in roles for column in table.with_role(role) if not column.missing][:_MOST_COLUMNS]
    sizes = {column.name: column.distinct for column in table.columns}
    codes = {name: table.codes(name)[0].astype(np.int64) for name in names}
    for count in (2, 3):
        for chosen in combinations(names, count):
            if np.prod([float(sizes[name]) for name in chosen]) < table.rows:
                continue
            number = np.zeros(table.rows, dtype=np.int64)
            for name in chosen:
                number = number * sizes[name] + codes[name]
            if np.unique(number).size == table.rows:
                return chosen
    return None
