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


def is_spelled_missing(value: str) -> bool:
    return value.casefold() in _SPELLINGS
