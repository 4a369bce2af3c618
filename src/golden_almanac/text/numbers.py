"""Numbers as people read them: three significant figures, units, percent apart from points.

Rounding belongs here and nowhere else: figures in files are unrounded.
"""

from __future__ import annotations

from decimal import ROUND_HALF_EVEN, Context, Decimal
from functools import lru_cache
from math import floor, isfinite, log10
from typing import Any

from ..aggregation.measures import Measure
from .languages import Digits, count, digits, quantity, say, spelled, statement, voice

MINUS = "−"
#: (size, its name where one, where several, and its letters on an axis or with a currency).
_SCALES = ((1e12, "trillion", "T"), (1e9, "billion", "bn"), (1e6, "million", "M"))
#: Languages whose numbers of four digits are written without a mark between the thousands.
_FOUR_TOGETHER = frozenset({"es"})
#: Languages that write millions of a currency with letters: 1,24 M€.
_LETTERS_BEFORE_SYMBOL = frozenset({"es", "fr"})
#: Digits of a figure that is written out.
_LONGEST = 12
#: Figures of tables are written in full below this.
_IN_FULL = 1e10
#: Numbers from here on are written in millions.
WRITTEN_OUT = 1e6
#: Larger numbers are written with a power of ten.
HUGE = 1e18
#: Smaller numbers are written with a power of ten.
_TINY = 1e-6
_CURRENCIES = frozenset("EUR USD GBP CHF JPY".split())


def plain(value: float, digits: int = 3) -> str:
    """A number with at most so many significant figures: 1.24 million, 512,000, 23.5, 0.0456."""
    return quantity(_scaled(value, digits, long=True), value)


def short(value: float, digits: int = 3) -> str:
    """The same for axes and narrow columns: 1.24M, 512,000."""
    return _scaled(value, digits, long=False)


def amount(value: float, measure: Measure | None, digits: int = 3) -> str:
    """A value of a measure with its unit: 91.2% for a share, 6.0 min, €1.24 million."""
    if measure is not None and measure.decimals is not None and (text := _stated(value, measure, measure.decimals)):
        return text
    if measure is not None and measure.share:
        return share(value)
    unit = None if measure is None else measure.unit
    return quantity(_with_unit(_scaled(value, digits, long=True), short(value, digits), unit), value)


def _stated(value: float, measure: Measure, decimals: int) -> str | None:
    """A value with the decimals that its measure is written with; None where it is so large that its scale is named."""
    if measure.share:
        return quantity(as_percent(fixed(100 * value, decimals)), value)
    if abs(value) >= WRITTEN_OUT:
        return None
    text = fixed(value, decimals)
    return quantity(_with_unit(text, text, measure.unit), value)


def in_full(value: float, measure: Measure | None) -> str:
    """A figure to be added up by others: all digits before the point, those behind it where it is small."""
    size = abs(value)
    if measure is not None and (measure.share or (size < WRITTEN_OUT and measure.decimals is not None)):
        return amount(value, measure)
    if size >= _IN_FULL or (size < 1_000 and not size.is_integer()):
        return amount(value, measure, 4)
    unit = None if measure is None else measure.unit
    text = (MINUS if value < 0 else "") + _decimal(size, 0)
    return quantity(_with_unit(text, text, unit), value)


def difference(value: float, measure: Measure | None, digits: int = 3) -> str:
    """A difference between two values of a measure, without sign: percentage points for percentages."""
    decimals = None if measure is None else measure.decimals
    if measure is not None and measure.in_points:
        value = 100 * value if measure.share else value
        return points(value, further=digits - 3 if decimals is None else decimals - 1, least=decimals is None)
    if measure is not None and decimals is not None and (text := _stated(abs(value), measure, decimals)):
        return text
    size, unit = abs(value), None if measure is None else measure.unit
    return quantity(_with_unit(_scaled(size, digits, long=True), short(size, digits), unit), value)


def percent(value: float) -> str:
    """A percentage without sign: 169%, 36%, 9.9%, 0.4%."""
    size = abs(value)
    if 0 < size < 0.05:
        return quantity(say("less than {size}", size=str(as_percent(_decimal(0.1, 1)))), value)
    return quantity(as_percent(_decimal(size, 0 if size >= 9.95 and not 95 < size < 100 else 1)), value)


def share(value: float) -> str:
    """A rate between 0 and 1 as a percentage with one decimal: 91.2%, 100%."""
    return quantity(as_percent(_decimal(100 * value, 0) if value in (0, 1) else fixed(100 * value, 1)), value)


def points(value: float, further: int = 0, *, least: bool = True) -> str:
    """Percentage points without sign: 4.6 points, 0.04 points; with `further` decimals for arithmetic, and one more
    for the `least`."""
    size = abs(value)
    places = (2 if least and 0 < size < 0.095 else 1) + further
    shown = rounded(size, places)
    return quantity(count(shown, "{size} point", "{size} points", size=_decimal(size, places)), value)


def per_cent(value: float) -> str:
    """A percentage with its sign: +18%, −4.6%."""
    return signed(value, percent(value))


def format_amount(value: float, measure: Measure | None) -> str:
    """A value of a measure as people read it; see `amount`."""
    return amount(value, measure)


def format_difference(value: float, measure: Measure | None) -> str:
    """A signed difference of a measure as people read it."""
    return signed(value, difference(value, measure))


def signed(value: float, text: str) -> str:
    """The text of a number with the sign of its value."""
    sign = "+" if value > 0 else MINUS if value < 0 else ""
    return quantity(statement((sign, spelled(text))), value)


def fixed(value: float, decimals: int) -> str:
    """A number with exactly so many decimals, for the ticks of one axis."""
    return (MINUS if value < 0 else "") + _decimal(abs(value), decimals)


def whole(value: float) -> str:
    """A count: 25,386."""
    return quantity(_decimal(value, 0), value)


def trimmed(value: float, digits: int = 6) -> str:
    """A number with all its digits and no noughts behind them, as cut points are told."""
    text = _scaled(value, digits, long=True)
    return _bare(text) if text[-1:].isdigit() else text


def at_place(value: Decimal, place: int, *, long: bool = True) -> str:
    """A number that is rounded to 10 to the `place`, with all decimals down to there: 4.63 million, 4,632,000,
    0.30."""
    size, sign = abs(value), MINUS if value < 0 else ""
    if size >= Decimal(HUGE) or 0 < size < Decimal(_TINY):
        return sign + _powered(float(size), max(1, size.adjusted() - place + 1))
    for scale, word, letter in _SCALES:
        # Past two decimals the digits are easier to add in the scale below.
        if size >= Decimal(scale) and round(log10(scale)) - place <= 2:
            text = _decimal(float(size / Decimal(scale)), max(0, round(log10(scale)) - place))
            return sign + (_scale(float(size) / scale, text, word) if long else scale_letter(text, letter))
    return sign + _decimal(float(size), max(0, -place))


def amount_at(value: Decimal, place: int, measure: Measure | None) -> str:
    """The same as an amount of a measure, with its unit."""
    unit = None if measure is None else measure.unit
    return _with_unit(at_place(value, place), at_place(value, place, long=False), unit)


def figure(value: float, digits: int = 4) -> str:
    """A figure to reckon on with: so many significant digits without noughts behind them, no words for its scale; a
    power of ten where it is very small or large."""
    if value == 0 or not isfinite(value):
        return "0" if value == 0 else "–"
    size, sign = _significant(abs(value), digits), MINUS if value < 0 else ""
    power = floor(log10(size))
    if not -5 <= power < _LONGEST:
        return sign + _powered(size, digits, bare=True)
    return sign + _bare(_decimal(size, max(0, digits - 1 - power)))


def with_unit(value: float, unit: str | None) -> str:
    """A value as it stands in a row, with its unit."""
    text = figure(float(value), 8)
    return _with_unit(text, text, unit)


def _powered(size: float, digits: int, *, bare: bool = False) -> str:
    """A number with a power of ten: 1.50 × 10^−9; `bare` without the noughts behind it."""
    exact = Decimal(repr(float(size)))
    mantissa = _decimal(float(exact.scaleb(-exact.adjusted())), digits - 1)
    power = exact.adjusted()
    return f"{_bare(mantissa) if bare else mantissa} × 10^{MINUS if power < 0 else ''}{abs(power)}"


def _bare(text: str) -> str:
    """A decimal number without the noughts behind it."""
    point = _decimal(0.5, 1)[1]
    return str(text).rstrip("0").rstrip(point) if point in text else text


def p_value(p: float) -> str:
    if p < 0.0001:
        return say("p below {size}", size=_decimal(0.0001, 4))
    return f"p = {_decimal(p, 4 if p < 0.001 else 3)}"


def _scaled(value: float, digits_kept: int, *, long: bool) -> str:
    size = abs(value)
    sign = MINUS if value < 0 else ""
    rounded = _significant(size, digits_kept)
    if rounded >= HUGE or 0 < rounded < _TINY:
        return sign + _powered(rounded, digits_kept)
    for scale, word, letter in _SCALES:
        if rounded >= scale:
            text = _decimal(rounded / scale, max(0, digits_kept - 1 - floor(log10(rounded / scale))))
            return sign + (_scale(rounded / scale, text, word) if long else scale_letter(text, letter))
    if rounded == 0:
        return _decimal(0.0, 0)
    decimals = max(0, digits_kept - 1 - floor(log10(rounded)))
    # Whole numbers show no decimals they do not have.
    if float(size).is_integer():
        decimals = 0
    return sign + _decimal(rounded, min(decimals, 6), floor(log10(rounded)) - digits_kept + 1)


def _significant(size: float, digits: int) -> float:
    if size == 0:
        return 0.0
    exact = Decimal(repr(float(size)))
    step = Decimal(1).scaleb(exact.adjusted() - digits + 1)
    return float(exact.quantize(step, rounding=ROUND_HALF_EVEN))


def _scale(number: float, text: str, word: str) -> str:
    """ "1.24 million", by the rule of number of the language."""
    if word == "million":
        return count(number, "{size} million", "{size} million", size=text)
    if word == "billion":
        return count(number, "{size} billion", "{size} billion", size=text)
    return count(number, "{size} trillion", "{size} trillion", size=text)


def scale_letter(text: str, letter: str) -> str:
    """ "1.24M": a number with the letters of its scale, as on an axis."""
    if letter == "M":
        return say("{size}M", size=text)
    if letter == "bn":
        return say("{size}bn", size=text)
    return say("{size}T", size=text) if letter else text


def _with_unit(text: str, compact: str, unit: str | None) -> str:
    """A number with its unit; `compact` is how it is written where a currency is written with the letters of its
    scale."""
    if unit in _CURRENCIES:
        return _money(text, compact, _currency(unit, voice().locale))
    if unit is None:
        return text
    if unit == "days":
        return say("{size} days", size=text)
    return as_percent(text) if unit == "%" else statement((text, f" {unit}"))


def as_percent(text: str) -> str:
    """A number as a percentage, by the pattern of the locale: "12%", "12 %"."""
    before, behind = _percent_signs(voice().locale)
    return statement((before, text, behind))


@lru_cache(maxsize=16)
def _percent_signs(locale: str) -> tuple[str, str]:
    if locale == "en":
        return "", "%"
    pattern = _babel(locale).percent_formats[None]
    return str(pattern.prefix[0]), str(pattern.suffix[0]).replace("\u202f", "\u00a0")


def _money(text: str, compact: str, symbol: str) -> str:
    """An amount of money: the symbol before or behind it, as the locale has it."""
    if _symbol_first(voice().locale):
        return statement((symbol, text))
    if voice().language in _LETTERS_BEFORE_SYMBOL:
        return statement((compact, symbol if compact[-1:].isalpha() else f"\u00a0{symbol}"))
    return statement((text, f"\u00a0{symbol}"))


@lru_cache(maxsize=16)
def _symbol_first(locale: str) -> bool:
    return locale == "en" or "¤" in str(_babel(locale).currency_formats["standard"].prefix[0])


@lru_cache(maxsize=64)
def _currency(code: str, locale: str) -> str:
    from babel.numbers import get_currency_symbol

    return str(get_currency_symbol(code, locale=locale))


@lru_cache(maxsize=16)
def _babel(locale: str) -> Any:
    from babel import Locale

    return Locale.parse(locale)


#: Doubles have up to 309 digits before the point; no figure may stumble over its own size.
_WIDE = Context(prec=400)


def rounded(value: float, places: int) -> Decimal:
    """A number with so many places behind the point, halves to even."""
    whole = Decimal(1).scaleb(-places)
    return Decimal(repr(float(value))).quantize(whole, rounding=ROUND_HALF_EVEN, context=_WIDE)


def _decimal(value: float, decimals: int, place: int | None = None) -> Digits:
    """A number with so many decimals; `place` is the power of ten that it was rounded to, where that is another."""
    from babel.numbers import format_decimal

    own = voice()
    exact = rounded(value, decimals)
    whole_part = "0" if own.language in _FOUR_TOGETHER and abs(exact) < 10_000 else "#,##0"
    pattern = whole_part + ("." + "0" * decimals if decimals else "")
    text = str(format_decimal(exact, format=pattern, locale=_babel(own.locale), decimal_quantization=False))
    # The thin space between thousands is in few fonts; the usual one looks the same.
    return digits(
        text.replace("\u202f", "\u00a0"), float(exact), decimals, -decimals if place is None else max(place, -decimals)
    )
