"""`golden-almanac relate`: how two columns of numbers go together."""

from __future__ import annotations

from typing import Annotated

import typer

from . import screen, shared_options
from .source_options import Opening, reads

HELP = """Say how one column of numbers goes with another: correlation with its range, the fit, the shape.

\b
Examples:
  golden-almanac relate sailings.csv -x passengers -y revenue
  golden-almanac relate sailings.csv -x capacity -y fuel_cost -o relation.html
"""


@reads
def relate(
    opening: Opening,
    x: Annotated[str, typer.Option("-x", metavar="COLUMN", show_default=False, help="The column along the axis.")],
    y: Annotated[str, typer.Option("-y", metavar="COLUMN", show_default=False, help="The column that goes with it.")],
    where: shared_options.Where = None,
    as_json: shared_options.AsJson = False,
    out: shared_options.Out = None,
) -> None:
    import golden_almanac as ga

    targets = shared_options.check_outputs(out, opening.source, replace=opening.replace)
    found = ga.relate(opening.table(shared_options.progress()), x, y, where=where)
    shared_options.clear_progress()
    report = found.report() if targets else None
    if report is not None:
        shared_options.write_outputs(report, targets, replace=opening.replace)
    screen.json_out(found.to_dict()) if as_json else screen.result(found, found.tables())
