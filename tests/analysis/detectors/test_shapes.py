"""Concentration, mix, relationship, distribution, divergence: planted, counted by hand, and silent on chance."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

import golden_almanac as ga
from golden_almanac.analysis.detectors.concentration import _gini
from tests.analysis.detectors.tables import plain


def told(frame: pd.DataFrame, kind: str, **options: object) -> list[ga.Finding]:
    found = ga.scan(frame, kinds=[kind], **options).findings  # type: ignore[arg-type]
    for one in found:
        assert one.check().agrees, one.headline
        assert one.chart().issues() == []
        assert len(one.rows())
        assert one.headline
        assert one.detail
    return list(found)


def desks(rows: int = 6000, seed: int = 11) -> pd.DataFrame:
    rng = np.random.default_rng(seed)
    return plain(rows, seed).assign(desk=rng.choice([f"Desk {i:02d}" for i in range(12)], rows))


# --- concentration -------------------------------------------------------------------------------


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


# --- mix -----------------------------------------------------------------------------------------


def reversal(seed: int = 5) -> pd.DataFrame:
    frame = plain(9000, seed)
    rng = np.random.default_rng(seed)
    late = (frame["date"] >= "2024-01-01").to_numpy()
    low = rng.random(len(frame)) < np.where(late, 0.75, 0.4)
    frame["shop"] = np.where(low, "Ash", rng.choice(["Birch", "Cedar"], len(frame)))
    frame["rate"] = np.round(frame["rate"] + np.where(low, 0, 40) + 5 * late, 1)
    return frame


def test_a_reversal_is_called_by_name_and_adds_up() -> None:
    frame = reversal()
    (one,) = (f for f in told(frame, "mix") if f.by == "shop")
    f = one.figures
    assert f["reversal"]
    assert f["change"] == pytest.approx(f["mix"] + f["within"], abs=1e-12)
    years = frame["date"].dt.year
    assert f["value_before"] == pytest.approx(frame.loc[years == 2023, "rate"].mean())
    assert f["value"] == pytest.approx(frame.loc[years == 2024, "rate"].mean())
    for part in f["parts"]:
        own = frame[frame["shop"] == part["label"]]
        now, then = (own.loc[own["date"].dt.year == year, "rate"].mean() for year in (2024, 2023))
        assert part["change"] == pytest.approx(now - then)
        assert part["change"] > 0 > f["change"]
    assert "though within the shops it rose" in one.headline


def test_parts_that_keep_their_weight_are_no_mix() -> None:
    frame = plain(9000)
    frame["rate"] = np.round(frame["rate"] - 6 * (frame["date"] >= "2024-01-01"), 1)
    assert told(frame, "mix") == []


# --- relationship --------------------------------------------------------------------------------


def test_two_columns_that_go_together() -> None:
    frame = plain(4000)
    rng = np.random.default_rng(2)
    frame["rate"] = np.round(30 + 0.2 * frame["amount"] + rng.normal(0, 8, len(frame)), 1)
    (one,) = told(frame, "relationship")
    wanted = np.corrcoef(frame["amount"], frame["rate"])[0, 1]
    assert one.figures["columns"] == ["amount", "rate"]
    assert one.figures["r"] == pytest.approx(wanted, rel=1e-9)
    assert one.figures["slope"] == pytest.approx(np.polyfit(frame["amount"], frame["rate"], 1)[0], rel=1e-9)
    assert one.figures["low"] < wanted < one.figures["high"]
    z = np.arctanh(wanted)
    assert one.figures["low"] == pytest.approx(np.tanh(z - 1.96 / np.sqrt(len(frame) - 3)), abs=1e-9)
    assert one.headline.startswith("Amount and rate rise and fall together")
    assert "no proof" in one.detail


def test_what_only_shares_a_season_a_growth_or_a_shop_does_not_go_together() -> None:
    frame = plain(6000)
    wave = 1 + 0.4 * np.cos(2 * np.pi * frame["date"].dt.day_of_year / 365.25)
    time = (frame["date"] - frame["date"].min()).dt.days / 1096
    level = frame["shop"].map({"Ash": 1.0, "Birch": 2.0, "Cedar": 3.0, "Elm": 4.0})
    for column in ("amount", "rate"):
        frame[column] = np.round(frame[column] * wave * (1 + time) * level, 2)
    assert np.corrcoef(frame["amount"], frame["rate"])[0, 1] > 0.5
    assert told(frame, "relationship") == []


def test_bookkeeping_is_no_relationship_and_a_third_explains_two() -> None:
    frame = plain(5000)
    rng = np.random.default_rng(4)
    frame["cost"] = np.round(rng.gamma(4, 8, len(frame)), 2)
    frame["profit"] = (frame["amount"] - frame["cost"]).round(2)
    frame["tax"] = (0.2 * frame["amount"]).round(2)
    scan = ga.scan(frame, kinds=["relationship"])
    pairs = [set(f.figures["columns"]) for f in (*scan.findings, *scan.folded)]
    assert not any(pair <= {"amount", "cost", "profit", "tax"} for pair in pairs)
    frame = plain(5000).assign(middle=lambda f: np.round(f["amount"] + rng.normal(0, 15, len(f)), 1))
    frame["rate"] = np.round(frame["middle"] + rng.normal(0, 15, len(frame)), 1)
    scan = ga.scan(frame, kinds=["relationship"])
    assert {frozenset(f.figures["columns"]) for f in scan.findings} == {
        frozenset({"amount", "middle"}),
        frozenset({"rate", "middle"}),
    }
    (under,) = scan.folded
    assert under.folded_under is not None
    assert under.folded_under[1] == "follows from middle, which goes with both"


# --- distribution --------------------------------------------------------------------------------


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


# --- divergence ----------------------------------------------------------------------------------


def test_the_last_months_off_the_path() -> None:
    frame = plain(9000)
    own = (frame["shop"] == "Cedar") & (frame["date"] >= "2024-09-01")
    time = (frame["date"] - frame["date"].min()).dt.days / 1096
    frame["amount"] = np.round(
        frame["amount"] * np.where(own, 0.5, 1.0) * np.where(frame["shop"] == "Cedar", 1 + time, 1), 2
    )
    scan = ga.scan(frame, kinds=["divergence"], measures=["sum(amount)"])
    one = next(f for f in scan.findings if f.where.label == "Cedar")
    assert one.check().agrees
    assert one.figures["since"] == "2024-09-01"
    assert one.figures["periods"] == 4
    last = frame[frame["date"] >= "2024-09-01"]
    assert one.figures["value"] == pytest.approx(last.loc[last["shop"] == "Cedar", "amount"].sum() / 4)
    assert one.figures["change_pct"] == pytest.approx(-50, abs=12)
    assert one.figures["low"] < -50 < one.figures["high"]
    assert [f.where.label for f in scan.findings] == ["Cedar"]


# --- invariants ----------------------------------------------------------------------------------


@given(hnp.arrays(np.float64, st.integers(2, 40), elements=st.floats(0.01, 1e6)))
def test_gini_knows_no_scale_and_no_order(values: np.ndarray) -> None:
    once = _gini(values)
    assert -1e-9 <= once < 1
    assert _gini(values[::-1]) == pytest.approx(once, abs=1e-12)
    assert _gini(values * 7.5) == pytest.approx(once, abs=1e-9)


@pytest.mark.parametrize("kind", ["concentration", "mix", "relationship", "distribution", "divergence"])
def test_chance_says_nothing(kind: str) -> None:
    for seed in range(3):
        assert told(desks(4000, seed), kind) == []
