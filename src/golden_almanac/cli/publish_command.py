"""`golden-almanac publish`: the whole report of a table, or an edition of what a brief asks for."""

from __future__ import annotations

import time as clock
from pathlib import Path
from typing import Annotated

import typer

from . import shared_options, streams

HELP = """Publish the whole report of a table; or of a brief (a TOML file), a new edition.

The report: the last complete period and why it changed, what happened over the longer run, what goes with the measure
people worry about, what to expect, what to do.

\b
Examples:
  golden-almanac publish sailings.csv
  golden-almanac publish sailings.csv -m revenue --notes notes.csv --out october --format html --format pdf
  golden-almanac publish monthly.toml
  golden-almanac publish monthly.toml --as-of 2025-08-31
"""

Formats = Annotated[
    list[str] | None,
    typer.Option("--format", metavar="FORMAT", show_default=False, help="Of a table: html, pdf, pptx, … Repeatable."),
]


def publish(
    source: Annotated[
        str, typer.Argument(metavar="SOURCE", show_default=False, help="A table, or a brief (a TOML file).")
    ],
    measure: shared_options.Measures = None,
    by: shared_options.By = None,
    time: shared_options.Time = None,
    grain: shared_options.Grain = None,
    where: shared_options.Where = None,
    period: Annotated[
        str | None, typer.Option("--period", metavar="PERIOD", show_default=False, help="The period reported on.")
    ] = None,
    baseline: Annotated[
        str | None, typer.Option("--baseline", metavar="PERIOD", show_default=False, help="What it is compared with.")
    ] = None,
    notes: shared_options.Notes = None,
    title: Annotated[
        str | None, typer.Option("--title", metavar="TEXT", show_default=False, help="Of a table: the title.")
    ] = None,
    formats: Formats = None,
    out: Annotated[
        str | None,
        typer.Option("--out", metavar="DIR", show_default=False, help="A folder in place of the brief's, or report."),
    ] = None,
    as_of: Annotated[
        str | None,
        typer.Option("--as-of", metavar="DATE", show_default=False, help="Of a brief: make the edition of that day."),
    ] = None,
    accept: Annotated[
        bool, typer.Option("--accept", help="Of a brief: go on though the source lost columns since the last edition.")
    ] = False,
    replace: Annotated[
        bool, typer.Option("--replace", help="Write over files that this program did not make.")
    ] = False,
    quiet: Annotated[
        bool, typer.Option("--quiet", help="Say nothing but what went wrong, and which alerts of a brief fired.")
    ] = False,
    verbose: Annotated[bool, typer.Option("-v", "--verbose", help="Say each step on standard error.")] = False,
    log: Annotated[
        str | None,
        typer.Option("--log", metavar="FILE", show_default=False, help="Of a brief: log the run as JSON lines."),
    ] = None,
) -> None:
    import golden_almanac as ga

    began = clock.perf_counter()
    shared_options.refuse_together({"--quiet": quiet, "--verbose": verbose})
    streams.speak(quiet=quiet, verbose=verbose)
    show = shared_options.progress()
    of_table = {
        "--measure": measure, "--by": by, "--time": time, "--grain": grain, "--where": where, "--period": period,
        "--baseline": baseline, "--notes": notes, "--title": title, "--format": formats,
    }  # fmt: skip
    if not source.lower().endswith(".toml"):
        for name, given in (("--as-of", as_of), ("--accept", accept), ("--log", log)):
            if given:
                raise ga.RequestError(name, given, "left out where no brief is published")
        from ..api.table_report import table_report
        from ..export.formats import FORMATS

        for name in formats or ():
            if name not in FORMATS:
                raise ga.RequestError("--format", name, "one of " + ", ".join(FORMATS))
        found = table_report(
            source, measures=measure, by=by, time=time, grain=grain, where=where, period=period, baseline=baseline,
            notes=notes, progress=show,
        )  # fmt: skip
        report = found.report(title)
        written = report.publish(Path(out or "report"), formats or ("html", "json"), replace=replace, progress=show)
        shared_options.clear_progress()
        if not quiet:
            streams.say(report.model.summary.headline)
            _listed(written)
        streams.tell(f"{len(written)} files, {clock.perf_counter() - began:.1f} s")
        return
    for name, value in of_table.items():
        if value:
            raise ga.RequestError(name, str(value), "said in the brief")
    from ..support.run_log import logged

    with logged(log, verbose=verbose):
        edition = ga.publish_brief(
            source, out=out, as_of=as_of, accept=accept, replace=replace, progress=(lambda _: None) if verbose else show
        )
    shared_options.clear_progress()
    if not quiet:
        streams.say(edition.headline)
        _listed(edition.files)
        for text in edition.notices:
            streams.say(text)
        streams.tell(f"edition {edition.name}: {len(edition.files)} files, {clock.perf_counter() - began:.1f} s")
    for text in edition.alerts:
        streams.say(text)
    if edition.alerts:
        raise typer.Exit(1)


def _listed(paths: list[Path] | tuple[Path, ...]) -> None:
    for path in paths:
        if path.parent.name not in ("charts", "cells"):
            streams.say(path)
