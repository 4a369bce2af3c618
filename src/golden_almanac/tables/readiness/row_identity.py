"""What one row is: the smallest set of columns that no two rows share."""

from __future__ import annotations

from itertools import combinations

import numpy as np

from .. import Role, Table

_MOST_COLUMNS, _MOST_ROWS = 8, 5_000_000


def smallest(table: Table) -> tuple[str, ...] | None:
    """The smallest set of columns, keys first, whose values are unique; None for none up to three."""
    for column in table.columns:
        if (
            column.role in (Role.KEY, Role.TEXT, Role.TIME, Role.DIMENSION)
            and not column.missing
            and column.distinct == table.rows
        ):
            return (column.name,)
    if table.rows > _MOST_ROWS or not table.store.abilities.in_order:
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
