"""`golden-almanac figures`: key figures of a span."""

from __future__ import annotations

from typing import Annotated

import typer

from . import screen, shared_options
from .source_options import Opening, reads

HELP = """Say of a handful of figures whether to look: value, change, usual range; then what to do.

\b
Examples:
  golden-almanac figures sailings.csv
  golden-almanac figures sailings.csv --period "last 30 days" -m revenue -m "avg(delay_min)" -o figures.html
"""


@reads
def figures(
    opening: Opening,
    measure: shared_options.Measures = None,
    period: Annotated[
        str | None, typer.Option("--period", metavar="PERIOD", show_default=False, help='2025-08, or "last 30 days".')
    ] = None,
    target: Annotated[
        list[str] | None,
        typer.Option("--target", metavar="MEASURE=VALUE", show_default=False, help="What a measure should come to."),
    ] = None,
    better: Annotated[
        list[str] | None,
        typer.Option("--better", metavar="MEASURE=WAY", show_default=False, help="Which way is better: up or down."),
    ] = None,
    time: shared_options.Time = None,
    grain: shared_options.Grain = None,
    where: shared_options.Where = None,
    as_json: shared_options.AsJson = False,
    out: shared_options.Out = None,
) -> None:
    import golden_almanac as ga

    targets = shared_options.check_outputs(out, opening.source, replace=opening.replace)
    aims = {
        key: shared_options.number("--target", text)
        for key, text in shared_options.pairs("--target", target, '"sum(revenue)=1000000"').items()
    }
    ways = shared_options.pairs("--better", better, 'a measure and a way, such as "avg(delay)=down"')
    table = opening.table(shared_options.progress())
    found = ga.key_figures(
        table, measure, period=period, targets=aims, better=ways, time=time, grain=grain, where=where
    )
    shared_options.clear_progress()
    if targets:
        shared_options.write_outputs(found.report(), targets, replace=opening.replace)
    screen.json_out(found.to_dict()) if as_json else screen.result(found, found.tables())
