"""Options that say how a source is read, shared by every command that reads one."""

from __future__ import annotations

import inspect
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import wraps
from typing import Annotated, Any, get_type_hints

import typer

from . import grouped_help, shared_options, streams
from .shared_options import Source, pairs

Text = str | None
Texts = list[str] | None


def _option(name: str, metavar: str, text: str, head: str = grouped_help.TABLE) -> Any:
    return grouped_help.option(name, metavar=metavar, text=text, head=head)


def _reading(
    sheet: Annotated[Text, _option("--sheet", "NAME", "The sheet of a workbook.")] = None,
    table: Annotated[Text, _option("--table", "NAME", "The table of a database file.")] = None,
    query: Annotated[Text, _option("--query", "SQL", "One SELECT over a database file.")] = None,
    join: Annotated[
        Texts,
        _option(
            "--join",
            "TABLE",
            'Add the columns of a sheet, table or file: "ports.csv", or "ports.csv on port = name". May be repeated.',
        ),
    ] = None,
    answer: Annotated[
        Texts, _option("--answer", "KEY=CHOICE", "Answer a question that check puts. May be repeated.")
    ] = None,
    nature: Annotated[
        Texts,
        _option(
            "--nature",
            "COLUMN=KIND",
            "What kind of number a column holds: flow, count, stock, running total, share, price, score, duration, "
            "reading or code. May be repeated.",
            grouped_help.MEANING,
        ),
    ] = None,
    rates: Annotated[
        Text,
        _option(
            "--rates",
            "FILE",
            "What currencies or units are worth in one of them: labels, rates, perhaps dates.",
            grouped_help.MEANING,
        ),
    ] = None,
    apply: Annotated[
        Text, _option("--apply", "FILE", "Make just the repairs of a log that check --repairs wrote.")
    ] = None,
    fiscal_start: Annotated[
        int | None,
        _option("--fiscal-start", "MONTH", "The month (1 to 12) in which years begin.", grouped_help.MEANING),
    ] = None,
    week_start: Annotated[
        Text, _option("--week-start", "DAY", "The first day of the week, monday by default.", grouped_help.MEANING)
    ] = None,
    zone: Annotated[
        Text, _option("--zone", "ZONE", "The time zone to report in, such as Europe/Lisbon.", grouped_help.MEANING)
    ] = None,
    holidays: Annotated[
        Text,
        _option("--holidays", "COUNTRY", "Public holidays of a country or region: DE or DE-BY.", grouped_help.MEANING),
    ] = None,
    as_of: Annotated[
        Text, _option("--as-of", "DATE", "The day of the report; later dates are told.", grouped_help.MEANING)
    ] = None,
    memory: Annotated[
        Text,
        _option(
            "--memory",
            "SIZE",
            "The most memory to take, such as 4GB; half of the machine's by default.",
            grouped_help.WORK,
        ),
    ] = None,
    private: Annotated[
        Texts,
        _option(
            "--private",
            "COLUMN",
            "Leave this column out of everything; nothing may name it. May be repeated.",
            grouped_help.WEIGHT,
        ),
    ] = None,
    minimum_group: Annotated[
        int,
        typer.Option(
            "--minimum-group",
            metavar="N",
            min=0,
            help="Put labels of fewer rows together as “(other)”.",
            rich_help_panel=grouped_help.WEIGHT,
        ),
    ] = 0,
    rows: Annotated[
        Text, _option("--rows", "NOUN", 'What the rows are: "sailings", "orders".', grouped_help.MEANING)
    ] = None,
    replace: Annotated[
        bool,
        grouped_help.flag("--replace", text="Write over files that this program did not make.", head=grouped_help.PAGE),
    ] = False,
    quiet: Annotated[
        bool,
        grouped_help.flag("--quiet", text="Say nothing beside the result but what went wrong.", head=grouped_help.WORK),
    ] = False,
    verbose: Annotated[
        bool, grouped_help.flag("-v", "--verbose", text="Say each step on standard error.", head=grouped_help.WORK)
    ] = False,
    help_all: grouped_help.HelpAll = False,
) -> None:
    """Never called: its parameters are the options."""


def _saying(
    locale: Annotated[
        Text,
        _option(
            "--locale",
            "LOCALE",
            "The language of the findings: en, de, es, fr; with a territory: de_AT.",
            grouped_help.PAGE,
        ),
    ] = None,
    call: Annotated[
        Texts,
        _option(
            "--call",
            "NAME=WORD",
            'What to call a column or label: "load=Auslastung, f". May be repeated.',
            grouped_help.PAGE,
        ),
    ] = None,
) -> None:
    """Never called: its parameters are the options."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Opening:
    """A source, and how it is to be read."""

    source: str
    choice: dict[str, Any] = field(default_factory=dict)
    joins: tuple[str, ...] = ()
    replace: bool = False

    def table(self, progress: Any = None, hold: bool = False) -> Any:
        """The table, read, mended and joined."""
        import golden_almanac as ga

        return ga.read(self.source, progress=progress, hold=hold, joins=self.joins, **self.choice)


def reads(command: Callable[..., None], *, says: bool = True) -> Callable[..., None]:
    """A command whose parameter `opening` comes from the source and the options above; with `says` it tells findings,
    in a language that may be chosen."""
    own = inspect.signature(command)
    more = dict(inspect.signature(_reading).parameters)
    if says:
        more |= inspect.signature(_saying).parameters
    # An option of the command's own goes before: the rows of a table that is printed.
    more = {name: parameter for name, parameter in more.items() if name not in own.parameters}

    @wraps(command)
    def run(**given: Any) -> None:
        told = {name: given.pop(name, None) for name in more}
        # Help is shown before any of this, and is no value of a command.
        told.pop("help_all", None)
        quiet, verbose = told.pop("quiet", False), told.pop("verbose", False)
        shared_options.refuse_together({"--quiet": quiet, "--verbose": verbose})
        streams.speak(quiet=quiet, verbose=verbose)
        if told.get("locale") is None and not told.get("call"):
            command(opening=_opening(given.pop("source"), told), **given)
            return
        import golden_almanac as ga

        names = pairs("--call", told["call"], 'a name and a word, such as "load=Auslastung, f"')
        with ga.speaking(told["locale"] or "en", names):
            command(opening=_opening(given.pop("source"), told), **given)

    hints = get_type_hints(_reading, include_extras=True) | get_type_hints(_saying, include_extras=True)
    hints |= get_type_hints(command, include_extras=True)
    hints["source"] = Source
    first = inspect.Parameter("source", inspect.Parameter.POSITIONAL_OR_KEYWORD)
    parameters = [
        first,
        *(parameter for parameter in own.parameters.values() if parameter.name != "opening"),
        *more.values(),
    ]
    run.__signature__ = own.replace(  # type: ignore[attr-defined]
        parameters=[parameter.replace(annotation=hints[parameter.name]) for parameter in parameters],
        return_annotation=None,
    )
    run.__annotations__ = {parameter.name: hints[parameter.name] for parameter in parameters}
    return run


def _opening(source: str, told: dict[str, Any]) -> Opening:
    import golden_almanac as ga

    calendar = {name: told[name] for name in ("fiscal_start", "week_start", "zone", "holidays", "as_of")}
    chosen = {name: value for name, value in calendar.items() if value is not None}
    answers = pairs("--answer", told["answer"], 'a key and a choice, such as "date order/Date=day first"')
    choice = {
        name: told.get(name)
        for name in ("sheet", "table", "query", "memory", "private", "minimum_group", "rates", "rows")
    }
    natures = pairs("--nature", told["nature"], 'a column and a kind, such as "closing_balance=stock"')
    choice |= {"natures": natures or None}
    choice |= {"answers": answers, "repairs": told["apply"], "calendar": ga.Calendar(**chosen) if chosen else None}
    return Opening(source=source, choice=choice, joins=tuple(told["join"] or ()), replace=told["replace"])
