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
app.command("demo", cls=GroupedCommand, help=demo_command.HELP)(demo_command.demo)
app.command("ask", cls=GroupedCommand, help=ask_command.HELP)(ask_command.ask)
app.command("check", cls=GroupedCommand, help=check_command.HELP)(check_command.check)
app.command("scan", cls=GroupedCommand, help=scan_command.HELP)(scan_command.scan)
app.command("change", cls=GroupedCommand, help=change_command.HELP)(change_command.change)
app.command("drivers", cls=GroupedCommand, help=drivers_command.HELP)(drivers_command.drivers)
app.command("compare", cls=GroupedCommand, help=compare_command.HELP)(compare_command.compare)
app.command("relate", cls=GroupedCommand, help=relate_command.HELP)(relate_command.relate)
app.command("total", cls=GroupedCommand, help=total_command.HELP)(total_command.total)
app.command("rows", cls=GroupedCommand, help=rows_command.HELP)(rows_command.rows)
app.command("regress", cls=GroupedCommand, help=regress_command.HELP)(regress_command.regress)
app.command("forecast", cls=GroupedCommand, help=forecast_command.HELP)(forecast_command.forecast)
app.command("figures", cls=GroupedCommand, help=figures_command.HELP)(figures_command.figures)
app.command("table", cls=GroupedCommand, help=table_command.HELP)(table_command.table)
app.command("cohorts", cls=GroupedCommand, help=cohorts_command.HELP)(cohorts_command.cohorts)
app.command("peers", cls=GroupedCommand, help=peers_command.HELP)(peers_command.peers)
app.command("ledger", cls=GroupedCommand, help=ledger_command.HELP)(ledger_command.ledger)
app.command("growth", cls=GroupedCommand, help=growth_command.HELP)(growth_command.growth)
app.command("project", cls=GroupedCommand, help=project_command.HELP)(project_command.project)
app.command("brief", cls=GroupedCommand, help=brief_command.HELP)(brief_command.brief)
app.command("publish", cls=GroupedCommand, help=publish_command.HELP)(publish_command.publish)
app.command("editions", cls=GroupedCommand, help=editions_command.HELP)(editions_command.editions)
app.command("verify", cls=GroupedCommand, help=verify_command.HELP)(verify_command.verify)
app.command("doctor", cls=GroupedCommand, help=doctor_command.HELP)(doctor_command.doctor)


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
