"""Measures that people describe: "margin is revenue minus fuel cost, divided by revenue"."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any

from ..sql.expressions import quote_name
from ..tables import Table, Timeline
from .asked import Problem
from .lexicon import lexicon
from .parse import Parse
from .places import Places
from .vocabulary import Vocabulary
from .words import tokens

_DEFINES = re.compile(
    r"^\s*(?:let\s+|define\s+|call\s+)?(?:the\s+)?([A-Za-z][A-Za-z _-]{1,39}?)"
    r"\s+(?:is|means|equals|be|as|=)\s+(.+?)\s*[.!]?\s*$",
    re.IGNORECASE | re.DOTALL,
)
_SIGNS = {"minus": "-", "plus": "+", "divide": "/"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Definition:
    """A measure by its name: `sql` over sums, and a row of the table worked out: its `row` number, the `parts` of it
    that the formula takes, and what it gives."""

    name: str
    sql: str
    columns: tuple[str, ...]
    row: int | None = None
    parts: tuple[tuple[str, Any], ...] = ()
    gives: float | None = None


def defined(text: str, table: Table, known: Vocabulary, line: Timeline | None) -> Definition | None:
    """The definition in a sentence; None where it is none. Raises Problem where its formula cannot be read."""
    match = _DEFINES.match(text)
    if match is None or text.strip().endswith("?"):
        return None
    name, formula = " ".join(match[1].split()).lower(), match[2]
    if not re.search(r"\b(minus|plus|divided by|less|times|over|per)\b|[-+/−÷]", formula, re.IGNORECASE):
        return None
    words = lexicon()
    if (tuple(name.split()) in words.phrases) or name.split()[0] in (
        "what",
        "which",
        "who",
        "how",
        "why",
        "it",
        "there",
    ):
        return None
    said = tokens(formula.replace(" - ", " minus ").replace("−", " minus "))
    parse = Parse(table, known, words, line, Places(said, known, words, line).items())
    sql, columns, sign = "", [], ""
    for place, item in enumerate(parse.items):
        if (item.kind == "arithmetic" and item.tag in _SIGNS) or (item.kind == "by" and item.tag == "per"):
            sign = _SIGNS.get(item.tag, "/")
            continue
        if item.kind == "join" and item.words == ",":
            continue
        if parse.code(place) != "c":
            raise Problem(f"“{item.words}” is no figure of the table, so {name} cannot be reckoned.", "unread",
                          unread=(item.words,))  # fmt: skip
        column = parse.column(place)
        assert column is not None
        columns.append(column.name)
        part = f"sum({quote_name(column.name)})"
        if not sql:
            sql = part
        elif sign == "/":
            sql = f"({sql}) / {part}"
        elif sign:
            sql = f"{sql} {sign} {part}"
        else:
            raise Problem("Between two figures there is no sign.", "unread")
        sign = ""
    if len(columns) < 2 or sign:
        raise Problem("A measure is described by two figures at least, such as “revenue minus fuel cost”.", "unread")
    return _worked(Definition(name=name, sql=sql, columns=tuple(columns)), table)


def _worked(one: Definition, table: Table) -> Definition:
    """The formula worked out on the first row that has all its figures."""
    from dataclasses import replace

    unique = list(dict.fromkeys(one.columns))
    known = " AND ".join(f"{quote_name(name)} IS NOT NULL" for name in unique)
    if table.minimum > 1:
        return one
    numbers = {name: table.numbers(name) for name in unique}
    import numpy as np

    whole = np.all([np.isfinite(values) for values in numbers.values()], axis=0)
    if not whole.any():
        return one
    place = int(np.argmax(whole))
    parts = tuple((name, float(numbers[name][place])) for name in unique)
    row_sql = one.sql
    for name in unique:
        row_sql = row_sql.replace(f"sum({quote_name(name)})", quote_name(name))
    answer = table.store.query(f"SELECT CAST({row_sql} AS DOUBLE) AS v FROM source WHERE {known} LIMIT 1")
    gives = answer.column(0)[0].as_py() if answer.num_rows else None
    return replace(one, row=int(table.row_numbers()[place]), parts=parts, gives=None if gives is None else float(gives))
