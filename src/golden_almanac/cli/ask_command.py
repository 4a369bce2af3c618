"""`golden-almanac ask`: a question in plain English, or a prompt for several."""

from __future__ import annotations

import shlex
from collections.abc import Sequence
from typing import TYPE_CHECKING, Annotated, Any

import typer

from . import screen, shared_options, streams
from .source_options import Opening, reads

if TYPE_CHECKING:
    import golden_almanac as ga

HELP = """Answer a question in plain English; without one, take questions one after the other.

\b
Examples:
  golden-almanac ask sailings.csv "which route carried most passengers in 2025?"
  golden-almanac ask sailings.csv "why did revenue fall in March 2025?" -o answer.html
  golden-almanac ask sailings.csv
"""


@reads
def ask(
    opening: Opening,
    question: Annotated[
        str | None, typer.Argument(metavar="[QUESTION]", show_default=False, help="In English; in quotes.")
    ] = None,
    pages: Annotated[
        str | None,
        typer.Option("--pages", metavar="COLUMN", show_default=False, help="A page for each label of this column."),
    ] = None,
    more: Annotated[bool, typer.Option("--more", help="Also tell what a scan finds of the same figures.")] = False,
    top: Annotated[int, typer.Option("-n", "--top", metavar="N", help="Rows of the JSON at most.")] = 100,
    yes: Annotated[bool, typer.Option("--yes", help="Use a measure that the question describes.")] = False,
    as_json: shared_options.AsJson = False,
    out: shared_options.Out = None,
) -> None:
    targets = shared_options.check_outputs(out, opening.source, replace=opening.replace)
    talk = _conversation(opening)
    shared_options.clear_progress()
    if question is None:
        if targets or as_json:
            import golden_almanac as ga

            raise ga.RequestError("The question", "nothing", "one to answer, in quotes")
        from .prompt import prompt

        prompt(talk, opening.source)
        return
    answer = talk.ask(question, yes=yes)
    if yes and answer.status != "answered" and talk.definitions:
        as_json = False
    if as_json:
        screen.json_out(_cut(answer.to_dict(), top))
    if answer.found is None:
        if not (as_json and talk.definitions):
            streams.tell(str(answer.summary()).replace("\n\n", " "))
        raise typer.Exit(0 if talk.definitions else 2)
    if more:
        answer.beside()
    if targets:
        shared_options.write_outputs(answer.report(pages=pages), targets, replace=opening.replace)
    if not as_json:
        show(answer, opening.source, talk.joins, more=more)


def _conversation(opening: Opening) -> ga.Conversation:
    import golden_almanac as ga

    from ..api.answer_source import table_of

    plain = {name: value for name, value in opening.choice.items() if value and name != "rows"}
    if not plain and not opening.joins:
        table, joined, joins = table_of(opening.source)
        if opening.choice.get("rows"):
            table = ga.read(table, rows=opening.choice["rows"])
        return ga.Conversation(table=table, joined=joined, joins=joins)
    return ga.Conversation(table=opening.table(shared_options.progress()))


def _cut(told: dict[str, Any], top: int) -> dict[str, Any]:
    """The JSON with so many rows at most; how many there are stays said."""
    answer = told.get("answer")
    if isinstance(answer, dict) and isinstance(answer.get("rows"), list) and len(answer["rows"]) > top:
        answer["all_rows"] = len(answer["rows"])
        answer["rows"] = answer["rows"][:top]
    return told


def _command(text: str, joined: Sequence[str]) -> str:
    """The command with the tables that were joined."""
    return " ".join([text, *(shlex.join(["--join", name]) for name in joined)])


def show(answer: ga.Answer, source: str, joins: Sequence[str] = (), *, more: bool = False) -> None:
    """An answer on the terminal: the sentence, the figures, how it was read, the SQL, what to ask next."""
    console = screen.terminal()
    screen.opening(console, answer.summary())
    for one in answer.tables():
        screen.table(console, one)
    if more and answer.beside():
        console.print()
        for finding in answer.beside():
            console.print(screen.text_of(f"  · {finding.headline}"))
    request = answer.request
    command = "" if request is None else _command(request.as_command(source), joins)
    screen.told(console, [*answer.account(command), *answer.caveats(), *answer.further()])
