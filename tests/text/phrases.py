"""Every phrase that the code says, read from its source.

`python -m tests.text.phrases de` prints what a catalogue lacks.
"""

from __future__ import annotations

import ast
import sys
from pathlib import Path

import golden_almanac

PACKAGE = Path(golden_almanac.__file__).parent

#: Functions that say one phrase, and those that say one of two by a number.
_ONE, _COUNTED = ("say", "phrase", "mark", "phrased", "marked"), ("count", "phrased_count", "plural")

#: (context, phrase, its other form where it goes with a number)
Phrase = tuple[str | None, str, str | None]


def phrases() -> set[Phrase]:
    """The literal phrases of `say`, `count`, `phrase` and `mark`, and of their likes in the core."""
    found: set[Phrase] = set()
    for path in sorted(PACKAGE.rglob("*.py")):
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if not isinstance(node, ast.Call) or not isinstance(node.func, ast.Name):
                continue
            told = [arg.value for arg in node.args if isinstance(arg, ast.Constant) and isinstance(arg.value, str)]
            if node.func.id in _ONE and told and isinstance(node.args[0], ast.Constant):
                found.add((told[1] if len(told) > 1 else None, told[0], None))
            if node.func.id in _COUNTED and len(told) >= 2:
                found.add((told[2] if len(told) > 2 else None, told[0], told[1]))
    return found


if __name__ == "__main__":
    from golden_almanac.text.languages.catalogue import catalogue

    for language in sys.argv[1:]:
        known = catalogue(language)
        for context, text, many in sorted(phrases(), key=lambda one: (one[1], one[0] or "")):
            if not known.get((context, text)):
                sys.stdout.write(f"{(context, text, many)!r}\n")
