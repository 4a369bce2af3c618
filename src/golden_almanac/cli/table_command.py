"""`golden-almanac table`: a table to print."""

from __future__ import annotations

from typing import Annotated

import typer

from . import screen, shared_options
from .source_options import Opening, reads

HELP = """Print measures by dimensions and spans: totals, shares, changes, year beside year.

\b
Examples:
  golden-almanac table sailings.csv --rows route --columns 2024-Q3 --columns 2025-Q3 -m revenue
  golden-almanac table sailings.csv --rows region --rows route --columns channel -m revenue -o table.xlsx
"""


@reads
def table(
    opening: Opening,
    rows: Annotated[list[str], typer.Option("--rows", metavar="COLUMN", help="Down the side; one or two, or a grain.")],
    columns: Annotated[
        list[str] | None,
        typer.Option(
            "--columns", metavar="COLUMN", show_default=False, help="Across the top: a column, a grain, or spans."
        ),
    ] = None,
    measure: shared_options.Measures = None,
    order: Annotated[
        str | None, typer.Option("--order", metavar="BY", show_default=False, help="value, change or label.")
    ] = None,
    top: Annotated[
        int | None, typer.Option("-n", "--top", metavar="N", show_default=False, help="So many rows at most.")
    ] = None,
    shares: Annotated[bool, typer.Option("--shares", help="Each row's share beside it.")] = False,
    cells: Annotated[
        str | None, typer.Option("--cells", metavar="KIND", show_default=False, help="Drawn as heat or bars.")
    ] = None,
    time: shared_options.Time = None,
    where: shared_options.Where = None,
    as_json: shared_options.AsJson = False,
    out: shared_options.Out = None,
) -> None:
    import golden_almanac as ga

    targets = shared_options.check_outputs(out, opening.source, replace=opening.replace)
    source = opening.table(shared_options.progress())
    found = ga.table_of(
        source, rows, columns, measure, order=order, top=top, shares=shares, cells=cells, time=time, where=where
    )
    shared_options.clear_progress()
    if targets:
        shared_options.write_outputs(found.report(), targets, replace=opening.replace)
    screen.json_out(found.to_dict()) if as_json else screen.result(found, found.tables())
