"""Cells against a plain dictionary of groups, for any table."""

from __future__ import annotations

import math
from collections import defaultdict
from fractions import Fraction

import numpy as np
import pandas as pd
import pytest
from hypothesis import given
from hypothesis import strategies as st

import golden_almanac as ga
from golden_almanac.aggregation import PERIOD
from golden_almanac.aggregation.exact_sums import added, slices
from golden_almanac.aggregation.hierarchies import aliases, parents
from golden_almanac.analysis.scan_pipeline import survey_of

money = st.one_of(st.none(), st.integers(-(10**7), 10**7).map(lambda cents: cents / 100))
row = st.tuples(st.sampled_from(["a", "b", "c", None]), st.sampled_from(["x", "y"]), st.integers(0, 200), money)


def frame_of(rows: list[tuple[str | None, str, int, float | None]]) -> pd.DataFrame:
    return pd.DataFrame(
        {
            "one": pd.Series([r[0] for r in rows], dtype="string"),
            "two": [r[1] for r in rows],
            "day": [np.datetime64("2024-01-01") + np.timedelta64(r[2], "D") for r in rows],
            "v": pd.Series([r[3] for r in rows], dtype="float64"),
        }
    )


def filled_in(rows: list[tuple[str | None, str, int, float | None]]) -> bool:
    """Rows after the last day with a figure are still to be filled in, and set aside."""
    last = max(one[2] for one in rows)
    return any(one[2] == last and one[3] is not None for one in rows)


@given(st.lists(row, min_size=2, max_size=60).filter(filled_in))
def test_sums_counts_and_extremes(rows: list[tuple[str | None, str, int, float | None]]) -> None:
    survey = survey_of(
        ga.read(frame_of(rows)),
        measures=["sum(v)", "count(v)", "min(v)", "max(v)", "count(*)", "count(distinct two)"],
        by=["one", "two"],
        time="day",
        grain="month",
    )
    cells = survey.cells("one", "two")
    groups: dict[tuple[str | None, str], list[float | None]] = defaultdict(list)
    for one, two, _, v in rows:
        groups[one, two].append(v)
    for i, one in enumerate(cells.labels[0]):
        for j, two in enumerate(cells.labels[1]):
            assert two is not None
            values = groups.get((one, two), [])
            filled = [Fraction(str(v)) for v in values if v is not None]
            assert cells.rows[i, j] == len(values)
            total = cells.value(survey.measures[0])[i, j]
            assert (math.isnan(total) and not filled) or total == float(sum(filled))
            if filled:
                assert cells.value(survey.measures[2])[i, j] == float(min(filled))
                assert cells.value(survey.measures[3])[i, j] == float(max(filled))
            if values:
                assert cells.value(survey.measures[1])[i, j] == len(filled)
                assert cells.value(survey.measures[5])[i, j] == 1


@given(st.lists(row, min_size=2, max_size=60), st.randoms(use_true_random=False))
def test_order_of_rows_changes_no_bit(rows: list[tuple[str | None, str, int, float | None]], random: object) -> None:
    shuffled = list(rows)
    random.shuffle(shuffled)  # type: ignore[attr-defined]
    tables = [
        survey_of(ga.read(frame_of(r)), measures=["sum(v)"], by=["one"], time="day", grain="month")
        for r in (rows, shuffled)
    ]
    one, two = (t.cells("one", PERIOD).value(t.measures[0]) for t in tables)
    assert one.tobytes() == two.tobytes()


@given(st.lists(row, min_size=2, max_size=60))
def test_roll_ups_agree(rows: list[tuple[str | None, str, int, float | None]]) -> None:
    survey = survey_of(ga.read(frame_of(rows)), measures=["sum(v)"], by=["one", "two"], time="day", grain="month")
    part = survey.measures[0].parts[0]
    whole = survey.cells().parts[part].total
    assert survey.cells("one").parts[part].total.sum() == pytest.approx(float(whole), abs=1e-6)
    assert survey.cells("one", "two", PERIOD).parts[part].total.sum() == pytest.approx(float(whole), abs=1e-6)


def test_rows_without_a_date_are_in_the_whole_but_in_no_period() -> None:
    frame = frame_of([("a", "x", 0, 1.0), ("a", "x", 40, 2.0), ("b", "y", 70, 4.0)])
    frame.loc[1, "day"] = pd.NaT
    survey = survey_of(ga.read(frame), measures=["sum(v)"], by=["one"], time="day", grain="month")
    assert float(survey.cells().value(survey.measures[0])) == 7
    assert np.nansum(survey.cells(PERIOD).value(survey.measures[0])) == 5


def test_amounts_are_added_as_whole_multiples() -> None:
    values = np.array([0.1] * 10 + [1e6, -1e6])
    (one,) = slices(values)
    assert one.scale == 10.0
    assert one.whole[0] == 1
    assert added([one.grouped(np.zeros(12, dtype=np.intp), 1)])[0] == 1.0  # plain doubles give 0.9999999999
    assert slices(np.array([math.pi]))[0].scale == 1.0


def test_hierarchies_and_aliases_are_found() -> None:
    frame = pd.DataFrame(
        {
            "port": list("abcd") * 10,
            "region": list("nnss") * 10,
            "code": list("1122") * 10,
            "free": list("xyzxyzxyxy") * 4,
            "v": range(40),
        }
    )
    table = ga.read(frame).with_roles(code="dimension")
    columns = tuple(table.column(name) for name in ("port", "region", "code", "free"))
    assert aliases(table, columns) == {"code"}
    assert parents(table, (columns[0], columns[1], columns[3])) == {"port": "region"}
