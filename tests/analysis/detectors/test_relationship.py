"""The kind "relationship": what is planted is found with its size, what is none is not."""

from __future__ import annotations

import numpy as np
import pytest

import golden_almanac as ga
from tests.analysis.detectors.tables import plain, told


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
