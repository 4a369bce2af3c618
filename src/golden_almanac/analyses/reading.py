"""`ga.read`: a table from anywhere, made fit to report from."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ..core.readiness import ready
from ..core.tables import Table
from ..core.tables import read as read_raw


def read(
    source: Any,
    *,
    name: str | None = None,
    roles: Mapping[str, str] | None = None,
    sheet: str | None = None,
    table: str | None = None,
    query: str | None = None,
) -> Table:
    """Read a table, mend what is safe, ask about what is not, and list both in `table.readiness`.

    Parameters
    ----------
    source
        A path to a CSV, Parquet or JSON file, a workbook (xlsx, xls, ods), a SQLite or DuckDB file, or one of
        these compressed (gz, zst, zip with one member); a pandas DataFrame; or any object with the Arrow
        PyCapsule interface (Arrow and Polars tables, DuckDB relations). A `Table` is returned as it is.
    name
        What to call the table; the file's name by default.
    roles
        Roles that override the guess: `{"crew": "dimension", "ticket": "key"}`; one of time, dimension,
        measure, key, text, ignored.
    sheet, table, query
        Which sheet of a workbook (the largest table by default), which table of a database file, or one
        SELECT over it.

    Raises
    ------
    SourceError
        There is no such file, or it holds nothing that can be read.
    ColumnError, RequestError
        `roles` names a column or a role that does not exist, or that the column cannot have.
    """
    if isinstance(source, Table):
        return source if roles is None else source.set_roles(roles)
    made = ready(read_raw(source, name=name, sheet=sheet, table=table, query=query))
    return made if roles is None else made.set_roles(roles)
