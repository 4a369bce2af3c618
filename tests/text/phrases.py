"""Every phrase that the code says, read from its source.

`python -m tests.text.phrases de` prints what a catalogue lacks; `python -m tests.text.phrases --references` writes
beside each phrase of every catalogue the files that say it, for translators.
"""

from __future__ import annotations

import ast
import io
import sys
from functools import lru_cache
from pathlib import Path

from babel.messages.catalog import Catalog
from babel.messages.pofile import read_po, write_po

import golden_almanac

PACKAGE = Path(golden_almanac.__file__).parent
CATALOGUES = sorted((PACKAGE / "text" / "languages").glob("*.po"))

#: Functions that say one phrase, and those that say one of two by a number.
_ONE, _COUNTED = ("say", "phrase", "mark", "phrased", "marked"), ("count", "phrased_count", "plural")

#: (context, phrase, its other form where it goes with a number)
Phrase = tuple[str | None, str, str | None]


@lru_cache(maxsize=1)
def said() -> dict[Phrase, list[str]]:
    """The literal phrases of `say`, `count`, `phrase` and `mark`, and of their likes in the core; with the files that
    say them, by their path in the package."""
    found: dict[Phrase, list[str]] = {}
    for path in sorted(PACKAGE.rglob("*.py")):
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if not isinstance(node, ast.Call) or not isinstance(node.func, ast.Name):
                continue
            told = [arg.value for arg in node.args if isinstance(arg, ast.Constant) and isinstance(arg.value, str)]
            phrase: Phrase | None = None
            if node.func.id in _ONE and told and isinstance(node.args[0], ast.Constant):
                phrase = told[1] if len(told) > 1 else None, told[0], None
            if node.func.id in _COUNTED and len(told) >= 2:
                phrase = told[2] if len(told) > 2 else None, told[0], told[1]
            if phrase is not None:
                places = found.setdefault(phrase, [])
                where = path.relative_to(PACKAGE).as_posix()
                if where not in places:
                    places.append(where)
    return found


def phrases() -> set[Phrase]:
    return set(said())


def referenced(path: Path) -> bytes:
    """A catalogue with the files that say each of its phrases, as it is to be written."""
    with path.open("rb") as file:
        catalogue: Catalog = read_po(file, locale=path.stem)
    places = {(context, text): where for (context, text, _), where in said().items()}
    for message in catalogue:
        text = message.id if isinstance(message.id, str) else message.id[0]
        message.locations = [(where, 0) for where in places.get((message.context, text), [])] if text else []
    made = io.BytesIO()
    write_po(made, catalogue, width=120, omit_header=True, include_lineno=False)
    head = path.read_bytes().split(b"\n\n", 1)[0]
    return head + b"\n\n" + made.getvalue().lstrip(b"\n")


if __name__ == "__main__":
    from golden_almanac.text.languages.catalogue import catalogue

    if sys.argv[1:] == ["--references"]:
        for path in CATALOGUES:
            path.write_bytes(referenced(path))
    for language in sys.argv[1:] if sys.argv[1:] != ["--references"] else []:
        known = catalogue(language)
        for context, text, many in sorted(phrases(), key=lambda one: (one[1], one[0] or "")):
            if not known.get((context, text)):
                sys.stdout.write(f"{(context, text, many)!r}\n")
