"""`golden-almanac compare`: groups set against each other."""

from __future__ import annotations

from typing import Annotated

import typer

from . import screen, shared_options
from .source_options import Opening, reads

HELP = """Compare an outcome between groups: the test that fits, the size of the difference, what it means.

\b
Examples:
  golden-almanac compare sailings.csv -m delay_min -b vessel
  golden-almanac compare sailings.csv -m on_time -b region
  golden-almanac compare sailings.csv -m fare_class -b channel
  golden-almanac compare sailings.csv -m delay_min -b vessel -w "vessel IN ('Tern', 'Petrel')" -o compare.html
"""


@reads
def compare(
    opening: Opening,
    measure: Annotated[
        str, typer.Option("-m", "--measure", metavar="COLUMN", show_default=False, help="The column to compare.")
    ],
    by: Annotated[str, typer.Option("-b", "--by", metavar="COLUMN", show_default=False, help="The column of groups.")],
    paired: Annotated[
        str | None,
        typer.Option(
            "--paired", metavar="KEY", show_default=False, help="The column that says which rows belong together."
        ),
    ] = None,
    event: Annotated[
        str | None, typer.Option("--event", metavar="LABEL", show_default=False, help="The label that counts as yes.")
    ] = None,
    test: Annotated[
        str | None, typer.Option("--test", metavar="NAME", show_default=False, help="Another test than the one chosen.")
    ] = None,
    where: shared_options.Where = None,
    top: Annotated[int, typer.Option("-n", "--top", min=1, help="Groups and pairs to show.")] = 12,
    as_json: shared_options.AsJson = False,
    out: shared_options.Out = None,
) -> None:
    import golden_almanac as ga

    targets = shared_options.check_outputs(out, opening.source, replace=opening.replace)
    found = ga.compare(
        opening.table(shared_options.progress()), measure, by, paired=paired, event=event, test=test, where=where
    )
    shared_options.clear_progress()
    report = found.report() if targets else None
    if report is not None:
        shared_options.write_outputs(report, targets, replace=opening.replace)
    screen.json_out(found.to_dict()) if as_json else screen.result(found, found.tables(top), *found.assumptions())
