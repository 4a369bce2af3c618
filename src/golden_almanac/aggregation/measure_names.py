"""What columns and measures are called in a sentence."""

from __future__ import annotations

import re


def spoken(name: str, unit: str | None = None) -> str:
    """A column's name as said in a sentence: `delay_min` → "delay", `fuel_cost` → "fuel cost"."""
    words = [word for word in re.split(r"[_\s\"]+", re.sub(r"(?<=[a-z0-9])(?=[A-Z])", "_", name)) if word]
    if unit and len(words) > 1 and len(words[-1]) <= 7 and words[-1].casefold() in _UNIT_WORDS:
        words = words[:-1]
    return " ".join(word if word.isupper() else word.lower() for word in words) or name


def times_of(factor: float) -> int:
    """Of how many a ratio tells, where it is not one: 1,000 of complaints per 1,000 orders; nought where it is."""
    return round(factor) if factor >= 10 and factor == round(factor) else 0


#: Words that end as plurals do and are none, or have no singular that is said.
_AS_THEY_ARE = ("ss", "us", "is", "sales", "goods", "news", "series", "means", "species", "premises", "earnings")


def singular(name: str) -> str:
    """One of what a name counts: "order" of "orders", "bus trip" of "bus trips"; other names as they are."""
    if not name.endswith("s") or name.endswith(_AS_THEY_ARE):
        return name
    if name.endswith("ies") and len(name) > 4:
        return name[:-3] + "y"
    return name[:-2] if name.endswith(("sses", "xes", "ches", "shes", "zes")) else name[:-1]


_UNIT_WORDS = frozenset("min mins minutes hours hrs days sec pct percent kg km eur usd gbp chf jpy litres kwh".split())
