"""Numbers as people read them: three significant figures, units, percent apart from points.

Rounding belongs here and nowhere else: figures in files are unrounded.
"""

from __future__ import annotations

from decimal import ROUND_HALF_EVEN, Decimal
from functools import lru_cache
from math import floor, log10
from typing import Any

from ..core.measures import Measure

LOCALE = "en"
MINUS = "−"
_SCALES = ((1e12, "trillion", "T"), (1e9, "billion", "bn"), (1e6, "million", "M"))
#: Smaller numbers are written with a power of ten.
_TINY = 1e-6
_CURRENCIES = frozenset("EUR USD GBP CHF JPY".split())


def plain(value: float, digits: int = 3) -> str:
    """A number with at most so many significant figures: 1.24 million, 512,000, 23.5, 0.0456."""
    return _scaled(value, digits, long=True)


def short(value: float, digits: int = 3) -> str:
    """The same for axes and narrow columns: 1.24M, 512,000."""
    return _scaled(value, digits, long=False)


def amount(value: float, measure: Measure | None, digits: int = 3) -> str:
    """A value of a measure with its unit: 91.2% for a share, 6.0 min, €1.24 million."""
    if measure is not None and measure.share:
        return share(value)
    return _with_unit(plain(value, digits), None if measure is None else measure.unit)


def difference(value: float, measure: Measure | None) -> str:
    """A difference between two values of a measure, without sign: percentage points for shares."""
    if measure is not None and measure.share:
        return points(100 * value)
    return _with_unit(plain(abs(value)), None if measure is None else measure.unit)


def percent(value: float) -> str:
    """A percentage without sign: 169%, 36%, 9.9%, 0.4%."""
    size = abs(value)
    if 0 < size < 0.05:
        return "less than 0.1%"
    return f"{_decimal(size, 0 if size >= 9.95 and not 95 < size < 100 else 1)}%"


def share(value: float) -> str:
    """A rate between 0 and 1 as a percentage with one decimal: 91.2%, 100%."""
    return "100%" if value == 1 else "0%" if value == 0 else f"{fixed(100 * value, 1)}%"


def points(value: float) -> str:
    """Percentage points without sign: 4.6 points, 0.04 points."""
    size = abs(value)
    text = _decimal(size, 2 if 0 < size < 0.095 else 1)
    return f"{text} point" if text == "1.0" else f"{text} points"


def format_amount(value: float, measure: Measure | None) -> str:
    """A value of a measure as people read it; see `amount`."""
    return amount(value, measure)


def format_difference(value: float, measure: Measure | None) -> str:
    """A signed difference of a measure as people read it."""
    return signed(value, difference(value, measure))


def signed(value: float, text: str) -> str:
    """The text of a number with the sign of its value."""
    return ("+" if value > 0 else MINUS if value < 0 else "") + text


def fixed(value: float, decimals: int) -> str:
    """A number with exactly so many decimals, for the ticks of one axis."""
    return (MINUS if value < 0 else "") + _decimal(abs(value), decimals)


def whole(value: float) -> str:
    """A count: 25,386."""
    return _decimal(value, 0)


def p_value(p: float) -> str:
    if p < 0.0001:
        return "p below 0.0001"
    return f"p = {_decimal(p, 4 if p < 0.001 else 3)}"


def _scaled(value: float, digits: int, *, long: bool) -> str:
    size = abs(value)
    sign = MINUS if value < 0 else ""
    rounded = _significant(size, digits)
    for scale, word, letter in _SCALES:
        if rounded >= scale:
            text = _decimal(rounded / scale, max(0, digits - 1 - floor(log10(rounded / scale))))
            return f"{sign}{text} {word}" if long else f"{sign}{text}{letter}"
    if rounded == 0:
        return "0"
    if rounded < _TINY:
        power = floor(log10(rounded))
        return f"{sign}{_decimal(rounded / 10.0**power, digits - 1)} × 10^{MINUS}{-power}"
    decimals = max(0, digits - 1 - floor(log10(rounded)))
    # Whole numbers show no decimals they do not have.
    if float(size).is_integer():
        decimals = 0
    return sign + _decimal(rounded, min(decimals, 6))


def _significant(size: float, digits: int) -> float:
    if size == 0:
        return 0.0
    place = digits - 1 - floor(log10(size))
    return float(round(Decimal(repr(float(size))), place)) if place < 300 else size


def _with_unit(text: str, unit: str | None) -> str:
    if unit is None:
        return text
    if unit == "%":
        return text + "%"
    if unit in _CURRENCIES:
        return _currency(unit) + text
    return f"{text} {unit}"


@lru_cache(maxsize=16)
def _currency(code: str) -> str:
    from babel.numbers import get_currency_symbol

    return str(get_currency_symbol(code, locale=LOCALE))


@lru_cache(maxsize=4)
def _babel() -> Any:
    from babel import Locale

    return Locale.parse(LOCALE)


def _decimal(value: float, decimals: int) -> str:
    from babel.numbers import format_decimal

    exact = Decimal(repr(float(value))).quantize(Decimal(1).scaleb(-decimals), rounding=ROUND_HALF_EVEN)
    pattern = "#,##0" + ("." + "0" * decimals if decimals else "")
    return str(format_decimal(exact, format=pattern, locale=_babel(), decimal_quantization=False))
