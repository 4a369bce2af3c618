"""`golden-almanac change`: why a measure changed."""

from __future__ import annotations

from typing import Annotated, Any

import typer

from . import screen, shared_options
from .source_options import Opening, reads

HELP = """Explain why a measure changed between a period and its baseline.

Contributions add up to the change; an unfinished period is compared with the same days.

\b
Examples:
  golden-almanac change sailings.csv -m revenue
  golden-almanac change sailings.csv -m revenue --period 2025-Q3 --baseline year-ago
  golden-almanac change sailings.csv -m "avg(on_time)" --period 2025 --baseline 2024 -b route
  golden-almanac change sailings.csv -m revenue --baseline previous --baseline year-ago
  golden-almanac change sailings.csv --every-measure --period "last 30 days"
"""


@reads
def change(
    opening: Opening,
    measure: Annotated[
        list[str] | None,
        typer.Option(
            "-m",
            "--measure",
            metavar="SQL",
            show_default=False,
            help="An SQL aggregate, or a column's name. May be repeated: several are told as one story.",
        ),
    ] = None,
    every: Annotated[
        bool, typer.Option("--every-measure", help="Explain all measures that a scan would take.")
    ] = False,
    period: Annotated[
        str | None,
        typer.Option(
            "--period",
            metavar="PERIOD",
            show_default=False,
            help="2025, 2025-Q3, 2025-08, 2025-W07, A/B or 'last 30 days'; the last complete one by default.",
        ),
    ] = None,
    baseline: Annotated[
        list[str] | None,
        typer.Option(
            "--baseline", metavar="PERIOD", show_default=False, help="previous, year-ago or a period. May be repeated."
        ),
    ] = None,
    identity: Annotated[
        str | None,
        typer.Option(
            "--identity",
            metavar="TEXT",
            show_default=False,
            help="What the measure's column is made of: 'profit = revenue - cost'. Found by itself where it holds.",
        ),
    ] = None,
    notes: shared_options.Notes = None,
    by: shared_options.By = None,
    time: shared_options.Time = None,
    grain: shared_options.Grain = None,
    where: shared_options.Where = None,
    top: Annotated[int, typer.Option("-n", "--top", min=1, help="Labels to show of each dimension.")] = 6,
    length: shared_options.Length = "standard",
    as_json: shared_options.AsJson = False,
    out: shared_options.Out = None,
) -> None:
    import golden_almanac as ga

    targets = shared_options.check_outputs(out, opening.source, replace=opening.replace)
    shared_options.check_length(length)
    shared_options.refuse_together({"--measure": measure, "--every-measure": every})
    show = shared_options.progress()
    opened = opening.table(show)
    asked: dict[str, Any] = {
        "by": by,
        "time": time,
        "grain": grain,
        "where": where,
        "identity": identity,
        "notes": notes,
    }
    several = every or len(measure or ()) > 1 or len(baseline or ()) > 1
    found: Any
    if several:
        wanted = None if every else measure
        found = ga.explain_changes(opened, wanted, period=period, baseline=baseline, progress=show, **asked)
    else:
        one, then = (names[0] if names else None for names in (measure, baseline))
        found = ga.explain_change(opened, one, period=period, baseline=then, progress=show, **asked)
    shared_options.clear_progress()
    report = found.report() if targets else None
    if report is not None:
        shared_options.write_outputs(report, targets, replace=opening.replace)
    if as_json:
        screen.json_out(found.to_dict())
    elif several:
        screen.changes(found)
    else:
        screen.change(found, top, length)
