"""What columns and measures are called in a sentence."""

from __future__ import annotations

import re

from ..support.english_nouns import singular as singular
from ..support.name_parts import apart


def spoken(name: str, unit: str | None = None) -> str:
    """A column's name as said in a sentence: `delay_min` → "delay", `fuel_cost` → "fuel cost"."""
    words = [word for word in re.split(r"[_\s\"]+", apart(name)) if word]
    if unit and len(words) > 1 and len(words[-1]) <= 7 and words[-1].casefold() in _UNIT_WORDS:
        words = words[:-1]
    return " ".join(_thousands(word) if word.isupper() or word.islower() else word.lower() for word in words) or name


def _thousands(word: str) -> str:
    """ "kEUR" as it is written; any other word as it is."""
    return f"k{word[1:].upper()}" if _OF_MONEY.fullmatch(word) else word


_OF_MONEY = re.compile(r"k(?:eur|usd|gbp|chf|sek|nok|dkk)")


def times_of(factor: float) -> int:
    """Of how many a ratio tells, where it is not one: 1,000 of complaints per 1,000 orders; nought where it is."""
    return round(factor) if factor >= 10 and factor == round(factor) else 0


_UNIT_WORDS = frozenset("min mins minutes hours hrs days sec pct percent kg km eur usd gbp chf jpy litres kwh".split())
