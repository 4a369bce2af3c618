"""`golden-almanac total`: measures added up by labels and periods."""

from __future__ import annotations

from typing import Annotated

import typer

from . import screen, shared_options
from .source_options import Opening, reads

HELP = """Add up measures by labels and periods, rank them, set them against another span; with the SQL.

\b
Examples:
  golden-almanac total sailings.csv -m revenue -b route --period 2025
  golden-almanac total sailings.csv -m passengers -g month -o passengers.html
  golden-almanac total sailings.csv -m revenue -b route --period 2024 --baseline 2023 --order descending -n 3
"""


def _wish(name: str, metavar: str, text: str) -> typer.models.OptionInfo:
    found: typer.models.OptionInfo = typer.Option(name, metavar=metavar, show_default=False, help=text)
    return found


@reads
def total(
    opening: Opening,
    measures: shared_options.Measures = None,
    by: shared_options.By = None,
    time: shared_options.Time = None,
    grain: shared_options.Grain = None,
    cycle: Annotated[
        str | None, _wish("--cycle", "PART", "weekday, month of the year or quarter of the year to break down by.")
    ] = None,
    where: shared_options.Where = None,
    period: Annotated[str | None, _wish("--period", "PERIOD", "2025, 2025-08, 2025-Q3, A/B or 'last 30 days'.")] = None,
    baseline: Annotated[
        str | None, _wish("--baseline", "PERIOD", "Set against this span: previous, year-ago or a period.")
    ] = None,
    per: Annotated[str | None, _wish("--per", "GRAIN", "The average of the totals of whole periods.")] = None,
    share: Annotated[bool, typer.Option("--share", help="Each group's share of all.")] = False,
    running: Annotated[bool, typer.Option("--running", help="Sums so far, over the periods.")] = False,
    order: Annotated[str | None, _wish("--order", "WAY", "descending or ascending.")] = None,
    ranked_by: Annotated[
        str, typer.Option("--ranked-by", metavar="WHAT", help="Order by value, change or change_pct.")
    ] = "value",
    top: Annotated[
        int | None, typer.Option("-n", "--top", metavar="N", show_default=False, help="So many groups.")
    ] = None,
    above: Annotated[
        float | None, typer.Option("--above", metavar="X", show_default=False, help="Groups above X.")
    ] = None,
    below: Annotated[
        float | None, typer.Option("--below", metavar="X", show_default=False, help="Groups below X.")
    ] = None,
    kind: Annotated[str | None, _wish("--kind", "CHART", "The kind of chart: line, bars, grouped, stacked …")] = None,
    as_json: shared_options.AsJson = False,
    out: shared_options.Out = None,
) -> None:
    import golden_almanac as ga

    targets = shared_options.check_outputs(out, opening.source, replace=opening.replace)
    found = ga.total(
        opening.table(shared_options.progress()), measures, by=by, time=time, grain=grain, cycle=cycle, where=where,
        period=period, baseline=baseline, per=per, share=share, running=running, order=order, ranked_by=ranked_by,
        top=top, above=above, below=below, kind=kind,
    )  # fmt: skip
    shared_options.clear_progress()
    if targets:
        shared_options.write_outputs(found.report(), targets, replace=opening.replace)
    screen.json_out(found.to_dict()) if as_json else screen.result(found, found.tables())
