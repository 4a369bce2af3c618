"""Numbers as people write them: signs of currencies, separators of thousands, percent, brackets, units."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from ...support.phrasing import phrased, together
from ..reading_guide import Guide
from .interpretation import NO_GUIDE, Reading

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
#: Words for thousands, millions and billions; "m" is a million of money and a metre of anything else.
_MAGNITUDES = {
    **dict.fromkeys(("k", "K", "thousand", "tsd", "tsd."), 1e3),
    **dict.fromkeys(("m", "M", "mn", "mio", "million", "millions", "millionen"), 1e6),
    **dict.fromkeys(("bn", "mrd", "billion", "milliarden"), 1e9),
}
#: The answers to mixed units.
BY_UNIT, HUNDREDTHS = "units in a column of their own", "percent as hundredths"
#: The answers to digits in groups of three, and to codes such as 12E3.
DECIMALS, THOUSANDS, CODES, POWERS = "decimals", "thousands", "codes", "numbers"
#: A number that could be whole thousands, or less than a thousand.
GROUPED = r"^[+-]?(?:[1-9]\d{0,2}\.\d{3}|\d{1,3})$"
_SPACES = re.compile(r"[\u00a0\u202f '’]")


def read(name: str, texts: list[str], guide: Guide = NO_GUIDE) -> Reading | None:
    """A reading if most texts are numbers in some dress; the separators are told from all of them together."""
    import pyarrow as pa

    step = guide.step("read texts", name)
    told: Mapping[str, Any] = step.facts if step is not None else {}
    matches = [_SHAPE.match(text) for text in texts]
    found = [match for match in matches if match is not None]
    if 2 * len(found) < len(texts) or any(_is_identifier(text) for text in texts):
        return None
    powers = [text for text in texts if re.fullmatch(r"\d+[eE]\d+", text)]
    if powers and not told and not any("." in text or "," in text for text in texts):
        asked = phrased(
            "{text} and others like it may be numbers in scientific form, or codes. They were left as text.",
            text=repr(powers[0]),
        )
        answer = guide.ask("codes or powers", name, asked, (CODES, POWERS))
        if answer == CODES:
            return None
        if not isinstance(answer, str):
            blank: list[Any] = [0.0 if match else None for match in matches]
            return Reading(
                what="numbers", check="codes or powers", values=blank, type=pa.float64(), question=answer, likely=False
            )
    bodies = [_SPACES.sub("", match["digits"]) for match in found]
    decimal = told.get("decimal") or _decimal_mark(bodies)
    if decimal is None or (not told and _numbered(found, texts)):
        return None
    doubt = None
    if not told and decimal == "." and guide.decimal_comma and _could_be_thousands(bodies):
        decimal = ","
    elif not told and decimal == "." and _could_be_thousands(bodies):
        asked = phrased(
            "every point has three digits behind it; it was read as a decimal point. It may part thousands instead."
        )
        answer = guide.ask("decimal mark", name, asked, (THOUSANDS, DECIMALS))
        decimal = "," if answer == THOUSANDS else "."
        doubt = None if isinstance(answer, str) else answer
    values: list[float | None] = []
    changed = []
    units: list[str | None] = []
    first: dict[str, str] = {}
    bare = any(not _signs(match)[1] for match in found)
    for text, match in zip(texts, matches, strict=True):
        times, unit = (1.0, None) if match is None else _unit(match, bare)
        value = None if match is None else _value(match, decimal)
        values.append(value if value is None or times == 1.0 else round(value * times, 6))
        units.append(unit)
        if match is not None:
            first.setdefault(units[-1] or "", text)
            if not re.fullmatch(r"[+-]?\d+(\.\d+)?", text):
                changed.append(text)
    sides = any(_signs(match)[0] for match in found) and any(
        _signs(match)[1] and not _signs(match)[0] for match in found
    )
    multiplied = any(_unit(match, bare)[0] != 1.0 for match in found)
    facts = {"as": "numbers", "decimal": decimal}
    unit_name = next((unit for unit in first if unit), None)
    question, split = None, None
    mixed = _mixed(first)
    if mixed is not None:
        text, choice = mixed
        answer = told.get("units") or guide.ask("mixed units", name, text, (choice,))
        if isinstance(answer, str):
            facts["units"] = answer
            if answer == HUNDREDTHS:
                values = [v if v is None or unit != "%" else v / 100 for v, unit in zip(values, units, strict=True)]
            else:
                split = [unit or None for unit in units]
            unit_name = None
        else:
            question = answer
    whole = all(value is None or (value.is_integer() and abs(value) < 2**53) for value in values)
    typed: list[Any] = [None if value is None else int(value) if whole else value for value in values]
    return Reading(
        what="numbers",
        check="mixed units" if mixed else "numbers as text",
        values=typed,
        type=pa.int64() if whole else pa.float64(),
        unit=unit_name,
        changed=tuple(changed),
        question=question,
        repair=_said(decimal, bodies, unit_name, facts.get("units"), multiplied, sides) if changed else None,
        facts=facts,
        units=split,
        doubt=doubt,
    )


def _numbered(found: list[re.Match[str]], texts: list[str]) -> bool:
    """Whether numbers are those of what stands behind them ("4000 Revenue", "5000 Fuel"): each word has a number of its
    own, and a unit would come again."""
    words = {match: _unit(match, False)[1] for match in found}
    behind: dict[str, set[str]] = {}
    for match, word in words.items():
        if not word:
            return False
        behind.setdefault(word, set()).add(match["digits"])
    return len(behind) >= 3 and len(found) == len(texts) and all(len(digits) == 1 for digits in behind.values())


def _could_be_thousands(bodies: list[str]) -> bool:
    """Whether all that have a point look like whole thousands, and those without are less than a thousand."""
    pointed = [body for body in bodies if "." in body]
    plain = all(re.fullmatch(r"[1-9]\d{0,2}\.\d{3}", body) for body in pointed)
    return bool(pointed) and plain and all(re.fullmatch(r"\d{1,3}", body) for body in bodies if "." not in body)


def decimals(texts: list[str]) -> bool:
    """Whether these texts are decimal numbers, as a database without a type for them keeps them."""
    return all(re.fullmatch(r"[+-]?\d+(\.\d+)?", text) for text in texts) and any("." in text for text in texts)


def _mixed(first: dict[str, str]) -> tuple[str, str] | None:
    """What is asked where cells bear different units, and the answer there is. `first` has a text for each unit."""
    named = [text for unit, text in first.items() if unit]
    if "%" in first and "" in first and len(named) == 1:
        return phrased(
            "some of its cells are percent ({percent}) and some are not ({other}).",
            percent=repr(first["%"]),
            other=repr(first[""]),
        ), HUNDREDTHS
    if len(named) > 1:
        shown = [repr(text) for text in named[:2]]
        return phrased("it mixes units or currencies ({shown}), which cannot be added up.", shown=shown), BY_UNIT
    return None


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
    other = "," if decimal == "." else "."
    spaced = _SPACES.split(match["digits"].strip().partition(decimal)[0])
    # Blanks part thousands or nothing: "+49 170 1234567" is a telephone.
    if len(spaced) > 1 and (any(len(group) != 3 for group in spaced[1:]) or match["minus"] == "+"):
        return None
    body = _SPACES.sub("", match["digits"])
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


def _unit(match: re.Match[str], bare: bool) -> tuple[float, str]:
    """What a cell is to be multiplied by ("1.2k", "€3 m", "2 Mio") and its unit; `bare` tells that some have none."""
    before, after = _signs(match)
    money = before.casefold() in _CURRENCIES
    times = _MAGNITUDES.get(after if after in ("k", "K", "m", "M") else after.casefold(), 1.0)
    if (after in ("m", "M") and not money) or (after == "K" and not (money or bare)):
        times = 1.0  # metres, kelvins
    signs = [before] if times != 1.0 else [before, after]
    return times, " ".join(_CURRENCIES.get(sign.casefold(), sign) for sign in signs if sign)


def _signs(match: re.Match[str]) -> tuple[str, str]:
    """What stands before the digits and behind them."""
    return (match["before"] or "").strip(), (match["after"] or "").strip()


def _is_identifier(text: str) -> bool:
    return bool(re.fullmatch(r"[+-]?0\d+", text) or re.fullmatch(r"\d{16,}", text))


def _said(decimal: str, bodies: list[str], unit: str | None, mixed: str | None, multiplied: bool, sides: bool) -> str:
    other = "," if decimal == "." else "."
    parts: list[str] = [phrased("numbers")]
    if any(decimal in body for body in bodies) and decimal == ",":
        parts.append(phrased("with a decimal comma"))
    if any(other in body for body in bodies):
        parts.append(
            phrased("with commas between thousands") if other == "," else phrased("with points between thousands")
        )
    if unit:
        parts.append(phrased("in {unit}", unit=unit))
    if sides:
        parts.append(phrased("with the unit before some and behind others"))
    if multiplied:
        parts.append(phrased("with words for thousands or millions multiplied out"))
    if mixed == BY_UNIT:
        parts.append(phrased("with the units in a column of their own"))
    if mixed == HUNDREDTHS:
        parts.append(phrased("with percent as hundredths"))
    return together(*parts)
