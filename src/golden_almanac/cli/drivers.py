"""`golden-almanac drivers`: what goes with an outcome."""

from __future__ import annotations

from typing import Annotated

import typer

from . import options, screen
from .opening import Opening, reads

HELP = """Find what goes with an outcome: effects all else equal, cut points, and slices that stand out.

\b
Examples:
  golden-almanac drivers sailings.csv --outcome delay_min
  golden-almanac drivers sailings.csv --outcome on_time --factor vessel --factor route --factor passengers
  golden-almanac drivers sailings.csv --outcome delay_min --toward higher -w "region = 'Outer Isles'"
  golden-almanac drivers sailings.csv --outcome "sum(revenue) / sum(passengers)" -o drivers.html
"""


@reads
def drivers(
    opening: Opening,
    outcome: Annotated[
        str,
        typer.Option(
            "--outcome", metavar="COLUMN", show_default=False, help="A number, a yes/no column, a rate, or an expression."
        ),
    ],
    factor: Annotated[
        list[str] | None,
        typer.Option(
            "--factor", metavar="COLUMN", show_default=False, help="A column that may go with it. May be repeated."
        ),
    ] = None,
    event: Annotated[
        str | None,
        typer.Option("--event", metavar="LABEL", show_default=False, help="The label of the outcome that counts as yes."),
    ] = None,
    toward: Annotated[
        str, typer.Option("--toward", metavar="WAY", help="higher or lower: one direction of interest.")
    ] = "both",
    where: options.Where = None,
    top: Annotated[int, typer.Option("-n", "--top", min=1, help="Factors to show.")] = 10,
    as_json: options.AsJson = False,
    out: options.Out = None,
) -> None:
    import golden_almanac as ga

    targets = options.check_outputs(out, opening.source)
    show = options.progress()
    found = ga.find_drivers(
        opening.table(show), outcome, factor, event=event, toward=toward, where=where, progress=show
    )
    options.clear_progress()
    report = found.report() if targets else None
    if as_json:
        screen.json_out(found.to_dict())
    else:
        screen.drivers(found, top)
    if report is not None:
        options.write_outputs(report, targets)
