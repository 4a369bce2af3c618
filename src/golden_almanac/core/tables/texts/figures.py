"""Numbers as people write them: signs of currencies, separators of thousands, percent, brackets, units."""

from __future__ import annotations

import re
from typing import Any

from ..problems import Question
from .reading import Reading

_CURRENCIES = {
    "€": "EUR",
    "$": "USD",
    "£": "GBP",
    "¥": "JPY",
    "eur": "EUR",
    "usd": "USD",
    "gbp": "GBP",
    "chf": "CHF",
    "jpy": "JPY",
    "sek": "SEK",
    "nok": "NOK",
    "dkk": "DKK",
    "fr.": "CHF",
    "us$": "USD",
}
_SIGN = "|".join(re.escape(sign) for sign in sorted(_CURRENCIES, key=len, reverse=True))
_SHAPE = re.compile(
    rf"^(?P<open>\()?\s*(?P<minus>[-−–+])?\s*(?P<before>{_SIGN})?\s*(?P<inner>[-−])?\s*"
    r"(?P<digits>\d[\d.,'’\u00a0\u202f ]*|[.,]\d+)(?P<power>[eE][+-]?\d{1,3})?\s*"
    rf"(?P<after>%|{_SIGN}|[A-Za-zµ°][A-Za-z/²³°]{{0,9}})?\s*(?P<trail>-)?\s*(?P<close>\))?$",
    re.IGNORECASE,
)
_SPACES = re.compile(r"[\u00a0\u202f '’]")


def read(texts: list[str]) -> Reading | None:
    """A reading if most texts are numbers in some dress; the separators are told from all of them together."""
    import pyarrow as pa

    matches = [_SHAPE.match(text) for text in texts]
    found = [match for match in matches if match is not None]
    if 2 * len(found) < len(texts) or any(_is_identifier(text) for text in texts):
        return None
    bodies = [_SPACES.sub("", match["digits"]) for match in found]
    decimal = _decimal_mark(bodies)
    if decimal is None:
        return None
    values: list[float | None] = []
    changed = []
    units: dict[str, str] = {}
    for text, match in zip(texts, matches, strict=True):
        value = None if match is None else _value(match, decimal)
        values.append(value)
        if match is not None:
            unit = _unit(match)
            units.setdefault(unit, text)
            if not re.fullmatch(r"[+-]?\d+(\.\d+)?", text):
                changed.append(text)
    named = {unit: text for unit, text in units.items() if unit}
    whole = all(value is None or (value.is_integer() and abs(value) < 2**53) for value in values)
    kind = pa.int64() if whole else pa.float64()
    typed: list[Any] = [None if value is None else int(value) if whole else value for value in values]
    question = None
    if "%" in named and "" in units:
        question = Question(
            text=f"some of its cells are percent ({named['%']!r}) and some are not ({units['']!r}); write them alike."
        )
    elif len(named) > 1:
        shown = " and ".join(repr(text) for text in list(named.values())[:2])
        question = Question(text=f"it mixes units or currencies ({shown}), which cannot be added up; split it by unit.")
    unit_name = next(iter(named), None)
    return Reading(
        what="numbers",
        check="mixed units" if question else "numbers as text",
        values=typed,
        type=kind,
        unit=unit_name,
        changed=tuple(changed),
        question=question,
        repair=_said(decimal, bodies, unit_name) if changed else None,
    )


def _decimal_mark(bodies: list[str]) -> str | None:
    """The decimal mark of a whole column, "." or ","; None where its separators contradict each other."""
    votes = {".": 0, ",": 0}
    for body in bodies:
        dots, commas = body.count("."), body.count(",")
        if dots and commas:
            last = max(body.rfind("."), body.rfind(","))
            votes[body[last]] += 1
        elif dots + commas == 1:
            mark = "." if dots else ","
            whole, _, rest = body.partition(mark)
            if len(rest) != 3 or len(whole) > 3 or whole in ("", "0"):
                votes[mark] += 1  # 1,5 and 0,125 can only be decimals; 1,234 may be either
        elif dots > 1:
            votes[","] += 1
        elif commas > 1:
            votes["."] += 1
    if votes["."] and votes[","]:
        return None
    if votes[","]:
        return ","
    if votes["."]:
        return "."
    # Only groups of three behind single marks: "1,234" is a thousand, "1.234" a decimal, as most write them.
    return "."


def _value(match: re.Match[str], decimal: str) -> float | None:
    body = _SPACES.sub("", match["digits"])
    other = "," if decimal == "." else "."
    whole, _, rest = body.partition(decimal)
    groups = whole.split(other)
    if len(groups) > 1 and (not 1 <= len(groups[0]) <= 3 or any(len(group) != 3 for group in groups[1:])):
        return None
    if not re.fullmatch(r"\d*", rest) or not re.fullmatch(r"\d*", "".join(groups)) or not ("".join(groups) or rest):
        return None
    if bool(match["open"]) != bool(match["close"]):
        return None
    number = float(f"{''.join(groups) or '0'}.{rest or '0'}{match['power'] or ''}")
    negative = (match["minus"] or "") in ("-", "−", "–") and bool(match["minus"])
    negative = negative or bool(match["inner"]) or bool(match["open"]) or bool(match["trail"])
    return -number if negative and number else number


def _unit(match: re.Match[str]) -> str:
    sign = (match["before"] or match["after"] or "").strip()
    return _CURRENCIES.get(sign.casefold(), sign)


def _is_identifier(text: str) -> bool:
    return bool(re.fullmatch(r"[+-]?0\d+", text) or re.fullmatch(r"\d{16,}", text))


def _said(decimal: str, bodies: list[str], unit: str | None) -> str:
    other = "," if decimal == "." else "."
    parts = ["numbers"]
    if any(decimal in body for body in bodies) and decimal == ",":
        parts.append("with a decimal comma")
    if any(other in body for body in bodies):
        parts.append(f"with {'commas' if other == ',' else 'points'} between thousands")
    if unit:
        parts.append(f"in {unit}")
    return " ".join(parts)
