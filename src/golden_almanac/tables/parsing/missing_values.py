"""Spellings of "no value". They count only among numbers, dates or yes/no: "None" may be a name."""

from __future__ import annotations

_SPELLINGS = frozenset(
    (
        "n/a",
        "na",
        "n.a.",
        "#n/a",
        "null",
        "nil",
        "none",
        "nan",
        "-",
        "--",
        "–",
        "—",
        "?",
        ".",
        "(blank)",
        "(empty)",
        "missing",
        "unknown",
        "tbd",
        "k.a.",
        "keine angabe",
        "s/d",
        "s.o.",
        "n.d.",
        "#value!",
        "#ref!",
        "#div/0!",
    )
)


#: What databases and statistics programs write for it, which is nobody's name: not in a column of names either.
NEVER_NAMES = frozenset({"\\N", "<NA>", "(null)", "<null>"})


def is_spelled_missing(value: str) -> bool:
    return value.casefold() in _SPELLINGS or value in NEVER_NAMES
