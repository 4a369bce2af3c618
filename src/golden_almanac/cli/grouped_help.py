"""The help of a command: what is asked for most comes first, rare options under heads of their own, which `--help`
names and `--help-all` spells out."""

from __future__ import annotations

from typing import Annotated, Any

import typer
from typer.core import TyperCommand

#: Where the wish for everything is kept while the help is written.
_EVERYTHING = "golden_almanac.everything"
#: The heads, in the order in which they are shown.
TABLE, MEANING, WEIGHT, PAGE, WORK = "Reading", "Meaning", "What counts", "Page and words", "Working"
_HEADS = (WEIGHT, PAGE, TABLE, MEANING, WORK)


def _all(ctx: typer.Context, asked: bool) -> None:
    if asked:
        ctx.meta[_EVERYTHING] = True
        typer.echo(ctx.get_help())
        raise typer.Exit


def option(*names: str, metavar: str, text: str, head: str | None = None) -> Any:
    """An option that takes a value; a rare one stands under a head."""
    return typer.Option(*names, metavar=metavar, show_default=False, help=text, rich_help_panel=head)


def flag(*names: str, text: str, head: str | None = None) -> Any:
    """An option that is set or not."""
    return typer.Option(*names, help=text, rich_help_panel=head)


HelpAll = Annotated[
    bool,
    typer.Option("--help-all", is_eager=True, expose_value=False, callback=_all, help="Show every option, and leave."),
]


class GroupedCommand(TyperCommand):
    """A command whose rare options stand under their own heads."""

    def format_options(self, ctx: Any, formatter: Any) -> None:
        arguments, common = [], []
        rare: dict[str, list[tuple[Any, tuple[str, str]]]] = {head: [] for head in _HEADS}
        for parameter in self.get_params(ctx):
            record = parameter.get_help_record(ctx)
            head = getattr(parameter, "rich_help_panel", None)
            if record is None:
                continue
            if parameter.param_type_name == "argument":
                arguments.append(record)
            elif head in rare:
                rare[head].append((parameter, record))
            else:
                common.append(record)
        for head, records in (("Arguments", arguments), ("Options", common)):
            if records:
                with formatter.section(head):
                    formatter.write_dl(records)
        told = {head: options for head, options in rare.items() if options}
        if ctx.meta.get(_EVERYTHING):
            for head, options in told.items():
                with formatter.section(head):
                    formatter.write_dl([record for _, record in options])
        elif told:
            with formatter.section("More, with --help-all"):
                formatter.write_dl(
                    [(head, ", ".join(option.opts[-1] for option, _ in options)) for head, options in told.items()]
                )
