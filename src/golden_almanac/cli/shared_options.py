"""Options that commands share, and the checks made before any work."""

from __future__ import annotations

import sys
import time as clock
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from typing import Annotated, Any

import typer

from ..export.formats import endings
from . import grouped_help, streams

Source = Annotated[
    str,
    typer.Argument(
        metavar="SOURCE",
        show_default=False,
        help="A file (CSV, workbook, Parquet, JSON, SQLite, DuckDB), or a pattern of files in quotes.",
    ),
]
Measures = Annotated[
    list[str] | None,
    grouped_help.option(
        "-m", "--measure", metavar="SQL", text="An SQL aggregate, or a column's name. May be repeated."
    ),
]
By = Annotated[
    list[str] | None,
    grouped_help.option("-b", "--by", metavar="COLUMN", text="Break down by this column. May be repeated."),
]
Time = Annotated[str | None, grouped_help.option("-t", "--time", metavar="COLUMN", text="The column of dates.")]
Grain = Annotated[
    str | None, grouped_help.option("-g", "--grain", metavar="GRAIN", text="day, week, month, quarter or year.")
]
Where = Annotated[
    str | None,
    grouped_help.option("-w", "--where", metavar="SQL", text="Keep only the rows that meet this SQL condition."),
]
Notes = Annotated[
    str | None,
    grouped_help.option(
        "--notes",
        metavar="FILE",
        text="A CSV of known circumstances: from, to, note, and scopes.",
        head=grouped_help.WEIGHT,
    ),
]
Length = Annotated[
    str,
    typer.Option(
        "--length", metavar="LENGTH", help="The summary: short, standard or long.", rich_help_panel=grouped_help.PAGE
    ),
]
AsJson = Annotated[bool, typer.Option("--json", help="Write JSON to standard output, and nothing else.")]
Out = Annotated[
    list[str] | None,
    grouped_help.option(
        "-o",
        "--out",
        metavar="FILE",
        text=f"Also write {', '.join(endings()[:-1])} or {endings()[-1]}. May be repeated.",
    ),
]


def pairs(option: str, texts: Sequence[str] | None, wanted: str) -> dict[str, str]:
    """KEY=VALUE options as a mapping; the last equals sign parts them."""
    import golden_almanac as ga

    found = {}
    for text in texts or ():
        key, mark, value = text.rpartition("=")
        if not mark or not key.strip():
            raise ga.RequestError(option, text, wanted)
        found[key.strip()] = value.strip()
    return found


def number(option: str, text: str) -> float:
    import golden_almanac as ga

    try:
        return float(text)
    except ValueError:
        raise ga.RequestError(option, text, "a number") from None


def check_outputs(out: Sequence[str] | None, source: str, *, replace: bool = False) -> list[Path]:
    """Targets of `--out`, refused before any work if they cannot be."""
    from ..export.files import check_target

    targets = [Path(name) for name in out or []]
    for target in targets:
        check_target(target, source, endings(), replace=replace)
    return targets


def check_length(length: str) -> None:
    """Refuse, before any work, a length of the summary that there is not."""
    import golden_almanac as ga

    if length not in ("short", "standard", "long"):
        raise ga.RequestError("--length", length, "one of short, standard, long")


def refuse_together(given: Mapping[str, object], *, most: int = 1) -> None:
    """Refuse options that do not go together: of those given at most so many may be set."""
    import golden_almanac as ga

    told = [name for name, value in given.items() if value]
    if len(told) > most:
        raise ga.RequestError(told[0], "set", f"left out where {', '.join(told[1:])} is asked for")


def write_outputs(report: Any, targets: Sequence[Path], *, replace: bool = False) -> None:
    """Everything is made before the first file is written, with each picture made once."""
    from ..export.files import refuse_to_overwrite, write_all

    show = progress()
    made = report.files(targets, show)
    clear_progress()
    for target, content in made:
        if not replace:
            refuse_to_overwrite(target, content)
    write_all(made)
    for target in targets:
        streams.tell(f"wrote {target}")


def progress() -> Callable[[str], None]:
    """Progress on standard error, one line that is overwritten; silent when nobody watches or wants it; a line for each
    step, with the time, where every step is asked for."""
    if streams.is_verbose():
        return lambda text: streams.tell(f"{clock.strftime('%H:%M:%S')} {text}")
    if streams.is_quiet() or not sys.stderr.isatty():
        return lambda _: None

    def show(text: str) -> None:
        streams.overwrite(f"{text} …")

    return show


def clear_progress() -> None:
    if sys.stderr.isatty() and not streams.is_quiet():
        streams.overwrite("")
