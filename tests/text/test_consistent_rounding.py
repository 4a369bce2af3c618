"""Parts that are shown beside their whole add up to it as they are shown."""

from __future__ import annotations

import re
from math import floor, log10

import pytest
from hypothesis import given
from hypothesis import strategies as st

from golden_almanac.aggregation.measures import Measure
from golden_almanac.text import consistent_rounding
from golden_almanac.text.languages import speaking, voice_of

AMOUNTS = st.floats(-1e9, 1e9, allow_nan=False).map(lambda value: round(value, 3))
POSITIVE = st.floats(0.0, 1e7, allow_nan=False).map(lambda value: round(value, 2))
_SCALES = {"million": 1e6, "billion": 1e9, "trillion": 1e12, "M": 1e6, "bn": 1e9}


def read(text: str) -> float:
    """A figure as a person reads it back: "+1.24 million", "−6,200", "34%"."""
    match = re.match(r"([+−]?)([\d.,]+)[\s\u00a0]*([A-Za-z]*)", text)
    assert match, text
    size = float(match[2].replace(",", "")) * _SCALES.get(match[3], 1.0)
    return -size if match[1] == "−" else size


def near(one: float, other: float, largest: float) -> bool:
    return abs(one - other) <= 1e-9 * max(1.0, largest)


def measure(unit: str | None = None, *, share: bool = False) -> Measure:
    return Measure(name="m", sql="m", label="m", kind="mean" if share else "additive", top=(), unit=unit, share=share)


@pytest.mark.parametrize(
    ("parts", "signed", "whole"),
    [
        ([170_700.0, 119_300.0, 109_400.0], ["+171,000", "+119,000", "+109,000"], "+399,000"),
        # To thousands they would make 398,000 of 399,000; to hundreds they add up.
        ([171_400.0, 119_400.0, 108_400.0], ["+171,400", "+119,400", "+108,400"], "+399,200"),
        # A third three times is a whole at no place: the first of equal remainders is moved.
        ([1 / 3, 1 / 3, 1 / 3], ["+0.334", "+0.333", "+0.333"], "+1.000"),
        ([5.0, -3.0], ["+5", "−3"], "+2"),
        ([0.0, 0.0], ["0", "0"], "0"),
        # The whole is the smallest of them, and has three digits too.
        ([-44_000.0, 45_231.0], ["−44,000", "+45,230"], "+1,230"),
        ([2.4e6, 2.1e6], ["+2.40 million", "+2.10 million"], "+4.50 million"),
    ],
)
def test_parts_by_hand(parts: list[float], signed: list[str], whole: str) -> None:
    told = consistent_rounding.split(parts, sum(parts), None)
    assert told.texts(signed=True) == signed
    assert told.text(told.whole, signed=True) == whole


def test_units_points_and_languages() -> None:
    money = consistent_rounding.split([1200.0, 300.0], 1500.0, measure("EUR"))
    assert money.texts(signed=True) == ["+€1,200", "+€300"]
    assert money.text(money.whole) == "€1,500"
    assert money.texts(compact=True) == ["1,200", "300"]
    points = consistent_rounding.split([0.0766, 0.0024], 0.079, measure(share=True))
    assert points.texts(signed=True) == ["+7.7 points", "+0.2 points"]
    assert points.text(points.whole, signed=True) == "+7.9 points"
    with speaking(voice_of("de")):
        assert consistent_rounding.shares([0.624, 0.251, 0.125]) == ["62,4\u00a0%", "25,1\u00a0%", "12,5\u00a0%"]
        assert consistent_rounding.split([1200.0, 300.0], 1500.0, measure("EUR")).texts() == [
            "1.200\u00a0€",
            "300\u00a0€",
        ]


def test_a_list_that_is_not_whole_is_rounded_by_itself() -> None:
    told = consistent_rounding.split([171_449.0, 119_449.0], 399_430.0, None)
    assert told.texts() == ["171,000", "119,000"]


@given(st.lists(AMOUNTS, min_size=1, max_size=12))
def test_parts_add_up_as_shown(parts: list[float]) -> None:
    whole = sum(parts)
    told = consistent_rounding.split(parts, whole, None)
    shown = [read(text) for text in told.texts(signed=True)]
    largest = max(map(abs, parts))
    assert near(sum(shown), read(told.text(told.whole, signed=True)), largest)
    # None is off by more than a step of its last place, and most digits are kept.
    step = 10.0**told.place
    assert all(abs(one - exact) <= step * (1 + 1e-9) for one, exact in zip(shown, parts, strict=True))
    assert abs(told.whole * step - whole) <= 0.5 * step * (1 + 1e-6)
    assert not largest or floor(log10(largest)) - told.place < 5


@given(st.lists(POSITIVE, min_size=1, max_size=9).filter(lambda parts: sum(parts) > 0))
def test_shares_make_a_hundred(parts: list[float]) -> None:
    whole = sum(parts)
    shown = consistent_rounding.shares([part / whole for part in parts])
    assert near(sum(map(read, shown)), 100.0, 100.0)
    assert all(abs(read(text) - 100 * part / whole) <= 1.0 for text, part in zip(shown, parts, strict=True))


@given(st.lists(st.tuples(POSITIVE, POSITIVE), min_size=1, max_size=9))
def test_a_ledger_adds_up_both_ways(rows: list[tuple[float, float]]) -> None:
    before, now = ([row[side] for row in rows] for side in (0, 1))
    told = consistent_rounding.ledger(before, now, None)
    for column in (told.first, told.second, told.change):
        shown = [read(text) for text in column.texts(signed=True)]
        assert near(sum(shown), read(column.text(column.whole, signed=True)), 10 * max(*before, *now, 1.0))
    # The change is what it is everywhere else.
    changes = [b - a for a, b in zip(before, now, strict=True)]
    assert told.change == consistent_rounding.split(changes, sum(now) - sum(before), None)
    if told.first.place == told.second.place == told.change.place:
        parts = zip(told.first.parts, told.change.parts, told.second.parts, strict=True)
        assert all(a + change == b for a, change, b in parts)
        step = 10.0**told.change.place
        assert all(abs(a * step - exact) <= 2 * step for a, exact in zip(told.first.parts, before, strict=True))


@given(st.lists(st.tuples(AMOUNTS, AMOUNTS), min_size=1, max_size=9))
def test_two_parts_of_each_change_add_up_to_it(rows: list[tuple[float, float]]) -> None:
    one, other = ([row[side] for row in rows] for side in (0, 1))
    told = consistent_rounding.sums(one, other, None)
    assert all(sum(column.parts) == column.whole for column in (told.first, told.second, told.change))
    if told.first.place == told.second.place == told.change.place:
        assert all(a + b == c for a, b, c in zip(told.first.parts, told.second.parts, told.change.parts, strict=True))


@given(st.floats(1.0, 100.0), st.lists(st.floats(1.0, 100.0), min_size=1, max_size=6))
def test_stairs_lead_from_the_start_to_the_end(start: float, steps: list[float]) -> None:
    told = consistent_rounding.stairs(start, steps, start + sum(steps), None)
    shown = sum(read(text) for text in told.steps.texts(signed=True))
    assert near(read(told.start) + shown, read(told.end), 1000.0)


def test_steps_too_small_for_the_ends_keep_their_digits() -> None:
    told = consistent_rounding.stairs(5e9, [12.0, 3.0], 5e9 + 15, None)
    assert told.steps.texts(signed=True) == ["+12", "+3"]
    assert told.start == "5.00 billion"
