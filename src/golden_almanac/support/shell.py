"""Commands that are suggested: whatever stands in them came from data, so every argument is quoted for a shell."""

from __future__ import annotations

import shlex

from .printable import visible

#: The source, where its name cannot be written on a line.
_UNNAMED = "SOURCE"


class Named(str):
    """A source as commands name it, with the `options` that go with it: a database's address, and the table of it."""

    options: tuple[str, ...]

    def __new__(cls, source: str, *options: str) -> Named:
        made = super().__new__(cls, source)
        made.options = options
        return made


def suggested(command: str, source: str, *arguments: str) -> str:
    """A command line that can be pasted: `golden-almanac COMMAND SOURCE ARGUMENT …`, each argument one word to a shell.

    A source that would be taken for an option is named from its folder.
    """
    if visible(source) != str(source) or "\n" in source:
        source = _UNNAMED
    elif source.startswith("-"):
        source = f"./{source}"
    with_it = map(visible, getattr(source, "options", ()))
    return shlex.join(["golden-almanac", command, str(source), *with_it, *map(visible, arguments)])


def option(name: str, value: str) -> str:
    """An option with its value, as words of a command line."""
    return shlex.join([name, visible(value)])


def file_name(text: str) -> str:
    """A text as the name of a file: letters, digits, dashes and underscores."""
    return "".join(letter if letter.isalnum() or letter in "-_" else "-" for letter in text)[:60]
