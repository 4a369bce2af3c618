"""`golden-almanac brief`: a first brief of a source, or the schema of briefs."""

from __future__ import annotations

from typing import Annotated

import typer

from . import shared_options, streams

HELP = """Write a first brief of a source, commented, that runs as it stands; its comments say why each choice was made.

\b
Examples:
  golden-almanac brief sailings.csv
  golden-almanac brief sailings.csv --out monthly.toml
  golden-almanac brief --schema
"""


def brief(
    source: Annotated[
        str | None, typer.Argument(metavar="SOURCE", show_default=False, help="A file with a table.")
    ] = None,
    out: Annotated[
        str | None,
        typer.Option("--out", metavar="FILE", show_default=False, help="The brief; by default beside the source."),
    ] = None,
    schema: Annotated[
        bool, typer.Option("--schema", help="Write the JSON Schema of briefs to standard output.")
    ] = False,
    replace: Annotated[
        bool, typer.Option("--replace", help="Write over files that this program did not make.")
    ] = False,
) -> None:
    import golden_almanac as ga

    if schema:
        from ..reports.brief_model import brief_schema

        streams.say_bytes(brief_schema().encode("utf-8"))
        return
    if source is None:
        raise ga.RequestError("The source", "", "a file with a table, or --schema")
    path = ga.write_brief(source, out, replace=replace, progress=shared_options.progress())
    shared_options.clear_progress()
    streams.say(path)
    streams.tell(f"Now: golden-almanac publish {path}")
