"""`golden-almanac regress`: a linear regression."""

from __future__ import annotations

from typing import Annotated

import typer

from . import outcome_output, screen, shared_options
from .source_options import Opening, reads

HELP = """Fit a linear regression: coefficients with classical and robust errors, the equation, what the residuals say.

\b
Examples:
  golden-almanac regress sailings.csv --outcome fuel_cost --factor capacity --factor route
  golden-almanac regress sailings.csv --outcome revenue --factor passengers --factor "pow(passengers, 2)"
  golden-almanac regress sailings.csv --outcome revenue --factor passengers --no-intercept --json
"""


@reads
def regress(
    opening: Opening,
    outcome: Annotated[
        str, typer.Option("--outcome", metavar="COLUMN", show_default=False, help="A number, or an expression.")
    ],
    factor: Annotated[
        list[str],
        typer.Option(
            "--factor", metavar="COLUMN", show_default=False, help="A column, or an expression. May be repeated."
        ),
    ],
    no_intercept: Annotated[bool, typer.Option("--no-intercept", help="A fit through nought.")] = False,
    where: shared_options.Where = None,
    as_json: shared_options.AsJson = False,
    out: shared_options.Out = None,
) -> None:
    import golden_almanac as ga

    targets = shared_options.check_outputs(out, opening.source, replace=opening.replace)
    found = ga.regress(
        opening.table(shared_options.progress()), outcome, factor, intercept=not no_intercept, where=where
    )
    shared_options.clear_progress()
    report = found.report() if targets else None
    if report is not None:
        shared_options.write_outputs(report, targets, replace=opening.replace)
    screen.json_out(found.to_dict()) if as_json else outcome_output.regression(found)
