"""Gaps, spikes and exceptions: their figures by hand, their tests against closed forms, their silence."""

from __future__ import annotations

from math import comb, sqrt

import numpy as np
import pandas as pd
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

import golden_almanac as ga
from golden_almanac.analysis.detectors.exception import _association, _independent, _left_out, _without
from golden_almanac.analysis.detectors.gap import _by_order, _longest
from golden_almanac.analysis.detectors.spike import _robust
from golden_almanac.stats.normal_scores import normal_scores
from tests.analysis.detectors.tables import plain


def told(frame: pd.DataFrame, kind: str) -> list[ga.Finding]:
    found = ga.scan(frame, kinds=[kind]).findings
    for one in found:
        assert one.check().agrees, one.headline
        assert one.chart().png()
        assert len(one.rows())
    return list(found)


# --- gaps ----------------------------------------------------------------------------------------


def test_a_label_that_ends() -> None:
    frame = plain(6000)
    gone = (frame["shop"] == "Elm") & (frame["date"] >= "2024-09-01")
    frame.loc[gone, "shop"] = "Ash"
    (one,) = told(frame, "gap")
    assert one.where.label == "Elm"
    before = frame[(frame["date"] >= "2023-09-01") & (frame["date"] < "2024-09-01")]
    own = before[before["shop"] == "Elm"]
    assert {name: one.figures[name] for name in ("what", "since", "until", "periods", "rows")} == {
        "what": "ended",
        "since": "2024-09-01",
        "until": None,
        "periods": 4,
        "rows": len(own),
    }
    assert one.figures["value_share"] == pytest.approx(own["amount"].sum() / before["amount"].sum())
    share = 100 * one.figures["value_share"]
    assert one.headline == (
        f"Elm has had no rows since September 2024; it made {share:.0f}% of amount in the 12 months before."
    )


def test_a_label_that_begins_and_one_that_pauses() -> None:
    frame = plain(9000)
    frame.loc[(frame["shop"] == "Ash") & (frame["date"] < "2022-09-01"), "shop"] = "Elm"
    frame.loc[(frame["shop"] == "Birch") & frame["date"].between("2023-04-01", "2023-08-31"), "shop"] = "Elm"
    found = {one.where.label: one for one in told(frame, "gap")}
    assert found["Ash"].headline.startswith("Ash has rows only since September 2022; it has made")
    since = frame[frame["date"] >= "2022-09-01"]
    share = since[since["shop"] == "Ash"]["amount"].sum() / since["amount"].sum()
    assert found["Ash"].figures["value_share"] == pytest.approx(share)
    assert found["Birch"].headline.startswith("Birch had no rows from April to August 2023; it made")
    assert (found["Ash"].figures["what"], found["Birch"].figures["what"]) == ("began", "paused")


def test_a_column_that_stops_being_filled() -> None:
    frame = plain(6000)
    frame.loc[frame["date"] >= "2024-10-01", "rate"] = np.nan
    (one,) = told(frame, "gap")
    count = int((frame["date"] >= "2024-10-01").sum())
    assert one.headline == f"No rate is given since October 2024, in any of {count} rows."


def test_a_summer_shop_has_no_gap() -> None:
    frame = plain(9000)
    winter = frame["date"].dt.month.isin([11, 12, 1, 2, 3])
    frame.loc[(frame["shop"] == "Elm") & winter, "shop"] = "Ash"
    assert told(frame, "gap") == []


def test_the_movement_of_a_label_that_ended_is_folded_under_its_end() -> None:
    frame = plain(6000)
    gone = (frame["shop"] == "Elm") & (frame["date"] >= "2024-05-01")
    frame.loc[gone, "shop"] = np.where(np.arange(int(gone.sum())) % 2 == 0, "Ash", "Birch")
    scan = ga.scan(frame)
    (gap,) = (one for one in scan.findings if one.kind == "gap")
    assert not [one for one in scan.findings if one.kind in ("trend", "shift") and one.where == gap.where]


def test_the_chance_of_an_empty_run() -> None:
    """The rows expected, and the negative binomial's chance of none, times the places where the run could be."""
    own = np.array([20.0] * 20 + [0.0] * 4)
    run = _longest(own, np.full(24, 100.0), 12)
    assert run is not None
    assert (run.first, run.last, run.expected) == (20, 23, 80.0)
    assert run.p == pytest.approx(stats.nbinom.pmf(0, 10, 10 / (10 + 80)) * 21)
    assert _longest(np.full(24, 3.0), np.full(24, 100.0), 12) is None
    assert _longest(np.zeros(24), np.full(24, 100.0), 12) is None


@given(st.integers(4, 10), st.data())
def test_the_chance_by_order_bounds_that_of_shuffling(n: int, data: st.DataObject) -> None:
    """Counted over all arrangements: how many have a run of so many empty periods."""
    from itertools import combinations

    empty = data.draw(st.integers(1, n - 1))
    run = data.draw(st.integers(1, empty))
    hits = 0
    for places in combinations(range(n), empty):
        text = "".join("0" if place in places else "1" for place in range(n))
        hits += "0" * run in text
    assert hits / comb(n, empty) <= _by_order(n, empty, run) + 1e-12


# --- spikes --------------------------------------------------------------------------------------


def test_a_bad_week() -> None:
    frame = plain(9000)
    frame["late"] = np.random.default_rng(5).random(len(frame)) < 0.1
    inside = frame["date"].between("2023-05-08", "2023-05-14")
    frame.loc[inside, "late"] = True
    (one,) = told(frame, "spike")
    around = frame["date"].between("2023-03-27", "2023-06-25") & ~inside
    assert one.measure is not None
    assert one.measure.name == "avg(late)"
    assert str(one.period.start) == one.figures["date"] == "2023-05-08"  # type: ignore[union-attr]
    assert one.figures["value"] == 1.0
    assert one.figures["expected"] == pytest.approx(frame.loc[around, "late"].mean())
    assert one.figures["n"] == int(inside.sum())
    assert one.headline.startswith("Late rate was 100% in the week of 8 May 2023, against ")


def test_a_week_without_most_of_its_rows_is_one_story() -> None:
    frame = plain(20_000)
    inside = frame["date"].between("2024-02-05", "2024-02-11").to_numpy()
    frame = frame[~inside | (np.arange(len(frame)) % 10 == 0)].reset_index(drop=True)
    frame["units"] = frame["amount"] // 10 + 1
    found = ga.scan(frame, kinds=["spike"])
    (one,) = found.findings
    assert one.direction == "down"
    assert {other.folded_under and other.folded_under[1] for other in found.folded} == {
        "the same time, in another measure",
        "the same time",
    }
    assert "In the same week " in one.detail


def test_a_week_without_any_row() -> None:
    frame = plain(9000)
    frame = frame[~frame["date"].between("2024-02-05", "2024-02-11")].reset_index(drop=True)
    found = ga.scan(frame, kinds=["spike"])
    (one,) = found.findings
    assert one.figures["value"] == 0.0
    assert one.check().agrees
    assert one.chart().issues() == []


def test_a_step_is_no_spike_and_one_huge_row_is_no_week() -> None:
    frame = plain(9000)
    frame["amount"] *= np.where(frame["date"] > "2023-06-15", 3.0, 1.0)
    frame.loc[4000, "amount"] *= 1e4
    assert told(frame, "spike") == []


def test_robust_deviations_by_hand() -> None:
    """0 1 2 0 1 2 …, with a 41: six before and six after it have the median 1; others lie 1, 0 or 1 from theirs."""
    values = np.tile([0.0, 1.0, 2.0], 14)
    values[21] = 41.0
    off = _robust(values)
    assert int(np.argmax(np.abs(off))) == 21
    assert off[21] == pytest.approx(40 / 1.4826)
    assert _robust(5 - 3 * values) == pytest.approx(-off)


@given(st.floats(-1e6, 1e6), st.integers(8, 30))
def test_a_step_of_any_height_is_far_from_one_side_only(height: float, place: int) -> None:
    values = np.tile([0.0, 1.0, 2.0], 13) + height * (np.arange(39) >= place)
    assert np.abs(_robust(values)).max() < 3


def test_normal_scores_are_those_of_the_ranks() -> None:
    values = np.array([3.0, 1.0, 2.0, np.nan, 2.0])
    scores = normal_scores(values)
    assert np.isnan(scores[3])
    assert scores[[1, 0]] == pytest.approx(stats.norm.ppf([0.125, 0.875]))
    assert scores[2] == scores[4] == pytest.approx(0.0)
    strata = np.array([0, 0, 1, 1, 1])
    assert normal_scores(values, strata, 2)[[0, 1]] == pytest.approx(stats.norm.ppf([0.75, 0.25]))


# --- exceptions ----------------------------------------------------------------------------------


def test_two_labels_that_go_together() -> None:
    frame = plain(6000)
    frame["desk"] = np.random.default_rng(3).choice(["A", "B", "C"], len(frame))
    own = frame[(frame["shop"] == "Elm") & (frame["desk"] == "B")]
    frame = pd.concat([frame, own]).sort_values("date", kind="stable").reset_index(drop=True)
    (one,) = [one for one in told(frame, "exception") if one.where.label == "Elm, B"]
    value = frame[(frame["shop"] == "Elm") & (frame["desk"] == "B")]["amount"].sum()
    assert one.figures["value"] == pytest.approx(value)
    assert one.figures["ratio"] == pytest.approx(2.0, rel=0.2)
    assert one.figures["first_total"] == pytest.approx(frame[frame["shop"] == "Elm"]["amount"].sum())
    assert one.to_dict()["by"] == ["shop", "desk"]
    assert one.to_dict()["where"] == {"shop": ["Elm"], "desk": ["B"]}
    assert len(one.rows()) == 2 * len(own)


def test_a_ship_bound_to_its_route_is_no_exception() -> None:
    frame = plain(6000)
    chance = np.random.default_rng(3)
    bound = frame["shop"].map({"Ash": "Tern", "Birch": "Petrel", "Cedar": "Gull", "Elm": "Gull"})
    frame["ship"] = np.where(
        chance.random(len(frame)) < 0.8, bound, chance.choice(["Tern", "Petrel", "Gull"], len(frame))
    )
    assert told(frame, "exception") == []


def test_what_is_expected_leaves_the_cell_out() -> None:
    """With rows and columns independent but for one cell, the others give it back exactly."""
    made = np.outer([1.0, 2.0, 3.0], [10.0, 20.0, 40.0])
    odd = made.copy()
    odd[1, 2] = 999.0
    assert _without(odd, [(1, 2)]) == pytest.approx(made)
    assert _left_out(odd, (1, 2)) == pytest.approx(made[1, 2])
    assert _independent(made) == pytest.approx(made)
    assert _association(made) == pytest.approx(0.0, abs=1e-9)


def test_association_is_cramers() -> None:
    table = np.array([[30.0, 10.0, 5.0], [8.0, 25.0, 7.0], [3.0, 9.0, 40.0]])
    chi = stats.chi2_contingency(table, correction=False).statistic
    assert _association(table) == pytest.approx(sqrt(chi / table.sum() / 2))
    assert _association(table) == pytest.approx(stats.contingency.association(table.astype(int), "cramer"))


@pytest.mark.parametrize("kind", ["gap", "spike", "exception"])
def test_silence_on_noise(kind: str) -> None:
    for seed in range(6):
        assert told(plain(4000, seed), kind) == []
