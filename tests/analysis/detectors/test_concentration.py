"""The kind "concentration": what is planted is found with its size, what is none is not."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from golden_almanac.analysis.detectors.concentration import _gini
from tests.analysis.detectors.tables import desks, told


def test_two_desks_make_half() -> None:
    frame = desks()
    top = frame["desk"].isin(["Desk 02", "Desk 09"])
    frame["amount"] = np.round(frame["amount"] * np.where(top, 5.0, 1.0), 2)
    (one,) = told(frame, "concentration")
    sums = frame.groupby("desk")["amount"].sum()
    shares = sums / sums.sum()
    assert set(one.figures["top"]) == {"Desk 02", "Desk 09"}
    assert one.figures["share"] == pytest.approx(shares.nlargest(2).sum())
    assert one.figures["herfindahl"] == pytest.approx((shares**2).sum())
    assert one.figures["even_share"] == pytest.approx(2 / 12)
    assert one.headline.startswith("Desk 02 and Desk 09 of 12 desks make ") or one.headline.startswith(
        "Desk 09 and Desk 02 of 12 desks make "
    )


def test_the_largest_of_equal_desks_are_no_concentration() -> None:
    assert told(desks(), "concentration") == []
    assert told(desks().drop(columns="date"), "concentration") == []


def test_gini_of_equal_shares_of_one_owner_and_of_a_ladder() -> None:
    assert _gini(np.full(7, 3.0)) == pytest.approx(0)
    assert _gini(np.array([0.0, 0.0, 0.0, 5.0])) == pytest.approx(3 / 4)
    # 1, 2, …, n has (n − 1) / 3n … by its closed form (n² − 1) / (3n(n + 1)).
    n = 9
    assert _gini(np.arange(1.0, n + 1)) == pytest.approx((n * n - 1) / (3 * n * (n + 1)))


@given(hnp.arrays(np.float64, st.integers(2, 40), elements=st.floats(0.01, 1e6)))
def test_gini_knows_no_scale_and_no_order(values: np.ndarray) -> None:
    once = _gini(values)
    assert -1e-9 <= once < 1
    assert _gini(values[::-1]) == pytest.approx(once, abs=1e-12)
    assert _gini(values * 7.5) == pytest.approx(once, abs=1e-9)
