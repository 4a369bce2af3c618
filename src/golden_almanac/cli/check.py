"""`golden-almanac check`: is the table fit to report from?"""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

import typer

from . import options, screen

HELP = """Say whether a table is fit to report from: what was mended, what awaits an answer.

\b
Examples:
  golden-almanac check sailings.csv
  golden-almanac check harbour-office.xlsx --sheet "Quay dues"
  golden-almanac check harbour-office.xlsx --fix quay-dues.csv
  golden-almanac check sailings.csv --sql "SELECT route, sum(revenue) FROM source GROUP BY 1"
"""


def check(
    source: options.Source,
    sheet: options.Sheet = None,
    table: options.TableName = None,
    query: options.Query = None,
    sql: Annotated[
        str | None,
        typer.Option(
            "--sql", metavar="SELECT", show_default=False, help="Run one SELECT over the table, named source."
        ),
    ] = None,
    fix: Annotated[
        str | None,
        typer.Option(
            "--fix", metavar="FILE", show_default=False, help="Write the table after its repairs (.csv, .parquet)."
        ),
    ] = None,
    as_json: options.AsJson = False,
) -> None:
    import golden_almanac as ga

    target = None if fix is None else Path(fix)
    if target is not None:
        ga.check_target(target, source, (".csv", ".parquet"))
    found = ga.check(source, sheet=sheet, table=table, query=query)
    if sql is not None:
        screen.frame(found.table.sql(sql), as_json)
        return
    if as_json:
        screen.json_out(found.to_dict())
    else:
        screen.readiness(found)
    if target is not None:
        ga.write_whole(target, ga.table_bytes(found.table, target.suffix))
        typer.echo(f"wrote {target}: {found.table.rows:,} rows", err=True)
