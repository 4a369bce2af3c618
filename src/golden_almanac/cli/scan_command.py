"""`golden-almanac scan`: ranked findings."""

from __future__ import annotations

import time as clock
from typing import Annotated

import typer

from . import grouped_help, screen, shared_options, streams
from .source_options import Opening, reads

HELP = """Find what matters in a table: trends, steps, spikes, seasons, leaders, differences, gaps, wrong rows.

With no options the dates, categories and numbers are found by themselves.

\b
Examples:
  golden-almanac scan sailings.csv
  golden-almanac scan sailings.csv -m "sum(revenue) / sum(passengers)" -b route
  golden-almanac scan sailings.csv -w "region = 'Outer Isles'" -o outer-isles.html
  golden-almanac scan sailings.csv -o ferries.html --switch route
"""
Kinds = Annotated[
    list[str] | None,
    grouped_help.option("-k", "--kind", metavar="KIND", text="Look only for this kind of finding. May be repeated."),
]

Focus = Annotated[
    list[str] | None,
    grouped_help.option(
        "--focus", metavar="COLUMN", text="Put this column first. May be repeated.", head=grouped_help.WEIGHT
    ),
]
Ignore = Annotated[
    list[str] | None,
    grouped_help.option(
        "--ignore", metavar="COLUMN", text="Leave this column out. May be repeated.", head=grouped_help.WEIGHT
    ),
]
Better = Annotated[
    list[str] | None,
    grouped_help.option(
        "--better",
        metavar="MEASURE=WAY",
        text='What is better, up or down: "avg(delay)=down". May be repeated.',
        head=grouped_help.WEIGHT,
    ),
]
Floors = Annotated[
    list[str] | None,
    grouped_help.option(
        "--floor",
        metavar="KIND=SIZE",
        text="Smaller effects of a kind are not told (units: --kinds). May be repeated.",
        head=grouped_help.WEIGHT,
    ),
]


def _kinds(asked: bool) -> None:
    if asked:
        from ..api.scan import finding_floors, finding_kinds

        floors = finding_floors()
        for kind, what in finding_kinds().items():
            streams.say(f"{kind:<14}{what}")
            if kind in floors:
                size, unit = floors[kind]
                streams.say(f"{'':<14}not told below {size:g} {unit} (--floor {kind}=…)")
        raise typer.Exit


@reads
def scan(
    opening: Opening,
    measure: shared_options.Measures = None,
    by: shared_options.By = None,
    time: shared_options.Time = None,
    grain: shared_options.Grain = None,
    where: shared_options.Where = None,
    kind: Kinds = None,
    focus: Focus = None,
    ignore: Ignore = None,
    better: Better = None,
    floor: Floors = None,
    least_rows: Annotated[
        int,
        typer.Option(
            "--least-rows",
            min=0,
            help="Groups with fewer rows are not told of by themselves.",
            rich_help_panel=grouped_help.WEIGHT,
        ),
    ] = 0,
    notes: shared_options.Notes = None,
    top: Annotated[int, typer.Option("-n", "--top", min=1, help="Findings to show.")] = 10,
    everything: Annotated[
        bool, typer.Option("--all", help="Show all findings, folded ones too, with the reason.")
    ] = False,
    kinds: Annotated[
        bool, typer.Option("--kinds", is_eager=True, callback=_kinds, help="List the kinds of finding, and leave.")
    ] = False,
    plan: Annotated[
        bool,
        grouped_help.flag(
            "--plan", text="Show how the groups were made, in place of findings.", head=grouped_help.WORK
        ),
    ] = False,
    dry_run: Annotated[
        bool,
        grouped_help.flag(
            "--dry-run",
            text="Say what would be asked and sent, and of how many rows; ask nothing.",
            head=grouped_help.WORK,
        ),
    ] = False,
    switch: Annotated[
        list[str] | None,
        grouped_help.option(
            "--switch",
            metavar="COLUMN",
            text="On the page, let the reader pick one of its labels; of two columns, one of each.",
            head=grouped_help.PAGE,
        ),
    ] = None,
    pages: Annotated[
        str | None,
        grouped_help.option(
            "--pages",
            metavar="COLUMN",
            text="Behind the overview, a page for each of its labels.",
            head=grouped_help.PAGE,
        ),
    ] = None,
    length: shared_options.Length = "standard",
    as_json: shared_options.AsJson = False,
    out: shared_options.Out = None,
) -> None:
    import golden_almanac as ga

    targets = shared_options.check_outputs(out, opening.source, replace=opening.replace)
    shared_options.check_length(length)
    shared_options.refuse_together({"--plan": plan, "--json": as_json})
    shared_options.refuse_together({"--all": everything, "--json": as_json})
    if pages is not None and not targets:
        raise ga.RequestError("--pages", pages, "left out where no report is written (--out)")
    if switch and not any(target.suffix.lower() == ".html" for target in targets):
        raise ga.RequestError("--switch", switch[0], "left out where no page is written (--out FILE.html)")
    ways = shared_options.pairs("--better", better, 'a measure and a way, such as "avg(delay)=down"')
    floors = {
        key: shared_options.number("--floor", text)
        for key, text in shared_options.pairs("--floor", floor, "trend=10").items()
    }
    if dry_run:
        from ..api.expected_work import expected_work

        for line in expected_work(opening.source, table=opening.choice["table"], query=opening.choice["query"]):
            streams.say(line)
        return
    began = clock.perf_counter()
    show = shared_options.progress()
    opened = opening.table(show)
    found = ga.scan(
        opened,
        measures=measure,
        by=by,
        time=time,
        grain=grain,
        where=where,
        kinds=kind,
        focus=focus,
        ignore=ignore,
        better=ways,
        floors=floors,
        least_rows=least_rows,
        notes=notes,
        progress=show,
    )
    report = found.report(progress=show, switch=switch, pages=pages) if targets else None
    shared_options.clear_progress()
    if report is not None:
        shared_options.write_outputs(report, targets, replace=opening.replace)
    if plan:
        streams.say(found.plan())
    elif as_json:
        screen.json_out(found.to_dict())
    else:
        screen.scan(found, top, everything=everything, length=length)
    streams.tell(
        f"{found.result.survey.table.rows:,} rows, {found.tests:,} tests, {clock.perf_counter() - began:.1f} s"
    )
