"""The kind "gap": what is planted is found with its size, what is none is not."""

from __future__ import annotations

from math import comb

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

import golden_almanac as ga
from golden_almanac.analysis.detectors.gap import _by_order, _longest
from tests.analysis.detectors.tables import plain, told


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
