"""`golden-almanac change`: why a measure changed."""

from __future__ import annotations

from typing import Annotated

import typer

from . import options, screen
from .opening import Opening, reads

HELP = """Explain why a measure changed between a period and its baseline.

Contributions add up to the change; an unfinished period is compared with the same days.

\b
Examples:
  golden-almanac change sailings.csv -m revenue
  golden-almanac change sailings.csv -m revenue --period 2025-Q3 --baseline year-ago
  golden-almanac change sailings.csv -m "avg(on_time)" --period 2025 --baseline 2024 -b route
"""


@reads
def change(
    opening: Opening,
    measure: Annotated[
        str | None,
        typer.Option(
            "-m", "--measure", metavar="SQL", show_default=False, help="An SQL aggregate, or a column's name."
        ),
    ] = None,
    period: Annotated[
        str | None,
        typer.Option(
            "--period",
            metavar="PERIOD",
            show_default=False,
            help="2025, 2025-Q3, 2025-08, 2025-W07 or A/B; the last complete one by default.",
        ),
    ] = None,
    baseline: Annotated[
        str | None,
        typer.Option("--baseline", metavar="PERIOD", show_default=False, help="previous, year-ago or a period."),
    ] = None,
    by: options.By = None,
    time: options.Time = None,
    grain: options.Grain = None,
    where: options.Where = None,
    top: Annotated[int, typer.Option("-n", "--top", min=1, help="Labels to show of each dimension.")] = 6,
    as_json: options.AsJson = False,
    out: options.Out = None,
) -> None:
    import golden_almanac as ga

    targets = options.check_outputs(out, opening.source)
    show = options.progress()
    opened = opening.table(show)
    found = ga.explain_change(
        opened, measure, period=period, baseline=baseline, by=by, time=time, grain=grain, where=where, progress=show
    )
    options.clear_progress()
    report = found.report() if targets else None
    if as_json:
        screen.json_out(found.to_dict())
    else:
        screen.change(found, top)
    if report is not None:
        options.write_outputs(report, targets)
