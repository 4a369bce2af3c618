"""`golden-almanac demo`: the whole job on made-up data."""

from __future__ import annotations

import time as clock
from dataclasses import replace
from pathlib import Path
from typing import Annotated

import typer

from . import screen, shared_options, streams

HELP = """Write the data of a made-up ferry company, publish its report, and say where to look.

\b
Examples:
  golden-almanac demo
  golden-almanac demo --to ferries
"""


def demo(to: Annotated[str, typer.Option("--to", metavar="DIR", help="Where to write.")] = "almanac-demo") -> None:
    import golden_almanac as ga

    from ..api.draw import gallery
    from ..api.table_report import table_report
    from ..export.files import write_whole

    began = clock.perf_counter()
    show = shared_options.progress()
    folder = Path(to)
    show("writing the sailings")
    sailings = ga.write_demo(folder)
    review = table_report(sailings, notes=folder / "notes.csv", progress=show)
    report = review.report(title="Pellow Sound Ferries")
    formats = ["html", "pdf", "pptx", "docx", "xlsx", "md", "eml", "json", "png", "svg"]
    written = report.publish(folder, formats=formats, progress=show)
    show("drawing the gallery")
    for place, chart in enumerate(gallery(sailings), start=1):
        write_whole(folder / "gallery" / f"{place:02d}-{chart.name.split('-')[0]}.png", chart.png())
    show("following the holders of season passes")
    passes = ga.cohorts(folder / "trips.csv", "pass_id", "day", measure="sum(fare)", by=["channel"])
    passes.report(title="Season passes").write(folder / "cohorts.html")
    # What is to be done is known from the scan that was made.
    figures = replace(ga.key_figures(sailings, steps=False), found=review.found)
    figures.report(title="Key figures").write(folder / "figures.html")
    show("reviewing the ledger, and beside peers")
    ga.review_ledger(folder / "ledger.csv", "account").report(title="The books").write(folder / "ledger.html")
    beside = ga.peers(folder / "own.csv", folder / "operators.csv", size="revenue", category="trade")
    beside.report(title="Beside other operators").write(folder / "peers.html")
    printed = ga.table_of(sailings, ["region", "route"], ["2024-Q3", "2025-Q3"], ["sum(revenue)"])
    printed.report(title="Revenue by region and route").write(folder / "table.html")
    shared_options.clear_progress()
    found = review.found
    screen.show(screen.terminal(), review.lines(10))
    charts = sum(path.suffix == ".png" for path in written)
    streams.say(
        f"\nDone in {clock.perf_counter() - began:.1f} s: {found.result.survey.table.rows:,} rows, "
        f"{found.tests:,} tests."
    )
    streams.say(f"  {folder / 'report.html'}    the page, ready to send")
    streams.say(f"  {folder / 'report.pdf'}     the same as .pdf, .pptx, .docx, .xlsx, .md and as a mail (.eml)")
    streams.say(f"  {folder / 'charts'}/         its {charts} charts, as PNG and SVG")
    streams.say(f"  {folder / 'gallery'}/        every kind of chart that ga.draw makes of a frame")
    streams.say(f"  {folder / 'findings.json'}  every finding with its figures and the SQL that checks them")
    streams.say(f"  {folder / 'figures.html'}   key figures, each with whether to look")
    streams.say(f"  {folder / 'cohorts.html'}   who of those with a season pass stay, from {folder / 'trips.csv'}")
    streams.say(f"  {folder / 'ledger.html'}    what to ask of the books, from {folder / 'ledger.csv'}")
    streams.say(f"  {folder / 'peers.html'}     where the company stands, from {folder / 'operators.csv'}")
    streams.say(f"  {folder / 'table.html'}     a table to print: region and route, this summer and the last")
    streams.say(f"  {sailings}   the data; what is planted in it stands in {folder / 'stories.toml'}")
    streams.say(f"  {folder / 'notes.csv'}  what the company knows, set beside the findings of that time")
    streams.say(f"  {folder / 'harbour-office.xlsx'}  a workbook with every disease: golden-almanac check it")
    streams.say("\nNow try it on a table of your own:  golden-almanac scan your-own.csv")
