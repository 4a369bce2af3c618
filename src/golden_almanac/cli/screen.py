"""How results stand on the terminal: lines and tables of text, with colour where it has any."""

from __future__ import annotations

from typing import Any

from . import streams

#: Columns used at most; the text must be readable without colour too.
_WIDTH = 100
#: Columns of the table that a cell takes at most: where one column is words, where several are, and figures.
_WORDS, _MANY_WORDS, _FIGURES = 46, 72, 34
_LOOKS = {"": "", "bold": "bold", "dim": "dim", "italic": "italic", "accent": "#A86A00"}


def json_out(value: dict[str, Any]) -> None:
    """JSON on standard output, and nothing else there."""
    from ..export.data_files import json_bytes

    streams.say_bytes(json_bytes(value))


def frame(answer: Any, as_json: bool) -> None:
    """The answer of a query: a plain table, or JSON records."""
    from ..export.data_files import frame_records

    if as_json:
        json_out({"format": "golden-almanac/rows/1", "rows": frame_records(answer)})
    else:
        streams.say(answer.to_string(index=False))


def terminal() -> Any:
    """The terminal, 100 columns wide at most, and a page of that width where there is none."""
    from rich.console import Console

    class Plain(Console):
        """A console that lets the error through when its reader has gone."""

        def on_broken_pipe(self) -> None:
            raise streams.Gone

    console = Plain(highlight=False, soft_wrap=False, emoji=False, markup=False)
    if console.width > _WIDTH or not console.is_terminal:
        console = Plain(highlight=False, width=_WIDTH, emoji=False, markup=False)
    return console


def text_of(text: str, style: str = "") -> Any:
    """Text as a console takes it, with what would steer a terminal spelled out."""
    from rich.text import Text

    from ..support.printable import visible

    return Text(visible(text), style=style)


def _fold(console: Any, text: str, indent: int = 0) -> str:
    """The text in lines as wide as the page, broken at spaces: a number and its % or unit stay together. A word that is
    wider than the page is broken where it must be."""
    import textwrap

    from ..support.printable import visible

    width = max(8, console.width - indent)
    return "\n".join(textwrap.wrap(visible(text), width, break_long_words=True, break_on_hyphens=False)) or text


def show(console: Any, lines: list[Any]) -> None:
    """Lines as a result gives them."""
    from rich.padding import Padding
    from rich.table import Table
    from rich.text import Text

    for line in lines:
        indent = min(line.indent, console.width // 8)
        text = Text()
        room = indent + 4 * line.bullet
        whole = [(_fold(console, line.pieces[0][0], room), line.pieces[0][1])] if len(line.pieces) == 1 else line.pieces
        for piece, look in whole:
            text.append_text(text_of(piece, _LOOKS[look]))
        if line.bullet:
            # Further lines of a point stand below its first word.
            grid = Table.grid()
            grid.add_column(width=4)
            grid.add_column()
            grid.add_row("  · ", text)
            console.print(grid)
        else:
            console.print(Padding(text, (0, 0, 0, indent)) if indent else text)


def opening(console: Any, summary: Any) -> None:
    """The summary of a result."""
    console.print(text_of(_fold(console, summary.headline), "bold"))
    if summary.text:
        console.print(text_of(_fold(console, summary.text)))


def table(console: Any, one: Any) -> None:
    """A table of text under its title; where the page is too narrow for it, a few lines for each row."""
    from rich.table import Table
    from rich.text import Text

    title = text_of(f"\n{_fold(console, one.title)}" if one.title else "", "bold")
    if not one.title:
        console.print()
    rows = [*one.rows, *([one.total] if one.total else [])]
    if _least_width(one, rows) > console.width:
        _lines_of(console, one, title)
        return
    table = Table(box=None, pad_edge=False, header_style="dim", title=title, title_justify="left", title_style="")
    for place, name in enumerate(one.heads):
        figures = place >= one.left
        longest = max((len(str(row[place])) for row in rows), default=0)
        table.add_column(
            text_of(name),
            justify="right" if figures else "left",
            overflow="fold",
            max_width=_FIGURES if figures else _WORDS if one.left < 2 else _MANY_WORDS,
            no_wrap=figures and longest <= _FIGURES,
        )
    for row in one.rows:
        table.add_row(*(text_of(cell) for cell in row))
    if one.total:
        table.add_row(*(Text.assemble(text_of(cell), style="bold") for cell in one.total))
    console.print(table)


#: Columns that words need at least to be read, in a table.
_LEAST_WORDS = 14


def _least_width(one: Any, rows: Any) -> int:
    """The columns of the page that a table needs: figures are never cut, words may go over lines."""
    from rich.cells import cell_len

    from ..support.printable import visible

    width = 0
    for place, head in enumerate(one.heads):
        longest = max((cell_len(visible(str(row[place]))) for row in rows), default=0)
        if place >= one.left:
            words = max((cell_len(word) for word in str(head).split()), default=0)
            width += 1 + max(longest if longest <= _FIGURES else _LEAST_WORDS, words)
        else:
            width += 1 + min(max(longest, cell_len(str(head))), _LEAST_WORDS)
    return width


def _lines_of(console: Any, one: Any, title: Any) -> None:
    """A table as lines: the words of a row, and below them each figure with its head."""
    console.print(title)
    for row in [*one.rows, *([one.total] if one.total else [])]:
        words = ", ".join(str(cell) for cell in row[: max(1, one.left)] if str(cell))
        console.print(text_of(_fold(console, words), "bold"))
        for head, cell in list(zip(one.heads, row, strict=False))[max(1, one.left) :]:
            if str(cell).strip():
                told = f"{head}: {cell}" if head else str(cell)
                console.print(text_of("\n".join(f"  {part}" for part in _fold(console, told, 2).split("\n"))))


def result(found: Any, tables: Any, *more: str) -> None:
    """A result: its summary, its tables, then what else there is to say, and the caveats."""
    console = terminal()
    opening(console, found.summary())
    for one in tables:
        table(console, one)
    told(console, [*more, *(found.caveats() if hasattr(found, "caveats") else [])])


def told(console: Any, sentences: list[str]) -> None:
    """Caveats, dim, a line each, after a blank one."""
    if sentences:
        console.print()
    for text in sentences:
        console.print(text_of(_fold(console, text), "dim"))


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

    console = terminal()
    opening(console, found.summary())
    for one in found.tables():
        table(console, one)
    for each in found.changes:
        console.print()
        console.print(text_of(_fold(console, each.headline), "bold"))
        console.print(Padding(text_of(_fold(console, each.summary().text, 2)), (0, 0, 0, 2)))
    told(console, found.caveats())
