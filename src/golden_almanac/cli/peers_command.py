"""`golden-almanac peers`: own figures beside those of peers."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated

import typer

from . import screen, shared_options
from .source_options import Opening, reads

HELP = """Set own figures beside peers at the same size: ahead, behind, what the gap is worth.

\b
Examples:
  golden-almanac peers own.csv operators.csv
  golden-almanac peers own.csv operators.csv --size revenue --category trade -o peers.html
"""


@reads
def peers(
    opening: Opening,
    others: Annotated[str, typer.Argument(metavar="PEERS", help="The table of peers.", show_default=False)],
    measure: Annotated[
        list[str] | None,
        typer.Option("-m", "--measure", metavar="COLUMN", show_default=False, help="A figure; else all in common."),
    ] = None,
    per: Annotated[
        list[str] | None,
        typer.Option("--per", metavar="COLUMN", show_default=False, help="Told per this; else per revenue."),
    ] = None,
    size: Annotated[
        str | None, typer.Option("--size", metavar="COLUMN", show_default=False, help="Peers of about this size.")
    ] = None,
    category: Annotated[
        str | None, typer.Option("--category", metavar="COLUMN", show_default=False, help="Peers of the same label.")
    ] = None,
    named: Annotated[
        list[str] | None, typer.Option("--peers", metavar="NAME", show_default=False, help="Peers by name.")
    ] = None,
    better: Annotated[
        list[str] | None,
        typer.Option("--better", metavar="COLUMN=WAY", show_default=False, help="Which way is better: up or down."),
    ] = None,
    where: shared_options.Where = None,
    as_json: shared_options.AsJson = False,
    out: shared_options.Out = None,
) -> None:
    import golden_almanac as ga

    targets = shared_options.check_outputs(out, opening.source, replace=opening.replace)
    ways = shared_options.pairs("--better", better, 'a column and a way, such as "dues=down"')
    show = shared_options.progress()
    own = opening.table(show)
    # Both tables are read alike: what is private in one is so in the other, or refused where it is not there.
    table = replace(opening, source=others, joins=()).table(show)
    found = ga.peers(
        own, table, measure, per=per, size=size, category=category, named=named, better=ways, where=where, progress=show
    )
    shared_options.clear_progress()
    if targets:
        shared_options.write_outputs(found.report(), targets, replace=opening.replace)
    screen.json_out(found.to_dict()) if as_json else screen.result(found, found.tables())
