"""`golden-almanac rows`: rows as they stand."""

from __future__ import annotations

from typing import Annotated

import typer

from . import screen, shared_options
from .source_options import Opening, reads

HELP = """List rows as they stand: those that meet a condition, in the order of a column.

\b
Examples:
  golden-almanac rows sailings.csv -w "date = DATE '2025-08-14'"
  golden-almanac rows sailings.csv --order delay_min --descending -n 10
"""


@reads
def rows(
    opening: Opening,
    columns: Annotated[
        list[str] | None,
        typer.Option("-c", "--column", metavar="COLUMN", show_default=False, help="Show this column. May be repeated."),
    ] = None,
    where: shared_options.Where = None,
    order: Annotated[
        str | None, typer.Option("--order", metavar="COLUMN", show_default=False, help="In the order of this column.")
    ] = None,
    descending: Annotated[bool, typer.Option("--descending", help="The greatest first.")] = False,
    top: Annotated[int, typer.Option("-n", "--top", metavar="N", help="So many rows.")] = 50,
    as_json: shared_options.AsJson = False,
    out: shared_options.Out = None,
) -> None:
    import golden_almanac as ga

    targets = shared_options.check_outputs(out, opening.source, replace=opening.replace)
    found = ga.list_rows(
        opening.table(shared_options.progress()),
        columns=columns,
        where=where,
        order=order,
        descending=descending,
        top=top,
    )
    shared_options.clear_progress()
    if targets:
        shared_options.write_outputs(found.report(), targets, replace=opening.replace)
    screen.json_out(found.to_dict()) if as_json else screen.result(found, found.tables())
