"""`golden-almanac forecast`: what to expect of a measure."""

from __future__ import annotations

from typing import Annotated

import typer

from . import screen, shared_options
from .source_options import Opening, reads

HELP = """Say what to expect of a measure in the periods ahead, with ranges, and how sure that is.

\b
Examples:
  golden-almanac forecast sailings.csv -m revenue
  golden-almanac forecast sailings.csv -m passengers --periods 12 -b route -o outlook.html
  golden-almanac forecast sailings.csv -m revenue --periods 3 --target 13000000 --events events.csv
"""


@reads
def forecast(
    opening: Opening,
    measure: Annotated[str, typer.Option("-m", "--measure", metavar="MEASURE", help="Column or SQL aggregate.")],
    periods: Annotated[int, typer.Option("--periods", metavar="N", help="Periods ahead.")] = 6,
    by: Annotated[
        str | None,
        typer.Option(
            "-b", "--by", metavar="COLUMN", show_default=False, help="Forecast each label of this column too."
        ),
    ] = None,
    time: shared_options.Time = None,
    grain: shared_options.Grain = None,
    where: shared_options.Where = None,
    events: Annotated[
        str | None,
        typer.Option(
            "--events", metavar="FILE", show_default=False, help="Known events: a CSV with from, to and note."
        ),
    ] = None,
    target: Annotated[
        float | None,
        typer.Option("--target", metavar="VALUE", show_default=False, help="What the year should come to."),
    ] = None,
    as_json: shared_options.AsJson = False,
    out: shared_options.Out = None,
) -> None:
    import golden_almanac as ga

    targets = shared_options.check_outputs(out, opening.source, replace=opening.replace)
    found = ga.forecast(
        opening.table(shared_options.progress()),
        measure,
        periods,
        by=by,
        time=time,
        grain=grain,
        where=where,
        events=events,
        target=target,
    )
    shared_options.clear_progress()
    if targets:
        shared_options.write_outputs(found.report(), targets, replace=opening.replace)
    screen.json_out(found.to_dict()) if as_json else screen.result(found, found.tables())
