"""The finest grouping and what is rolled up from it, against a plain dictionary of groups; sums to the last bit."""

from __future__ import annotations

import hashlib
import math
from collections import defaultdict
from fractions import Fraction
from typing import Any

import numpy as np
import pandas as pd
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import golden_almanac as ga
from golden_almanac.core.cells import PERIOD, Survey, survey
from golden_almanac.core.cells.base import estimated_cells, numbered
from golden_almanac.core.cells.exact import added, grouped_sum, slices
from golden_almanac.core.scanning import survey_of

amounts = st.one_of(
    st.none(),
    st.integers(-(10**7), 10**7).map(lambda cents: cents / 100),
    st.floats(-1e6, 1e6, allow_nan=False),
    st.sampled_from([0.0, -0.0, 1e-300, -1e-300, 1e15, -1e15, 0.1]),
)
rows = st.lists(
    st.tuples(
        st.sampled_from(["a", "b", "c", None]),
        st.sampled_from(["x", "y"]),
        st.sampled_from(["p", "q", "r"]),
        st.one_of(st.none(), st.integers(0, 400)),
        amounts,
    ),
    min_size=2,
    max_size=50,
)
KEYS = [(), ("one",), ("one", "two"), (PERIOD,), ("two", PERIOD), ("three", "one", PERIOD), ("three", "two", "one")]
MEASURES = ["sum(v)", "count(v)", "min(v)", "max(v)", "count(*)", "avg(v)"]


@pytest.fixture
def always(monkeypatch: pytest.MonkeyPatch) -> None:
    """A base is made however small the table is."""
    monkeypatch.setattr(survey, "LEAST_ROWS", 0)
    monkeypatch.setattr(survey, "WORTH", math.inf)


def asked(table: list[tuple[Any, ...]]) -> Survey:
    frame = pd.DataFrame(
        {
            "one": pd.Series([r[0] for r in table], dtype="string"),
            "two": [r[1] for r in table],
            "three": [r[2] for r in table],
            "day": pd.Series(
                [pd.NaT if r[3] is None else np.datetime64("2024-01-01") + r[3] for r in table], dtype="datetime64[s]"
            ),
            "v": pd.Series([r[4] for r in table], dtype="float64"),
        }
    )
    read = ga.read(frame, roles={"v": "measure"} if frame["v"].notna().any() else None)
    dated = frame["day"].notna().any()
    return survey_of(
        read,
        measures=MEASURES,
        by=["one", "two", "three"],
        time="day" if dated else None,
        grain="month" if dated else None,
    )


@settings(max_examples=60, deadline=None)
@given(table=rows)
def test_every_roll_up_is_the_dictionary_of_groups(table: list[tuple[Any, ...]]) -> None:
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(survey, "LEAST_ROWS", 0)
        patch.setattr(survey, "WORTH", math.inf)
        if not any(row[4] is not None for row in table):
            return
        made = asked(table)
        assert made.base() is not None
        for keys in KEYS:
            if PERIOD in keys and made.timeline is None:
                continue
            check(made, keys, table)
        assert made.plan().direct == ()


def check(made: Survey, keys: tuple[str, ...], table: list[tuple[Any, ...]]) -> None:
    cells = made.cells(*keys)
    columns = {"one": 0, "two": 1, "three": 2}
    groups: dict[tuple[Any, ...], list[float | None]] = defaultdict(list)
    for row in table:
        if PERIOD in keys and row[3] is None:
            continue
        day = None if row[3] is None else str(np.datetime64("2024-01-01") + row[3])[:7]
        groups[tuple(day if key == PERIOD else row[columns[key]] for key in keys)].append(row[4])
    values = [cells.value(measure) for measure in made.measures]
    seen = 0
    for place in np.ndindex(cells.rows.shape):
        names = tuple(label if key != PERIOD else _month(made, at) for key, label, at in zip(
            keys, (cells.labels[i][at] for i, at in enumerate(place)), place, strict=True))  # fmt: skip
        group = groups.get(names, [])
        known = [value for value in group if value is not None]
        seen += len(group)
        assert cells.rows[place] == len(group)
        assert values[4][place] == len(group) or not group
        if not known:
            assert math.isnan(values[0][place])
            continue
        total = float(sum(map(Fraction, known)))
        assert values[0][place] == pytest.approx(total, rel=1e-15, abs=1e-300)
        assert values[1][place] == len(known)
        assert values[2][place] == min(known)
        assert values[3][place] == max(known)
        assert values[5][place] == pytest.approx(total / len(known), rel=1e-14, abs=1e-300)
    assert seen == sum(len(group) for group in groups.values())


def _month(made: Survey, place: int) -> str:
    assert made.timeline is not None
    return str(made.timeline.period(place).start)[:7]


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
