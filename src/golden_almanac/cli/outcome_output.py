"""What the terminal shows of outcomes beyond summary and tables: equations, questions."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from . import screen


def regression(found: Any) -> None:
    """A regression: summary, equation, the table of terms, the fit."""
    console = screen.terminal()
    screen.opening(console, found.summary())
    console.print()
    console.print(screen.text_of(found.equation))
    for table in found.tables():
        screen.table(console, table)
    screen.told(console, [found.fit_line(), *found.bases()])


def questions(found: list[Any], plain: Sequence[str], as_json: bool) -> None:
    """Questions worth asking, each with the command that answers it; and in plain English, for `ask`."""
    from rich.padding import Padding

    if as_json:
        asked = [{"question": one.text, "call": one.call, "command": one.command} for one in found]
        screen.json_out({"format": "golden-almanac/questions/1", "questions": asked, "plain": list(plain)})
        return
    console = screen.terminal()
    for one in found:
        console.print(screen.text_of(one.text, "bold"))
        console.print(Padding(screen.text_of(one.command, "#A86A00"), (0, 0, 0, 4)))
    if plain:
        # Said to `ask`, which reads English.
        screen.told(console, [f"ask: {'; '.join(plain)}"])
