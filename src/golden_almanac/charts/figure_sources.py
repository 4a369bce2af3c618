"""From which cells of a chart's data a figure comes, so that a workbook can reckon it anew.

A source is a small expression over cells: the same expression gives the number here, and the formula there.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import isclose, isfinite
from typing import TYPE_CHECKING, Any, Protocol

if TYPE_CHECKING:
    import pandas as pd


class Address(Protocol):
    """How the cells of some data are called in a formula."""

    def cell(self, column: str, row: int) -> str: ...

    def span(self, column: str, first: int, past: int) -> str: ...


class Term(ABC):
    """Something that cells give."""

    @abstractmethod
    def value(self, data: pd.DataFrame) -> float:
        """What it is in these data."""

    @abstractmethod
    def formula(self, at: Address) -> str:
        """The same as a formula, without its equals sign."""

    def __add__(self, other: Term) -> Term:
        return _Operation("+", self, other)

    def __sub__(self, other: Term) -> Term:
        return _Operation("-", self, other)

    def __truediv__(self, other: Term) -> Term:
        return _Operation("/", self, other)

    def __rmul__(self, times: float) -> Term:
        return _Operation("*", _Constant(times), self)


@dataclass(frozen=True, slots=True)
class Cell(Term):
    """One cell."""

    column: str
    row: int

    def value(self, data: pd.DataFrame) -> float:
        return float(data[self.column].iloc[self.row])

    def formula(self, at: Address) -> str:
        return at.cell(self.column, self.row)


@dataclass(frozen=True, slots=True)
class _Span(Term):
    """Cells of a column from the first to before the last, taken together by SUM, AVERAGE or MAX."""

    what: str
    column: str
    first: int
    past: int

    def value(self, data: pd.DataFrame) -> float:
        cells = data[self.column].iloc[self.first : self.past]
        return float(cells.agg({"SUM": "sum", "AVERAGE": "mean", "MAX": "max"}[self.what]))

    def formula(self, at: Address) -> str:
        return f"{self.what}({at.span(self.column, self.first, self.past)})"


@dataclass(frozen=True, slots=True)
class _Constant(Term):
    number: float

    def value(self, data: pd.DataFrame) -> float:
        return self.number

    def formula(self, at: Address) -> str:
        return f"{self.number:g}"


@dataclass(frozen=True, slots=True)
class _Operation(Term):
    sign: str
    left: Term
    right: Term

    def value(self, data: pd.DataFrame) -> float:
        a, b = self.left.value(data), self.right.value(data)
        if self.sign == "/":
            return a / b if b else float("nan")
        return {"+": a + b, "-": a - b, "*": a * b}[self.sign]

    def formula(self, at: Address) -> str:
        return f"({self.left.formula(at)}{self.sign}{self.right.formula(at)})"


@dataclass(frozen=True, slots=True)
class Source:
    """What gives a figure, and what must stay true for a sentence about it to hold: pairs of which the first is the
    larger."""

    term: Term
    holds: tuple[tuple[Term, Term], ...] = ()


def total(column: str, first: int, past: int) -> Term:
    """The sum of cells."""
    return _Span("SUM", column, first, past)


def mean(column: str, first: int, past: int) -> Term:
    """The mean of cells."""
    return _Span("AVERAGE", column, first, past)


def largest(column: str, first: int, past: int) -> Term:
    """The largest of cells."""
    return _Span("MAX", column, first, past)


def change(now: Term, before: Term, data: pd.DataFrame, *, percent: bool = True) -> Source:
    """A change, in percent of what was before unless told otherwise, which must keep its direction."""
    term = 100 * ((now - before) / before) if percent else now - before
    up = now.value(data) >= before.value(data)
    return Source(term, ((now, before) if up else (before, now),))


def row_of(data: pd.DataFrame, label: str) -> int | None:
    """The row of a label, in the first column of the data; None where it is not there, or more than once."""
    rows = [place for place, one in enumerate(data.iloc[:, 0]) if str(one) == label]
    return rows[0] if len(rows) == 1 else None


def rows_within(data: pd.DataFrame, window: Mapping[str, str]) -> tuple[int, int]:
    """The first and the one past the last row whose period, in the first column, begins within a span of days."""
    inside = [place for place, day in enumerate(data.iloc[:, 0]) if window["start"] <= str(day) <= window["end"]]
    return (inside[0], inside[-1] + 1) if inside else (0, 0)


def that_give(sources: Mapping[str, Source], data: pd.DataFrame, figure: Callable[[str], Any]) -> dict[str, Source]:
    """Those sources that give the figure that they are for: where the data drawn are not those that the figure was
    reckoned from (some labels folded, an index for an amount), there is none."""
    kept = {}
    for path, source in sources.items():
        wanted, value = figure(path), source.term.value(data)
        if isinstance(wanted, int | float) and isfinite(value) and isclose(value, wanted, rel_tol=1e-9, abs_tol=1e-12):
            kept[path] = source
    return kept
