"""The commands put together, and what happens when one fails."""

from __future__ import annotations

import os
import re
import sys
from typing import Any, NoReturn

import typer

from . import (
    ask_command,
    brief_command,
    change_command,
    check_command,
    cohorts_command,
    compare_command,
    demo_command,
    doctor_command,
    drivers_command,
    editions_command,
    fault_report,
    figures_command,
    first_look,
    forecast_command,
    growth_command,
    ledger_command,
    peers_command,
    project_command,
    publish_command,
    regress_command,
    relate_command,
    rows_command,
    scan_command,
    shared_options,
    streams,
    table_command,
    total_command,
    verify_command,
)
from .grouped_help import GroupedCommand

app = typer.Typer(
    name="golden-almanac",
    no_args_is_help=True,
    add_completion=True,
    rich_markup_mode=None,
    pretty_exceptions_enable=False,
    help="Scan a business table for what matters, say why it changed, and publish it: every figure can be added up "
    "again.\n\nStart with: golden-almanac demo",
)
#: The commands, in the order of the help: each is the function of its name in its module, which says its help.
_COMMANDS = {
    "demo": demo_command,
    "ask": ask_command,
    "check": check_command,
    "scan": scan_command,
    "change": change_command,
    "drivers": drivers_command,
    "compare": compare_command,
    "relate": relate_command,
    "total": total_command,
    "rows": rows_command,
    "regress": regress_command,
    "forecast": forecast_command,
    "figures": figures_command,
    "table": table_command,
    "cohorts": cohorts_command,
    "peers": peers_command,
    "ledger": ledger_command,
    "growth": growth_command,
    "project": project_command,
    "brief": brief_command,
    "publish": publish_command,
    "editions": editions_command,
    "verify": verify_command,
    "doctor": doctor_command,
}
for _name, _module in _COMMANDS.items():
    app.command(_name, cls=GroupedCommand, help=_module.HELP)(getattr(_module, _name))


def _version(asked: bool) -> None:
    if asked:
        import golden_almanac as ga

        streams.say(f"golden-almanac {ga.__version__}")
        raise typer.Exit


@app.callback()
def _common(
    version: bool = typer.Option(
        False, "--version", callback=_version, is_eager=True, help="Show the version and leave."
    ),
) -> None:
    """Options before the command."""


def main() -> NoReturn:
    """Entry point: 0 done, 2 when the request or the data cannot be used, 141 when the reader of the output left."""
    streams.prepare()
    alone = first_look.wanted(sys.argv[1:], {str(one.name) for one in app.registered_commands})
    try:
        # By this name shells ask for completion, however the program was started.
        named = {"prog_name": "golden-almanac", "standalone_mode": False}
        status = app(**named) if alone is None else first_look.first_look(alone)
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
        (r"Input should be a valid integer, .*", "a whole number is wanted."),
        (r"Input should be a valid number, .*", "a number is wanted."),
        (r"Input should be (greater|less) than or equal to (\S+)", r"a number \1 than or equal to \2 is wanted."),
    ):
        text = re.sub(said, ours, text)
    context = getattr(problem, "ctx", None)
    called = "golden-almanac" if context is None else context.command_path
    return f"{text.rstrip('.')}. See {called} --help."
