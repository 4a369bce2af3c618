"""Sentences of a workbook as formulas: each number that is a figure is reckoned from the cells that give it.

A corrected cell moves figure, chart and sentence together. Where a correction turns what the sentence claims (a rise
into a fall, another leader), the sentence is no longer shown, but what the cells say now. A sentence is wholly live or
wholly text: of two numbers beside each other none may stay behind.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from itertools import groupby
from math import log10
from typing import Any

from ..charts.figure_sources import Source, Term
from ..text.languages import Quantity, Statement, figure_of, pieces_of
from .office_parts import clean

#: Letters that a text within a formula may have, and a formula in all.
_LITERAL, _LONGEST = 250, 8000


@dataclass(frozen=True, slots=True, kw_only=True)
class Cells:
    """Where the data of a chart stand: the letter of each column, the row of the first figure (counted from 1), and
    the sheet, "" on the sheet itself."""

    letters: Mapping[str, str]
    first: int
    sheet: str = ""

    def cell(self, column: str, row: int) -> str:
        return f"{self._sheet()}${self.letters[column]}${self.first + row}"

    def span(self, column: str, first: int, past: int) -> str:
        return f"{self.cell(column, first)}:${self.letters[column]}${self.first + past - 1}"

    def _sheet(self) -> str:
        return "'" + self.sheet.replace("'", "''") + "'!" if self.sheet else ""


def live(
    sentence: str, figures: Mapping[str, Any], sources: Mapping[str, Source], cells: Cells, otherwise: str = ""
) -> str:
    """The sentence as a formula; "" where one of its numbers does not come from the cells, or it has none.

    `otherwise` is the formula (without its equals sign) of what is shown where the claim holds no longer.
    """
    parts: list[_Part] = []
    holds: list[str] = []
    found = False
    for piece in pieces_of(sentence) if isinstance(sentence, Statement | Quantity) else ():
        if not isinstance(piece, Quantity):
            parts.append(_Part(piece))
            continue
        figure = figure_of(piece, figures)
        source = None if figure is None else sources.get(figure[0])
        if source is None or piece.digits is None:
            return ""
        found = True
        parts += _written(piece, source.term, cells)
        for larger, smaller in source.holds:
            condition = f"{larger.formula(cells)}>={smaller.formula(cells)}"
            holds += [] if condition in holds else [condition]
    if not found:
        return ""
    text = "&".join(_together(parts))
    if holds and otherwise:
        text = f"IF(AND({','.join(holds)}),{text},{otherwise})"
    return f"={text}" if len(text) < _LONGEST else ""


def literals(text: str) -> list[str]:
    """A text as parts of a formula, none longer than office programs take."""
    text = clean(text)
    return ['"' + text[start : start + _LITERAL].replace('"', '""') + '"' for start in range(0, len(text), _LITERAL)]


@dataclass(frozen=True, slots=True)
class _Part:
    """A text, or a formula that gives one."""

    text: str
    formula: bool = False


def _together(parts: Iterable[_Part]) -> Iterator[str]:
    """Parts of a formula, texts side by side as one."""
    for formula, run in groupby(parts, key=lambda part: part.formula):
        texts = [part.text for part in run]
        yield from texts if formula else literals("".join(texts))


def _written(number: Quantity, term: Term, cells: Cells) -> list[_Part]:
    """A number: its sign and unit as texts, its digits reckoned, rounded as they are written."""
    digits = number.digits
    assert digits is not None
    formula = f"ABS({term.formula(cells)})"
    # Digits stand for the figure itself, a percentage of it or so many millions: a power of ten lies between them.
    power = round(log10(digits.size / abs(number.value))) if digits.size and number.value else 0
    if power:
        formula = f"{10**power}*{formula}" if power > 0 else f"{formula}/{10**-power}"
    if digits.place > 0:
        formula = f"ROUND({formula},-{digits.place})"
    return [
        _Part(f"FIXED({formula},{digits.decimals})", formula=True) if piece is digits else _Part(piece)
        for piece in number.written
    ]
