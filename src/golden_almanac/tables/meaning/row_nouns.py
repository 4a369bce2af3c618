"""What a row is: a sailing, an order, a patient; said by who reads the table, or plain from its key's or own name."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from ...support.english_nouns import plural, singular
from ...support.name_parts import apart

if TYPE_CHECKING:
    from ..table import Table

#: Ends of a key's name that say that it numbers something.
_NUMBERED = re.compile(r"[_\s-]*(id|ids|no|nr|num|number|key|code|ref|uuid|guid)$", re.IGNORECASE)
#: A key has another value on so many of the rows.
_ALL = 0.95
#: Names that say nothing of what is numbered.
_EMPTY = frozenset(
    "row rows record records entry entries line lines item index table data file sheet source export report query id "
    "result results list sample test input output values master reference register name ticket".split()
)
#: What rows say and are not: nobody counts wages by the row.
_SAID_OF_THEM = frozenset(
    "wage price rate premium salary cost income score temperature index value amount figure number statistic level "
    "earning share percentage".split()
)
_WORDS = re.compile(r"[a-z]+( [a-z]+)?")


def row_noun(table: Table) -> str:
    """What rows are called, many of them: "sailings"; "" where nothing says so plainly."""
    if table.noun:
        return table.noun
    for column in table.columns:
        numbered = _NUMBERED.sub("", _apart(column.name))
        # Of a table in its file labels are counted to a few percent.
        whole = column.distinct >= _ALL * table.rows and not column.missing
        if column.role.value == "key" and whole and numbered != _apart(column.name) and _is_noun(numbered):
            return plural(singular(numbered))
    stem = _apart(re.sub(r"\.\w+(\.\w+)?$", "", table.name.rpartition("/")[2]))
    repeated = [_apart(column.name) for column in table.columns if column.distinct < _ALL * table.rows]
    named = {singular(word) for name in repeated for word in (name, _NUMBERED.sub("", name))}
    if singular(stem) in named:
        # A table of harbours by month: its rows are no harbours.
        return ""
    if singular(stem).rpartition(" ")[2] in _SAID_OF_THEM:
        return ""
    return stem if _is_noun(stem) and singular(stem) != stem and plural(singular(stem)) == stem else ""


def _apart(name: str) -> str:
    """The words of a name, in small letters: "SailingID" is "sailing id"."""
    spaced = apart(name, " ")
    return " ".join(re.split(r"[_\s-]+", spaced)).strip().casefold()


def _is_noun(text: str) -> bool:
    return bool(_WORDS.fullmatch(text)) and len(text) > 2 and not _EMPTY & set(text.split())
