"""`golden-almanac verify`: every figure of an edition, computed again."""

from __future__ import annotations

from typing import Annotated

import typer

from . import shared_options, streams

HELP = """Compute every figure of a published edition again from the source, and compare it with what the files say.

Leaves with status 1 where anything differs, and names it.

\b
Examples:
  golden-almanac verify editions/2025-09-30
"""


def verify(
    edition: Annotated[str, typer.Argument(metavar="EDITION", show_default=False, help="The folder of an edition.")],
    as_json: shared_options.AsJson = False,
) -> None:
    import golden_almanac as ga
    from golden_almanac.export.data_files import json_bytes

    found = ga.verify(edition, progress=shared_options.progress())
    shared_options.clear_progress()
    if as_json:
        streams.say_bytes(json_bytes(found.to_dict()))
    else:
        for line in found.lines():
            streams.say(line)
    if not found.agrees:
        raise typer.Exit(1)
