"""The commands put together, and what happens when one fails."""

from __future__ import annotations

import os
import sys
from typing import NoReturn

import typer

from . import change, check, compare, demo, drivers, options, publish, regress, relate, scan

app = typer.Typer(
    name="golden-almanac",
    no_args_is_help=True,
    add_completion=False,
    rich_markup_mode=None,
    pretty_exceptions_enable=False,
    help="Scan a business table for what matters, say why it changed, and publish it: every figure can be added up "
    "again.\n\nStart with: golden-almanac demo",
)
app.command("demo", help=demo.HELP)(demo.demo)
app.command("check", help=check.HELP)(check.check)
app.command("scan", help=scan.HELP)(scan.scan)
app.command("change", help=change.HELP)(change.change)
app.command("drivers", help=drivers.HELP)(drivers.drivers)
app.command("compare", help=compare.HELP)(compare.compare)
app.command("relate", help=relate.HELP)(relate.relate)
app.command("regress", help=regress.HELP)(regress.regress)
app.command("publish", help=publish.HELP)(publish.publish)


def _version(asked: bool) -> None:
    if asked:
        import golden_almanac as ga

        typer.echo(f"golden-almanac {ga.__version__}")
        raise typer.Exit


@app.callback()
def _common(
    version: bool = typer.Option(
        False, "--version", callback=_version, is_eager=True, help="Show the version and leave."
    ),
) -> None:
    """Options before the command."""


def main() -> NoReturn:
    """Entry point: 0 done, 2 when the request or the data cannot be used."""
    # Our matrices are small: threads in the linear algebra only cost time, and could change a last digit.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    try:
        app(standalone_mode=True)
    except KeyboardInterrupt:
        options.clear_progress()
        print("Stopped.", file=sys.stderr)  # noqa: T201
        raise SystemExit(130) from None
    except BrokenPipeError:
        # Whoever read our output has seen enough.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        raise SystemExit(0) from None
    except Exception as problem:
        import golden_almanac as ga

        options.clear_progress()
        if isinstance(problem, ga.AlmanacError):
            print(problem, file=sys.stderr)  # noqa: T201
            raise SystemExit(2) from None
        raise
    raise SystemExit(0)
