"""`golden-almanac publish`: a report as a brief asks for it."""

from __future__ import annotations

import time as clock
from typing import Annotated

import typer

from . import shared_options, streams

HELP = """Publish what a brief asks for: a TOML file that says what to read, measure and send, and to whom.

\b
Examples:
  golden-almanac publish monthly.toml
  golden-almanac publish monthly.toml --out october --replace
"""


def publish(
    brief: Annotated[str, typer.Argument(metavar="BRIEF", show_default=False, help="The brief, a TOML file.")],
    out: Annotated[
        str | None, typer.Option("--out", metavar="DIR", show_default=False, help="A folder in place of the brief's.")
    ] = None,
    replace: Annotated[
        bool, typer.Option("--replace", help="Write over files that this program did not make.")
    ] = False,
) -> None:
    import golden_almanac as ga

    began = clock.perf_counter()
    show = shared_options.progress()
    written = ga.publish_brief(brief, out=out, replace=replace, progress=show)
    shared_options.clear_progress()
    for path in written:
        if path.parent.name != "charts":
            streams.say(path)
    streams.tell(f"{len(written)} files, {clock.perf_counter() - began:.1f} s")
