"""Sentences of a workbook as formulas: each number that the data on a sheet give is reckoned from its cells.

A corrected cell moves figure, chart and sentence together. Where a correction turns what the sentence claims (a rise
into a fall, another leader), the sentence is no longer shown, but what the cells say now.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ..text import dates, numbers

#: Letters that a text within a formula may have.
_LITERAL = 250
_NUMBER = re.compile(r"(?<![\w.,])(\d[\d.,\u00a0']*\d|\d)(?![\w])")
#: What stands behind a number in its scale, in any of the languages; longer words first.
_SCALES = (
    (1e9, ("mil millones", "billion", "bn", "Mrd", "milliard", "Md", "mM")),
    (1e12, ("trillion", "Bio", "billón", "billones")),
    (1e6, ("million", "millón", "millones", "Mio", "M")),
)
#: Months of a year, which is what periods are set against.
YEAR = 12


@dataclass(frozen=True, slots=True, kw_only=True)
class Cells:
    """The data of one sheet: `labels` in column letter `label`, numeric columns as (letter, name, values), rows from
    `first` (counted from 1). `sheet` is "" on the sheet itself; `series` says that the labels are periods in order."""

    sheet: str
    label: str
    labels: tuple[str, ...]
    columns: tuple[tuple[str, str, tuple[float, ...]], ...]
    first: int
    series: bool = False

    def cell(self, letter: str, place: int) -> str:
        return f"{self._at()}${letter}${self.first + place}"

    def span(self, letter: str) -> str:
        return f"{self._at()}${letter}${self.first}:${letter}${self.first + len(self.labels) - 1}"

    def _at(self) -> str:
        return "'" + self.sheet.replace("'", "''") + "'!" if self.sheet else ""


@dataclass(frozen=True, slots=True)
class _Reckoned:
    """A value that cells give, its formula, and what must stay true for the sentence to hold."""

    value: float
    formula: str
    holds: str = ""


def live(sentence: str, cells: Sequence[Cells], otherwise: str = "") -> str:
    """The sentence as a formula, or "" where none of its numbers comes from the cells.

    `otherwise` is the formula (without its equals sign) of what is shown where the claim holds no longer.
    """
    pieces: list[str] = []
    holds: list[str] = []
    at, found = 0, False
    for match in _NUMBER.finditer(sentence):
        reckoned = _source(sentence, match, cells)
        if reckoned is None:
            continue
        found = True
        pieces += [*literals(sentence[at : match.start()]), _written(match[1], reckoned)]
        at = match.end()
        holds += [reckoned.holds] if reckoned.holds and reckoned.holds not in holds else []
    if not found:
        return ""
    pieces += literals(sentence[at:])
    holds += [condition for cells in cells for condition in _leaders(sentence, cells) if condition not in holds]
    text = "&".join(pieces)
    if holds and otherwise:
        text = f"IF(AND({','.join(holds)}),{text},{otherwise})"
    return f"={text}" if len(text) < 8000 else ""


def now(cells: Cells, name: str = "") -> str:
    """What the last cell of a series says now, and how it lies to a year before, without its equals sign."""
    letter, _, values = cells.columns[0]
    last = cells.cell(letter, len(values) - 1)
    told = [*literals(f"{name}: "), f"FIXED({last},2)"] if name else [f"FIXED({last},2)"]
    if len(values) > YEAR:
        before = cells.cell(letter, len(values) - 1 - YEAR)
        told += [*literals(" ("), f"FIXED(100*({last}/{before}-1),1)", *literals("%)")]
    return "&".join(told)


def literals(text: str) -> list[str]:
    """A text as parts of a formula, none longer than office programs take."""
    return ['"' + text[start : start + _LITERAL].replace('"', '""') + '"' for start in range(0, len(text), _LITERAL)]


def _source(sentence: str, match: re.Match[str], cells: Sequence[Cells]) -> _Reckoned | None:
    """Where a number of a sentence comes from; the first source that, rounded as it is written, is the number."""
    written, behind = match[1], sentence[match.end() : match.end() + 12]
    if re.fullmatch(r"(19|20|21)\d\d", written) or len(re.sub(r"\D", "", written).lstrip("0")) < 2:
        return None
    percent = behind.lstrip("\u00a0 ").startswith("%")
    value, size = _parsed(written)
    scale = _scale(behind)
    for candidate in _candidates(sentence, cells, percent):
        shown = abs(candidate.value) * (100.0 if percent else 1.0) / scale
        if abs(shown - value) <= 0.5 * size * (1 + 1e-9):
            factor = "100*" if percent else ""
            divisor = f"/{scale:.0f}" if scale != 1 else ""
            return _Reckoned(candidate.value, f"{factor}ABS({candidate.formula}){divisor}", candidate.holds)
    return None


def _parsed(written: str) -> tuple[float, float]:
    """A number as written in the current language, and the size of its last digit that counts."""
    point = numbers.fixed(0.5, 1)[1]
    plain = "".join("." if letter == point else letter for letter in written if letter.isdigit() or letter == point)
    decimals = len(plain.split(".")[1]) if "." in plain else 0
    noughts = len(plain) - len(plain.rstrip("0")) if not decimals else 0
    # Numbers have three digits that count: of 27,700 the last noughts may be rounded, of 100 they may not.
    rounded = noughts if len(plain) - noughts <= 3 and len(plain) > 3 else 0
    return float(plain), 10.0 ** (rounded - decimals)


def _scale(behind: str) -> float:
    for size, texts in _SCALES:
        if any(behind.lstrip("\u00a0 ").startswith(text) for text in texts):
            return size
    return 1.0


def _written(written: str, one: _Reckoned) -> str:
    """The number as a formula, with the decimals and rounding that it was written with."""
    point = numbers.fixed(0.5, 1)[1]
    decimals = len(written.split(point)[1]) if point in written else 0
    _, size = _parsed(written)
    inner = f"ROUND({one.formula},-{int(np.log10(size))})" if size > 1 else one.formula
    return f"FIXED({inner},{decimals})"


def _candidates(sentence: str, cells: Sequence[Cells], percent: bool) -> Iterator[_Reckoned]:
    """What a number of the sentence may be. Only what the sentence is about counts, or chance would find a source for
    anything: the rows that it names, the ends of a series and of its fitted line, the year around a date that it names.
    """
    for one in cells:
        named = [place for place, label in enumerate(one.labels) if _named(label, sentence)]
        for letter, name, column in one.columns:
            values = np.array(column, dtype=float)
            known = np.flatnonzero(np.isfinite(values))
            if not known.size:
                continue
            if one.series:
                yield from _of_series(one, letter, values, known, named, percent, name == "fitted")
            else:
                yield from _of_labels(one, letter, values, named, percent)


def _of_series(
    cells: Cells, letter: str, values: Any, known: Any, named: Sequence[int], percent: bool, fitted: bool
) -> Iterator[_Reckoned]:
    first, last = int(known[0]), int(known[-1])
    if not percent:
        for place in (last, *named):
            yield _Reckoned(float(values[place]), cells.cell(letter, place))
        if abs(values[last]) <= 1 and last >= YEAR:
            # A share changes by points.
            here, there = cells.cell(letter, last), cells.cell(letter, last - YEAR)
            change = float(values[last] - values[last - YEAR])
            yield _Reckoned(100 * change, f"(100*({here}-{there}))", f"{here}{'>' if change > 0 else '<'}{there}")
        return
    if abs(values[last]) <= 1:
        yield _Reckoned(float(values[last]), cells.cell(letter, last))
    pairs = [(last, first)] if fitted else [(last, last - YEAR)]
    for a, b in pairs:
        if b >= 0 and values[b]:
            yield _change(cells.cell(letter, a), cells.cell(letter, b), float(values[a] / values[b] - 1))
    for place in named:
        if YEAR <= place <= len(values) - 2:
            past = min(len(values), place + YEAR)
            after, before = values[place:past], values[place - YEAR : place]
            if np.isfinite(after).all() and np.isfinite(before).all() and before.mean():
                yield _change(
                    f"AVERAGE({cells.cell(letter, place)}:{_bare(cells.cell(letter, past - 1))})",
                    f"AVERAGE({cells.cell(letter, place - YEAR)}:{_bare(cells.cell(letter, place - 1))})",
                    float(after.mean() / before.mean() - 1),
                )


def _of_labels(cells: Cells, letter: str, values: Any, named: Sequence[int], percent: bool) -> Iterator[_Reckoned]:
    span, whole = cells.span(letter), float(np.nansum(values))
    if not percent:
        for place in named:
            yield _Reckoned(float(values[place]), cells.cell(letter, place))
        return
    shares = bool((values[np.isfinite(values)] >= 0).all()) and whole > 0
    if shares and len(named) > 1:
        told = "+".join(cells.cell(letter, place) for place in named)
        yield _Reckoned(float(values[list(named)].sum() / whole), f"(({told})/SUM({span}))")
    for place in named:
        cell = cells.cell(letter, place)
        if shares:
            yield _Reckoned(float(values[place] / whole), f"({cell}/SUM({span}))")
        if abs(values[place]) <= 1:
            yield _Reckoned(float(values[place]), cell)
        if not shares and abs(values[place]) > 1:
            yield _Reckoned(float(values[place]) / 100, f"({cell}/100)", f"{cell}{'>' if values[place] > 0 else '<'}0")
        for other in named:
            if other != place and values[other]:
                yield _change(cell, cells.cell(letter, other), float(values[place] / values[other] - 1))


def _change(here: str, there: str, change: float) -> _Reckoned:
    """A change from one cell to another, which must keep its direction."""
    return _Reckoned(change, f"({here}/{there}-1)", f"{here}{'>' if change > 0 else '<'}{there}")


def _bare(cell: str) -> str:
    """A cell without its sheet, as the end of a range has it."""
    return cell.rpartition("!")[2]


def _named(label: str, sentence: str) -> bool:
    """Whether a sentence names a row: by its label, or, for a date, as dates are said."""
    if re.fullmatch(r"\d{4}-\d\d-\d\d", label):
        day = np.datetime64(label)
        return dates.day(day) in sentence or (label.endswith("-01") and f" {dates.month(day)}" in sentence)
    return len(label) > 1 and re.search(rf"(?<!\w){re.escape(label)}(?!\w)", sentence) is not None


def _leaders(sentence: str, cells: Cells) -> list[str]:
    """That a label which leads, and which the sentence names, leads still."""
    if cells.series or not cells.columns or len(cells.labels) < 2:
        return []
    letter, _, column = cells.columns[0]
    values = np.array(column, dtype=float)
    if not np.isfinite(values).any():
        return []
    label = cells.labels[int(np.nanargmax(values))]
    if len(label) < 2 or label not in sentence:
        return []
    rows, span = cells.span(cells.label), cells.span(letter)
    return [f"INDEX({rows},MATCH(MAX({span}),{span},0))={'&'.join(literals(label))}"]
