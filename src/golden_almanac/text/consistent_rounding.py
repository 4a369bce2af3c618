"""Parts beside their whole, written so that the figures shown add up as well as the figures do.

All figures of such a list are rounded to one place (hundreds, say, or tenths): the third digit of the largest part, or
of the whole where that is less. Where the rounded parts do not add to the rounded whole there, one place more is tried;
where that will not do either, the parts nearest to the next step are moved by one step, the method of largest
remainders (Hamilton's apportionment; Balinski and Young, "Fair Representation", 1982). No figure is off by more than
one step of its last place.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import ROUND_HALF_EVEN, Decimal
from math import floor, isfinite, log10

from ..aggregation.measures import Measure
from . import numbers
from .languages import quantity, spelled

#: Digits of the largest part that are shown, further places tried, and digits that the largest figure may show at most.
_DIGITS, _FURTHER, _MOST_DIGITS = 3, 1, 5
#: Steps that a change must have left for one place to serve it and the amounts beside it.
_LEAST = 20
#: Parts that miss their whole by more than this share of the largest figure do not add up, and are not made to.
_SAME = 1e-6


@dataclass(frozen=True, slots=True)
class Shown:
    """Figures at one place: `parts` and `whole` in steps of 10 to the `place`, percentage points where the measure is a
    share; `exact` are the parts unrounded, for what wants to know which figures are written."""

    parts: tuple[int, ...]
    whole: int
    place: int
    measure: Measure | None = None
    exact: tuple[float, ...] = ()

    @property
    def values(self) -> tuple[float, ...]:
        """The parts as they are shown, as numbers of the measure."""
        return tuple(self._value(steps) for steps in self.parts)

    @property
    def gross(self) -> tuple[int, int]:
        """The steps of the parts that rise, and of those that fall."""
        return sum(part for part in self.parts if part > 0), sum(part for part in self.parts if part < 0)

    def texts(self, *, signed: bool = False, compact: bool = False) -> list[str]:
        """The parts as text; see `text`."""
        texts = [self.text(steps, signed=signed, compact=compact) for steps in self.parts]
        return (
            [quantity(spelled(text), value) for text, value in zip(texts, self.exact, strict=True)]
            if self.exact
            else texts
        )

    def text(self, steps: int, *, signed: bool = False, compact: bool = False) -> str:
        """So many steps as an amount of the measure ("€171,000", "12.5%"), or, `signed`, as a difference ("+€171,000",
        "+12.5 points"); `compact` leaves the unit to an axis, and shortens the scale."""
        if signed:
            points = self.measure is not None and self.measure.in_points
            size = numbers.difference(abs(self._value(steps)), self.measure) if points else None
            return numbers.signed(self._value(steps), size or self.text(abs(steps), compact=compact))
        exact = Decimal(steps).scaleb(self.place)
        if self.in_points:
            return numbers.as_percent(numbers.at_place(exact, self.place))
        if compact:
            return numbers.at_place(exact, self.place, long=False)
        return numbers.amount_at(exact, self.place, self.measure)

    @property
    def in_points(self) -> bool:
        return self.measure is not None and self.measure.share

    def _value(self, steps: int) -> float:
        exact = Decimal(steps).scaleb(self.place)
        return float(exact / 100 if self.in_points else exact)


def split(parts: Sequence[float], whole: float, measure: Measure | None) -> Shown:
    """Parts that add to `whole`, as they are to be shown; both in the measure's unit, shares as 0 to 1."""
    points = measure is not None and measure.share
    scale = 100.0 if points else 1.0
    values, total = [scale * float(part) for part in parts], scale * float(whole)
    largest = max((abs(value) for value in (*values, total)), default=0.0)
    decimals = None if measure is None else measure.decimals
    if decimals is not None and (points or largest < numbers.WRITTEN_OUT):
        first = last = -decimals
    elif points:
        first = last = -2 if 0 < largest < 0.095 else -1
    else:
        first, last = _places(values, total, largest)
    return Shown(*_rounded(values, total, first, last), measure, tuple(map(float, parts)))


def shares(parts: Sequence[float], whole: float = 1.0) -> list[str]:
    """Parts of one as percentages that add to that of `whole`: whole percent, or one decimal where those add up and
    whole ones do not."""
    shown = Shown(*_rounded([100.0 * float(part) for part in parts], 100.0 * whole, 0, -1))
    texts = [numbers.as_percent(text) for text in shown.texts()]
    return [quantity(text, part) for text, part in zip(texts, parts, strict=True)]


@dataclass(frozen=True, slots=True)
class Stairs:
    """Steps that lead from a start to an end; `start` and `end` are texts."""

    steps: Shown
    start: str
    end: str


def stairs(start: float, steps: Sequence[float], end: float, measure: Measure | None) -> Stairs:
    """A start, steps and the end they lead to, as they are to be shown: start and steps add to the end.

    Where the steps are too small beside the ends for one place to show both, the ends have their own.
    """
    told = split(steps, end - start, measure)
    scale = 100.0 if told.in_points else 1.0
    first = _common(scale * max(abs(start), abs(end)), told)
    if first is None:
        return Stairs(told, numbers.amount(start, measure), numbers.amount(end, measure))
    values, whole = [scale * float(step) for step in steps], scale * (end - start)
    for place in range(first, first - _FURTHER - 1, -1):
        low, high = _steps(scale * start, place), _steps(scale * end, place)
        if high - low == _steps(whole, place):
            break
    else:
        place = first
        low = _steps(scale * start, place)
    shown = Shown(*_rounded(values, whole, place, place), measure, tuple(map(float, steps)))
    return Stairs(shown, shown.text(low), shown.text(low + shown.whole))


@dataclass(frozen=True, slots=True)
class Ledger:
    """A table of two columns and their change or sum: each column adds to its whole, and each row adds up too."""

    first: Shown
    second: Shown
    change: Shown


def ledger(before: Sequence[float], now: Sequence[float], measure: Measure | None) -> Ledger:
    """Parts before and now of a measure that adds up, with the change of each, as they are to be shown.

    The change of each is what `split` tells of it, and so are the parts now where one place serves both; what was
    before is what is left. Where the change is too small beside the amounts for that, each column has its own place.
    """
    return _ledger(before, now, measure, -1)


def sums(one: Sequence[float], other: Sequence[float], measure: Measure | None) -> Ledger:
    """Two parts of each change, and the change, as `split` tells it."""
    return _ledger(one, other, measure, 1)


def _ledger(first: Sequence[float], second: Sequence[float], measure: Measure | None, sign: int) -> Ledger:
    """Two columns, and the second with (1) or without (-1) the first."""
    sides = [[float(value) for value in side] for side in (first, second)]
    totals = [sum(side) for side in sides]
    change = split([b + sign * a for a, b in zip(*sides, strict=True)], totals[1] + sign * totals[0], measure)
    scale = 100.0 if change.in_points else 1.0
    scaled = [scale * total for total in totals]
    largest = max((scale * abs(value) for value in (*sides[0], *sides[1], *totals)), default=0.0)
    place = change.place
    if not _fits(largest, place):
        one, two = (split(side, total, measure) for side, total in zip(sides, totals, strict=True))
        return Ledger(one, two, change)
    # Of two parts of a change the sums are what a sentence says of them; of a ledger, those now.
    whole = _to(scaled, change.whole, place)[1] if sign > 0 else _steps(scaled[1], place)
    two = Shown(_to([scale * value for value in sides[1]], whole, place), whole, place, measure)
    parts = tuple(sign * (c - b) for b, c in zip(two.parts, change.parts, strict=True))
    return Ledger(Shown(parts, sign * (change.whole - whole), place, measure), two, change)


def _common(largest: float, shown: Shown) -> int | None:
    """The place at which figures so large can stand beside what is told; None where too little would be left of it."""
    if _fits(largest, shown.place):
        return shown.place
    place = floor(log10(largest)) - _MOST_DIGITS + 1 if largest else shown.place
    return place if abs(shown.whole) * 10.0 ** (shown.place - place) >= _LEAST else None


def _fits(largest: float, place: int) -> bool:
    """Whether a figure has no more digits than may be shown down to a place."""
    return largest > 0 and floor(log10(largest)) - place < _MOST_DIGITS


def _places(values: Sequence[float], whole: float, largest: float) -> tuple[int, int]:
    """The first place to try, and the last."""
    if not largest or not isfinite(largest):
        return 0, 0
    last = floor(log10(largest)) - _MOST_DIGITS + 1
    lead = max((abs(value) for value in values), default=largest)
    # Of rises and falls that nearly cancel out the whole is less than any part, and would have no digits left.
    lead = min(lead, abs(whole)) if abs(whole) > _SAME * largest else lead
    first = max(floor(log10(lead)) - _DIGITS + 1, last)
    if all(value == round(value) for value in (*values, whole)):
        # Whole numbers show no decimals they do not have.
        first, last = max(first, 0), max(last, 0)
    return first, last


def _rounded(values: Sequence[float], whole: float, first: int, last: int) -> tuple[tuple[int, ...], int, int]:
    """(parts, whole, place): rounded by themselves at the first place where that adds up, else moved to add up."""
    largest = max((abs(value) for value in (*values, whole)), default=0.0)
    adds = abs(sum(values) - whole) <= _SAME * largest
    tried = range(first, max(last, first - _FURTHER) - 1, -1)
    for place in tried:
        parts, total = tuple(_steps(value, place) for value in values), _steps(whole, place)
        if sum(parts) == total or not adds:
            return parts, total, place
    total = _steps(whole, first)
    return _to(values, total, first), total, first


def _to(values: Sequence[float], whole: int, place: int) -> tuple[int, ...]:
    """Steps of each value that add to so many: as they round, if they do; else rounded down, then those of the largest
    remainders up."""
    rounded = tuple(_steps(value, place) for value in values)
    if sum(rounded) == whole or not values:
        return rounded
    exact = [Decimal(repr(value)).scaleb(-place) for value in values]
    steps = [floor(value) for value in exact]
    missing = whole - sum(steps)
    order = sorted(range(len(values)), key=lambda i: (-(exact[i] - steps[i]), -abs(exact[i]), i))
    for turn in range(abs(missing)):
        steps[order[turn % len(order)]] += 1 if missing > 0 else -1
    return tuple(steps)


def _steps(value: float, place: int) -> int:
    return int(Decimal(repr(value)).scaleb(-place).quantize(Decimal(1), rounding=ROUND_HALF_EVEN))
