"""Does the title of a chart say numbers that its data give?

A number of the title is looked for among the values drawn, their sums, shares, differences and ratios, and the figures
of the finding that the chart shows. A title of ours knows its numbers, and they are compared as such; of a title that a
person typed only the digits are known: a number is one of the data's when it has the same, rounded as it is written.
"""

from __future__ import annotations

import re
from itertools import islice, permutations
from typing import TYPE_CHECKING, Any

import numpy as np

from ..text.languages import Quantity, Statement

if TYPE_CHECKING:
    from .chart import Chart

#: Numbers of fewer digits than this fit almost any data, and are not looked for.
_LEAST_DIGITS = 2
#: Values set against each other in pairs.
_MOST_PAIRED = 60
_NUMBER = re.compile(r"\d[\d.,\u00a0\u2019']*\d|\d")
#: Dates of any language: a year, and a number before or behind the name of a month.
_DATES = re.compile(
    r"\b(?:19|20|21)\d\d\b(?:-\d\d)*|\b\d{1,2}\.? (?:de )?(?=[A-Za-zÀ-ÿ]{3,10}\.?(?: de)? \d{4})|[A-Z][a-z]+ \d{1,2}, "
)


def unfounded(chart: Chart) -> list[str]:
    """The numbers of the title that neither the data drawn nor the figures of its finding give."""
    if isinstance(chart.title, Statement):
        said = [piece for piece in chart.title.pieces if isinstance(piece, Quantity)]
        values = np.array(_values(chart)) if said else np.empty(0)
        return [str(number) for number in said if not _is_one(number.value, values)]
    wanted = [number for number in _numbers(chart.title) if len(_digits(number)) >= _LEAST_DIGITS]
    if not wanted:
        return []
    known = np.array([value for value in _values(chart) if np.isfinite(value) and value != 0.0])
    return [one for one in wanted if not _among(one, known)]


def _is_one(number: float, values: np.ndarray[Any, np.dtype[np.float64]]) -> bool:
    """Whether a number is a value, whatever its sign; a share may be said as a percentage."""
    sizes = np.abs(values)
    return any(np.isclose(scale * sizes, abs(number), rtol=1e-9, atol=1e-12).any() for scale in (1.0, 100.0))


def _numbers(title: str) -> list[str]:
    """The numbers of a title, dates taken out, and the 95% that names a range."""
    return [one for one in _NUMBER.findall(_DATES.sub(" ", title)) if one != "95"]


def _digits(number: str) -> str:
    return re.sub(r"\D", "", number).lstrip("0")


def _among(number: str, known: np.ndarray[Any, np.dtype[np.float64]]) -> bool:
    """Whether a value, rounded to as many digits, is written with those of the number; noughts at its end may be the
    scale."""
    digits = _digits(number)
    whole = digits.rstrip("0") or digits
    scale = np.floor(np.log10(np.abs(known)))
    for length in range(max(1, len(whole)), len(digits) + 1):
        told = int(digits[:length])
        exact = np.abs(known) / 10.0 ** (scale - length + 1)
        # Half a digit either way, and a hair more: who rounds to even and who does not are both right.
        if bool((np.abs(exact - told) <= 0.5 + 1e-9).any()):
            return True
    return False


def _values(chart: Chart) -> list[float]:
    """What a title may say: values, sums, shares, means, differences, ratios and percentages of what was drawn."""
    found: list[float] = [float(len(chart.data)), *_spread(chart.figures)]
    for name in chart.data.columns:
        column = chart.data[name]
        if column.dtype.kind not in "fiu":
            continue
        values = column.to_numpy(dtype=float)
        values = values[np.isfinite(values)]
        if not values.size:
            continue
        whole = float(values.sum())
        found += [*values, whole, float(values.mean()), float(np.median(values))]
        found += [100 * value / whole for value in values] if whole else []
        running = np.cumsum(np.sort(values)[::-1])
        found += [*running, *(100 * running / whole if whole else [])]
        found += [100 * (value / values.mean() - 1) for value in values] if values.mean() else []
        found += _pairs(values)
    return found


def _spread(figures: tuple[float, ...]) -> list[float]:
    """Figures of a finding as they are, as percent, and those near to 1 as a change in percent."""
    return [told for value in figures for told in (value, 100 * value, 100 * (value - 1))] + _pairs(np.array(figures))


def _pairs(values: np.ndarray[Any, np.dtype[np.float64]]) -> list[float]:
    kept = (
        values
        if values.size <= _MOST_PAIRED
        else np.concatenate([values[: _MOST_PAIRED // 2], values[-_MOST_PAIRED // 2 :]])
    )
    found = []
    for a, b in islice(permutations(kept.tolist(), 2), 4000):
        found.append(a - b)
        if b:
            found += [a / b, 100 * (a / b - 1)]
    return found
