"""The commands put together, and what happens when one fails."""

from __future__ import annotations

import os
import re
import sys
from collections.abc import Iterable
from importlib import import_module
from typing import Any, NoReturn

import typer

from . import first_look, shared_options, streams
from .grouped_help import GroupedCommand

#: The commands, in the order of the help: each is the function of its name in a module of its own, `scan` in
#: `scan_command`, which says its help.
COMMANDS = (
    "demo", "ask", "check", "scan", "change", "drivers", "compare", "relate", "total", "rows", "regress", "forecast",
    "figures", "table", "cohorts", "peers", "ledger", "growth", "project", "brief", "publish", "editions", "verify",
    "doctor",
)  # fmt: skip


def assembled(names: Iterable[str] = COMMANDS) -> typer.Typer:
    """The command line with these commands. To read and to build all takes longer than many a command does, so that one
    that is called by name is assembled alone."""
    app = typer.Typer(
        name="golden-almanac",
        no_args_is_help=True,
        add_completion=True,
        rich_markup_mode=None,
        pretty_exceptions_enable=False,
        help="Scan a business table for what matters, say why it changed, and publish it: every figure can be added up "
        "again.\n\nStart with: golden-almanac demo",
    )
    for name in names:
        module = import_module(f".{name}_command", __package__)
        app.command(name, cls=GroupedCommand, help=module.HELP)(getattr(module, name))
    app.callback()(_common)
    return app


def _version(asked: bool) -> None:
    if asked:
        import golden_almanac as ga

        streams.say(f"golden-almanac {ga.__version__}")
        raise typer.Exit


def _common(
    version: bool = typer.Option(
        False, "--version", callback=_version, is_eager=True, help="Show the version and leave."
    ),
) -> None:
    """Options before the command."""


def main() -> NoReturn:
    """Entry point: 0 done, 2 when the request or the data cannot be used, 141 when the reader of the output left."""
    streams.prepare()
    alone = first_look.wanted(sys.argv[1:], COMMANDS)
    try:
        # By this name shells ask for completion, however the program was started.
        named = {"prog_name": "golden-almanac", "standalone_mode": False}
        called = [word for word in sys.argv[1:2] if word in COMMANDS]
        status = assembled(called or COMMANDS)(**named) if alone is None else first_look.first_look(alone)
    except KeyboardInterrupt:
        status = _STOPPED
    except Exception as problem:  # noqa: BLE001
        # The last door: whatever comes out here is told in one sentence.
        if streams.is_lost(problem):
            raise SystemExit(streams.lost(problem)) from None
        shared_options.clear_progress()
        streams.complain(_told(problem))
        raise SystemExit(2) from None
    if status == _STOPPED:
        shared_options.clear_progress()
        streams.complain("Stopped.")
    streams.leave(status if isinstance(status, int) else 0)


#: The status of what was stopped from the keyboard (128 + SIGINT).
_STOPPED = 130


def _told(problem: Exception) -> str:
    """The one sentence for whatever ended a command. Raises what is a fault of our own."""
    import golden_almanac as ga

    if isinstance(problem, ga.AlmanacError):
        return str(problem)
    if hasattr(problem, "format_message"):
        return _usage(problem)
    if isinstance(problem, MemoryError):
        return "There is not enough memory for this. Keep fewer rows with --where, or name fewer columns with --by."
    if isinstance(problem, OSError) and problem.errno is not None:
        where = f"{problem.filename}: " if problem.filename else ""
        return f"{where}the system refuses it ({problem.strerror}). Check the disk and your rights."
    if os.environ.get(_TRACE):
        raise problem
    from . import fault_report

    report = fault_report.written(problem)
    told = f"Set {_TRACE}=1 to see where."
    if report is not None:
        told = f"What happened, without any of your data, stands in {report}: please send it."
    return f"A fault of this program stopped it, and nothing was written. {told}"


#: Set to see where a fault of our own is.
_TRACE = "GOLDEN_ALMANAC_TRACE"


def _usage(problem: Any) -> str:
    """What is wrong with the words of a command, on one line, and where its help is."""
    text = " ".join(str(problem.format_message()).split())
    for said, ours in (
        (r"is not a valid int(eger)?( range)?", "is no whole number"),
        (r"is not a valid float( range)?", "is no number"),
        (r"is not in the range x>=([\d.]*\d)", r"is too small: \1 or more is wanted"),
    ):
        text = re.sub(said, ours, text)
    context = getattr(problem, "ctx", None)
    called = "golden-almanac" if context is None else context.command_path
    return f"{text.rstrip('.')}. See {called} --help."
