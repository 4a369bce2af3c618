"""The kind "exception": what is planted is found with its size, what is none is not."""

from __future__ import annotations

from math import sqrt

import numpy as np
import pandas as pd
import pytest
from scipy import stats

from golden_almanac.analysis.detectors.exception import _association, _independent, _left_out, _without
from tests.analysis.detectors.tables import plain, told


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
