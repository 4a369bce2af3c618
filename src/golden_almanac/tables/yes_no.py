"""Columns that say yes or no: measures whose average is a rate, and groups of two."""

from __future__ import annotations

from .table import Column, Role, Table

#: The names of the labels that mean yes.
_YES = frozenset({"yes", "1", "1.0"})


def is_flag(table: Table, column: Column) -> bool:
    """Whether a column says yes or no, be it by noughts and ones."""
    if column.type != "number" or column.adds_up is not False or column.distinct != 2:
        return column.type == "boolean"
    low, high = table.extent(column.name)
    return low is not None and (float(low), float(high)) == (0.0, 1.0)


def flags(table: Table) -> tuple[Column, ...]:
    """The measures that say yes or no, both of which occur."""
    return tuple(one for one in table.with_role(Role.MEASURE) if one.distinct == 2 and is_flag(table, one))


def says_yes(label: str | None) -> bool:
    """Whether the label of a flag means yes."""
    return label in _YES
