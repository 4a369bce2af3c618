"""The finest grouping and what is rolled up from it, against a plain dictionary of groups; sums to the last bit."""

from __future__ import annotations

import hashlib
import math
from fractions import Fraction
from typing import Any

import numpy as np
import pandas as pd
import pytest
from hypothesis import given
from hypothesis import strategies as st

import golden_almanac as ga
from golden_almanac.aggregation import PERIOD, Survey, survey
from golden_almanac.aggregation.exact_sums import added, slices
from golden_almanac.aggregation.rollup import estimated_cells, numbered
from golden_almanac.analysis.scan_pipeline import survey_of


def grouped_sum(codes: Any, values: Any, size: int) -> Any:
    return added([part.grouped(codes, size) for part in slices(values)])


@pytest.fixture
def always(monkeypatch: pytest.MonkeyPatch) -> None:
    """A base is made however small the table is."""
    monkeypatch.setattr(survey, "LEAST_ROWS", 0)
    monkeypatch.setattr(survey, "WORTH", math.inf)


@given(st.lists(st.floats(allow_nan=False, allow_infinity=False, min_value=-1e300, max_value=1e300), max_size=40))
def test_slices_add_up_to_the_values_exactly(values: list[float]) -> None:
    cut = slices(np.array(values, dtype=np.float64))
    for place, value in enumerate(values):
        parts = [Fraction(float(one.whole[place])) / Fraction(one.scale) * Fraction(2) ** one.exponent for one in cut]
        if cut[0].scale == 1.0:
            assert sum(parts) == Fraction(value)
        else:
            assert float(sum(parts)) == value  # a decimal amount stands for what was written, not for its double
    assert all(np.array_equal(one.whole, np.rint(one.whole)) for one in cut if len(values) and one.exponent)


@given(st.lists(st.floats(-1e12, 1e12, allow_nan=False), min_size=1, max_size=60), st.randoms(use_true_random=False))
def test_no_order_of_the_rows_changes_a_bit(values: list[float], random: Any) -> None:
    array = np.array(values)
    codes = np.arange(array.size) % 3
    one = grouped_sum(codes, array, 3)
    order = list(range(array.size))
    random.shuffle(order)
    assert grouped_sum(codes[order], array[order], 3).tobytes() == one.tobytes()
    exact = [float(sum(Fraction(v) for v, c in zip(values, codes, strict=True) if c == k)) for k in range(3)]
    assert one == pytest.approx(exact, rel=1e-15)


def test_twenty_runs_give_the_same_bytes(always: None) -> None:
    chance = np.random.default_rng(12)
    n = 150_000  # long enough for several threads
    frame = pd.DataFrame(
        {
            "day": np.datetime64("2023-01-01") + chance.integers(0, 900, n).astype("timedelta64[D]"),
            "shop": chance.choice(list("abcdef"), n),
            "kind": chance.choice(list("xyz"), n),
            "v": np.exp(chance.normal(0, 9, n)),
            "w": np.round(chance.normal(0, 90, n), 2),
        }
    )
    seen = set()
    for run in range(20):
        mixed = frame.sample(frac=1, random_state=run) if run % 2 else frame
        made = survey_of(ga.read(mixed), measures=["sum(v)", "avg(w)"], by=["shop", "kind"], time="day", grain="month")
        digest = hashlib.sha256()
        for keys in (("shop", PERIOD), ("kind",), ("shop", "kind", PERIOD)):
            cells = made.cells(*keys)
            for measure in made.measures:
                digest.update(cells.value(measure).tobytes())
            for part in cells.parts.values():
                digest.update(part.squares.tobytes())
        seen.add(digest.hexdigest())
    assert len(seen) == 1


def test_numbers_of_combinations_and_their_estimate() -> None:
    chance = np.random.default_rng(3)
    codes = [(chance.integers(0, size, 60_000), size) for size in (7, 11, 400)]
    number, held = numbered(codes)
    assert all(np.array_equal(one[number], code) for one, (code, _) in zip(held, codes, strict=True))
    real = len(set(zip(*(code.tolist() for code, _ in codes), strict=True)))
    assert held[0].size == real
    assert estimated_cells(codes, 60_000) == pytest.approx(real, rel=0.15)


def test_quarters_are_put_together_from_months(always: None) -> None:
    chance = np.random.default_rng(5)
    frame = pd.DataFrame(
        {
            "day": np.datetime64("2022-01-01") + chance.integers(0, 1400, 4000).astype("timedelta64[D]"),
            "shop": chance.choice(list("ab"), 4000),
            "v": np.round(chance.normal(50, 9, 4000), 2),
        }
    )
    table = ga.read(frame)
    months = survey_of(table, measures=["sum(v)"], by=["shop"], time="day", grain="month")
    quarters = survey_of(table, measures=["sum(v)"], by=["shop"], time="day", grain="quarter")
    rolled = Survey(
        table=table, measures=months.measures, dimensions=months.dimensions, timeline=quarters.timeline, finer=months
    )
    assert rolled.base() is not None
    one, other = (made.cells("shop", PERIOD).value(months.measures[0]) for made in (rolled, quarters))
    assert one.tobytes() == other.tobytes()


def test_a_dimension_that_another_lies_within_is_read_off_it(monkeypatch: pytest.MonkeyPatch) -> None:
    chance = np.random.default_rng(8)
    port = chance.choice(list("abcdef"), 3000)
    frame = pd.DataFrame(
        {
            "day": np.datetime64("2023-01-01") + chance.integers(0, 700, 3000).astype("timedelta64[D]"),
            "port": port,
            "region": pd.Series(port).map(dict(zip("abcdef", ["n", "n", "s", "s", None, None], strict=True))),
            "kind": chance.choice(list("xyz"), 3000),
            "v": chance.normal(0, 9, 3000),
        }
    )

    def asked_for() -> Survey:
        return survey_of(
            ga.read(frame), measures=["sum(v)", "min(v)"], by=["port", "region", "kind"], time="day", grain="month"
        )

    direct = asked_for()
    assert direct.base() is None
    monkeypatch.setattr(survey, "LEAST_ROWS", 0)
    monkeypatch.setattr(survey, "WORTH", math.inf)
    rolled = asked_for()
    assert rolled.plan().derived == {"region": "port"}
    for keys in (("region",), ("region", PERIOD), ("region", "kind"), ("port", "region")):
        one, other = direct.cells(*keys), rolled.cells(*keys)
        assert one.rows.tobytes() == other.rows.tobytes()
        for measure, same in zip(direct.measures, rolled.measures, strict=True):
            assert one.value(measure).tobytes() == other.value(same).tobytes()


def test_added_starts_with_the_finest() -> None:
    values = np.array([1e16, 1.0, -1e16])
    assert added([one.grouped(np.zeros(3, dtype=np.intp), 1) for one in slices(values)])[0] == 1.0
