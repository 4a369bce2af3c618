"""How results stand on the terminal: lines and tables of text, with colour where it has any."""

from __future__ import annotations

import sys
from typing import Any

import typer

#: Columns used at most; the text must be readable without colour too.
_WIDTH = 100
#: Columns of the table that a cell takes at most: where one column is words, where several are, and figures.
_WORDS, _MANY_WORDS, _FIGURES = 46, 72, 34
_LOOKS = {"": "", "bold": "bold", "dim": "dim", "italic": "italic", "accent": "#A86A00"}


def json_bytes(value: dict[str, Any]) -> bytes:
    """JSON as every command writes it."""
    import json

    return (json.dumps(value, ensure_ascii=False, indent=1, allow_nan=False) + "\n").encode("utf-8")


def json_out(value: dict[str, Any]) -> None:
    """JSON on standard output, and nothing else there."""
    sys.stdout.buffer.write(json_bytes(value))
    sys.stdout.buffer.flush()


def frame(answer: Any, as_json: bool) -> None:
    """The answer of a query: a plain table, or JSON records."""
    import json

    if as_json:
        json_out(
            {"format": "golden-almanac/rows/1", "rows": json.loads(answer.to_json(orient="records", date_format="iso"))}
        )
    else:
        typer.echo(answer.to_string(index=False))


def terminal() -> Any:
    from rich.console import Console

    console = Console(highlight=False, soft_wrap=False)
    if console.width > _WIDTH or not console.is_terminal:
        console = Console(highlight=False, width=_WIDTH)
    return console


def _fold(console: Any, text: str, indent: int = 0) -> str:
    """The text in lines as wide as the page, broken at spaces only: a number and its % or unit stay together."""
    import textwrap

    width = max(20, console.width - indent)
    return "\n".join(textwrap.wrap(text, width, break_long_words=False, break_on_hyphens=False)) or text


def show(console: Any, lines: list[Any]) -> None:
    """Lines as a result gives them."""
    from rich.padding import Padding
    from rich.table import Table
    from rich.text import Text

    for line in lines:
        text = Text()
        room = line.indent + 4 * line.bullet
        whole = [(_fold(console, line.pieces[0][0], room), line.pieces[0][1])] if len(line.pieces) == 1 else line.pieces
        for piece, look in whole:
            text.append(piece, style=_LOOKS[look])
        if line.bullet:
            # Further lines of a point stand below its first word.
            grid = Table.grid()
            grid.add_column(width=4)
            grid.add_column()
            grid.add_row("  · ", text)
            console.print(grid)
        else:
            console.print(Padding(text, (0, 0, 0, line.indent)) if line.indent else text)


def opening(console: Any, summary: Any) -> None:
    """The summary of a result."""
    from rich.text import Text

    console.print(Text(_fold(console, summary.headline), style="bold"))
    if summary.text:
        console.print(Text(_fold(console, summary.text)))


def table(console: Any, one: Any) -> None:
    """A table of text under its title."""
    from rich.table import Table
    from rich.text import Text

    title = Text(f"\n{one.title}", style="bold")
    made = Table(box=None, pad_edge=False, header_style="dim", title=title, title_justify="left", title_style="")
    for place, name in enumerate(one.heads):
        figures = place >= one.left
        made.add_column(
            Text(name),
            justify="right" if figures else "left",
            overflow="ellipsis" if figures else "fold",
            max_width=_FIGURES if figures else _WORDS if one.left < 2 else _MANY_WORDS,
            no_wrap=figures,
        )
    for row in one.rows:
        made.add_row(*(Text(cell) for cell in row))
    if one.total:
        made.add_row(*(Text(cell, style="bold") for cell in one.total))
    console.print(made)


def result(found: Any, tables: Any, *more: str) -> None:
    """A result: its summary, its tables, then what else there is to say, and the caveats."""
    console = terminal()
    opening(console, found.summary())
    for one in tables:
        table(console, one)
    told(console, [*more, *(found.caveats() if hasattr(found, "caveats") else [])])


def told(console: Any, sentences: list[str]) -> None:
    """Caveats, dim, a line each, after a blank one."""
    from rich.text import Text

    if sentences:
        console.print()
    for text in sentences:
        console.print(Text(_fold(console, text), style="dim"))


def scan(found: Any, top: int, *, everything: bool = False, length: str = "standard") -> None:
    """A scan: summary, then the first findings; or all, with those folded under them and the reason."""
    show(terminal(), found.lines(top, everything=everything, length=length))


def change(found: Any, top: int, length: str = "standard") -> None:
    """A change: summary, then the contributions of each dimension."""
    console = terminal()
    opening(console, found.summary(length))
    for one in found.tables(top):
        table(console, one)
    told(console, found.caveats())


def changes(found: Any) -> None:
    """Several changes: the story, then a line each with what is usual and what explains it."""
    from rich.padding import Padding
    from rich.text import Text

    console = terminal()
    opening(console, found.summary())
    for one in found.tables():
        table(console, one)
    for each in found.changes:
        console.print()
        console.print(Text(_fold(console, each.headline), style="bold"))
        console.print(Padding(Text(_fold(console, each.summary().text, 2)), (0, 0, 0, 2)))
    told(console, found.caveats())
