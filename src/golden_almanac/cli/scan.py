"""`golden-almanac scan`: ranked findings."""

from __future__ import annotations

import time as clock
from typing import Annotated

import typer

from . import options, screen
from .opening import Opening, reads

HELP = """Find what matters in a table: trends, steps, spikes, seasons, leaders, differences, gaps, wrong rows.

With no options the dates, categories and numbers are found by themselves.

\b
Examples:
  golden-almanac scan sailings.csv
  golden-almanac scan sailings.csv -m "sum(revenue) / sum(passengers)" -b route
  golden-almanac scan sailings.csv -w "region = 'Outer Isles'" -o outer-isles.html
"""

Measures = Annotated[
    list[str] | None,
    typer.Option(
        "-m",
        "--measure",
        metavar="SQL",
        show_default=False,
        help="An SQL aggregate, or a column's name. May be repeated.",
    ),
]
Kinds = Annotated[
    list[str] | None,
    typer.Option(
        "-k", "--kind", metavar="KIND", show_default=False, help="Look only for this kind of finding. May be repeated."
    ),
]


def _kinds(asked: bool) -> None:
    if asked:
        import golden_almanac as ga

        for kind, what in ga.finding_kinds().items():
            typer.echo(f"{kind:<13}{what}")
        raise typer.Exit


@reads
def scan(
    opening: Opening,
    measure: Measures = None,
    by: options.By = None,
    time: options.Time = None,
    grain: options.Grain = None,
    where: options.Where = None,
    kind: Kinds = None,
    top: Annotated[int, typer.Option("-n", "--top", min=1, help="Findings to show.")] = 10,
    kinds: Annotated[
        bool, typer.Option("--kinds", is_eager=True, callback=_kinds, help="List the kinds of finding, and leave.")
    ] = False,
    plan: Annotated[bool, typer.Option("--plan", help="Show how the groups were made, in place of findings.")] = False,
    as_json: options.AsJson = False,
    out: options.Out = None,
) -> None:
    import golden_almanac as ga

    targets = options.check_outputs(out, opening.source)
    began = clock.perf_counter()
    show = options.progress()
    opened = opening.table(show)
    found = ga.scan(opened, measures=measure, by=by, time=time, grain=grain, where=where, kinds=kind, progress=show)
    report = found.report(progress=show) if targets else None
    options.clear_progress()
    if plan:
        typer.echo(found.plan())
    elif as_json:
        screen.json_out(found.to_dict())
    else:
        screen.scan(found, top)
    if report is not None:
        options.write_outputs(report, targets)
    typer.echo(
        f"{found.result.survey.table.rows:,} rows, {found.tests:,} tests, {clock.perf_counter() - began:.1f} s",
        err=True,
    )
