"""`golden-almanac growth`: growth against variability."""

from __future__ import annotations

from typing import Annotated

import typer

from . import screen, shared_options
from .source_options import Opening, reads

HELP = """Say how fast each label grew by the year, how much that varied, its worst fall and its way back.

\b
Examples:
  golden-almanac growth sailings.csv -m revenue -b route
  golden-almanac growth sailings.csv -m passengers -b vessel -o growth.html
"""


@reads
def growth(
    opening: Opening,
    measure: Annotated[str, typer.Option("-m", "--measure", metavar="MEASURE", help="A measure that adds up.")],
    by: Annotated[str, typer.Option("-b", "--by", metavar="COLUMN", help="The column of labels.")],
    time: shared_options.Time = None,
    grain: shared_options.Grain = None,
    where: shared_options.Where = None,
    as_json: shared_options.AsJson = False,
    out: shared_options.Out = None,
) -> None:
    import golden_almanac as ga

    targets = shared_options.check_outputs(out, opening.source, replace=opening.replace)
    found = ga.growth(opening.table(shared_options.progress()), measure, by, time=time, grain=grain, where=where)
    shared_options.clear_progress()
    if targets:
        shared_options.write_outputs(found.report(), targets, replace=opening.replace)
    screen.json_out(found.to_dict()) if as_json else screen.result(found, found.tables())
