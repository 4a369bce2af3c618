"""`golden-almanac editions`: what was published of a brief."""

from __future__ import annotations

from typing import Annotated

import typer

from . import shared_options, streams

HELP = """List the editions of a brief, oldest first, with their headlines.

\b
Examples:
  golden-almanac editions monthly.toml
"""


def editions(
    brief: Annotated[str, typer.Argument(metavar="BRIEF", show_default=False, help="The brief, a TOML file.")],
    out: Annotated[
        str | None,
        typer.Option("--out", metavar="DIR", show_default=False, help="Their folder, where it is not the brief's."),
    ] = None,
    as_json: shared_options.AsJson = False,
) -> None:
    import golden_almanac as ga
    from golden_almanac.export.data_files import frame_records, json_bytes

    found = ga.editions(brief, out=out)
    if as_json:
        streams.say_bytes(json_bytes({"format": "golden-almanac/editions/1", "editions": frame_records(found)}))
        return
    if found.empty:
        streams.say(f"There are no editions of {brief} yet. Make one: golden-almanac publish {brief}")
    for row in found.to_dict("records"):
        mark = f"  ({row['alerts']} alerts)" if row["alerts"] else ""
        streams.say(f"{row['edition']:<14}{row['headline']}{mark}")
