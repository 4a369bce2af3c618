"""`golden-almanac cohorts`: those who joined together, followed."""

from __future__ import annotations

from typing import Annotated

import typer

from . import screen, shared_options
from .source_options import Opening, reads

HELP = """Follow those who joined in one period: who stays, what they bring, which cohorts differ.

\b
Examples:
  golden-almanac cohorts trips.csv --member pass_id --active day
  golden-almanac cohorts trips.csv --member pass_id --active day -m fare -b channel -o cohorts.html
"""


@reads
def cohorts(
    opening: Opening,
    member: Annotated[str, typer.Option("--member", metavar="COLUMN", help="Who was active.")],
    active: Annotated[str, typer.Option("--active", metavar="COLUMN", help="The dates of activity.")],
    joined: Annotated[
        str | None,
        typer.Option(
            "--joined", metavar="COLUMN", show_default=False, help="The dates of joining; else the first day."
        ),
    ] = None,
    grain: shared_options.Grain = None,
    measure: Annotated[
        str | None, typer.Option("-m", "--measure", metavar="MEASURE", show_default=False, help="A sum, told a member.")
    ] = None,
    by: shared_options.By = None,
    where: shared_options.Where = None,
    as_json: shared_options.AsJson = False,
    out: shared_options.Out = None,
) -> None:
    import golden_almanac as ga

    targets = shared_options.check_outputs(out, opening.source, replace=opening.replace)
    table = opening.table(shared_options.progress())
    found = ga.cohorts(table, member, active, joined=joined, grain=grain, measure=measure, by=by, where=where)
    shared_options.clear_progress()
    if targets:
        shared_options.write_outputs(found.report(), targets, replace=opening.replace)
    screen.json_out(found.to_dict()) if as_json else screen.result(found, found.tables())
