"""The kind "distribution": what is planted is found with its size, what is none is not."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.analysis.detectors.tables import plain, told


def test_heaps_at_round_numbers() -> None:
    frame = plain(4000)
    rounded = np.random.default_rng(3).random(len(frame)) < 0.5
    frame["rate"] = np.where(rounded, frame["rate"].round(-1), frame["rate"])
    (one,) = told(frame, "distribution")
    assert one.figures["shape"] == "heaps"
    step = one.figures["step"]
    on = np.isclose(frame["rate"] % step, 0) | np.isclose(frame["rate"] % step, step)
    assert one.figures["on_step"] == pytest.approx(on[frame["rate"] != 0].mean())
    assert one.figures["quartiles"] == [pytest.approx(q) for q in frame["rate"].quantile([0.25, 0.5, 0.75])]


def test_two_humps_and_what_divides_them() -> None:
    frame = plain(4000)
    far = frame["shop"].isin(["Ash", "Elm"])
    frame["rate"] = np.round(frame["rate"] + 60 * far, 1)
    (one,) = told(frame, "distribution")
    assert one.figures["shape"] == "two humps"
    assert one.figures["first_hump"] == pytest.approx(50, abs=6)
    assert one.figures["second_hump"] == pytest.approx(110, abs=6)
    assert one.figures["divided_by"] == "shop"
    assert one.headline.endswith("; the shop tells which.")


def test_a_long_tail() -> None:
    frame = plain(6000)
    frame["amount"] = np.round(np.random.default_rng(6).lognormal(3, 1.8, len(frame)), 2)
    (one,) = told(frame, "distribution")
    cut = frame["amount"].quantile(0.9)
    top = frame.loc[frame["amount"] >= cut, "amount"].sum() / frame["amount"].sum()
    assert one.figures["top_share"] == pytest.approx(top, rel=1e-9)
    # A lognormal's top tenth makes Φ(σ − z₀.₉) of the whole.
    assert top == pytest.approx(0.698, abs=0.06)


@given(st.integers(0, 40))
@settings(max_examples=8, deadline=None)
def test_one_hump_is_no_two(seed: int) -> None:
    rng = np.random.default_rng(seed)
    make = [rng.normal, rng.logistic, rng.laplace][seed % 3]
    frame = plain(3000, seed).assign(rate=np.round(make(100, 12, 3000), 2))
    assert [one for one in told(frame, "distribution") if one.figures["shape"] == "two humps"] == []
