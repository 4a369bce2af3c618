"""Is a table fit to report from? One check a file; what is safe is mended, what is not is asked."""

from __future__ import annotations

from collections.abc import Callable
from importlib import import_module
from typing import cast

from ..tables import Table

#: In this order: rows that are sums of others, then the shape, then what is only told. Each module has
#: `ready(table) -> Table`, which returns the table mended, with its problems added.
CHECKS = ("totals", "wide", "repeats", "labels", "columns", "grain")


def ready(table: Table) -> Table:
    """The table with every check made: repairs done and listed, questions put."""
    for name in CHECKS:
        check = cast(Callable[[Table], Table], import_module(f".{name}", __package__).ready)
        table = check(table)
    return table


__all__ = ["CHECKS", "ready"]
