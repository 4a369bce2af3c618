"""Each detector finds what is planted for it, with the right size, and is silent where nothing is."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga
from tests.analysis.detectors.tables import plain, planted
from tests.conftest import monthly


@pytest.fixture(scope="module")
def found() -> ga.Scan:
    return ga.scan(planted())


def one(scan: ga.Scan, kind: str, label: str, measure: str) -> ga.Finding:
    hits = [
        f
        for f in (*scan.findings, *scan.folded)
        if f.kind == kind and f.where.label == label and f.measure and f.measure.name == measure
    ]
    assert hits, f"{kind} of {label} was not found"
    return hits[0]


def test_trend_against_siblings(found: ga.Scan) -> None:
    ash = one(found, "trend", "Ash", "sum(amount)")
    assert ash.direction == "up"
    assert ash.figures["change_pct"] == pytest.approx(100 * (np.exp(0.9 * 35 / 36) - 1), rel=0.25)
    assert ash in found.findings[:5]


def test_shift(found: ga.Scan) -> None:
    birch = one(found, "shift", "Birch", "sum(amount)")
    assert birch.direction == "up"
    assert abs(int((np.datetime64(birch.figures["date"]) - np.datetime64("2023-10-20")).astype(int))) < 45
    assert birch.figures["relative_pct"] == pytest.approx(60, abs=30)


def test_difference(found: ga.Scan) -> None:
    cedar = one(found, "difference", "Cedar", "avg(rate)")
    assert cedar.figures["gap"] == pytest.approx(-4, abs=0.8)
    assert cedar.figures["gap_low"] < -4 < cedar.figures["gap_high"]
    frame = planted()
    assert cedar.figures["value"] == pytest.approx(frame[frame["shop"] == "Cedar"]["rate"].mean())
    assert cedar.figures["n"] == (frame["shop"] == "Cedar").sum()


def test_the_other_shops_are_no_findings_of_their_own(found: ga.Scan) -> None:
    """Only because Cedar is low, the rest is higher than the rest: mirrors are folded."""
    told = {f.where.label for f in found.findings if f.kind == "difference"}
    assert told == {"Cedar"}


def test_seasonality(found: ga.Scan) -> None:
    season = one(found, "seasonality", "", "sum(amount)")
    assert season.figures["peak"] in ("July", "August", "September")
    assert season.figures["strength"] > 0.5


def test_outlier(found: ga.Scan) -> None:
    row = next(f for f in found.findings if f.kind == "outlier")
    assert row.figures["row"] == 3211  # the rows of a frame count from 1
    assert row.figures["fault"] == "factor of 100"
    assert row.rows()["amount"].iloc[0] == row.figures["value"]


def test_ranking_needs_a_lead_beyond_chance() -> None:
    clear = ga.scan(monthly({"a": [200.0] * 30, "b": [100.0] * 30, "c": [95.0] * 30}, noise=0.2), kinds=["ranking"])
    assert clear.findings[0].figures["order"][0] == "a"
    assert clear.findings[0].figures["lead_pct"] == pytest.approx(100, rel=0.1)
    assert clear.findings[0].direction is None
    level = ga.scan(monthly({"a": [100.0] * 30, "b": [100.0] * 30, "c": [100.0] * 30}, noise=0.2), kinds=["ranking"])
    assert level.findings == ()


def test_a_climber_is_named() -> None:
    scan = ga.scan(
        monthly({"a": [300.0] * 36, "b": [200.0] * 36, "c": [120.0] * 24 + [260.0] * 12}, noise=0.1), kinds=["ranking"]
    )
    assert scan.findings[0].figures["climbers"] == [{"label": "c", "from": 3, "to": 2}]


def test_a_growing_company_has_no_growing_parts() -> None:
    growth = [100 * 1.03**month for month in range(36)]
    scan = ga.scan(monthly(dict.fromkeys("abcd", growth), noise=0.3))
    assert [f.where.label for f in scan.findings if f.kind in ("trend", "shift")] == [""]
    assert scan.findings[0].figures["change_pct"] == pytest.approx(100 * (1.03**35 - 1), rel=0.1)


def test_a_child_is_told_and_its_parent_folded() -> None:
    flat, rise = [100.0] * 36, [100 * 1.02**month for month in range(36)]
    frame = monthly({"p1": rise, "p2": flat, "q1": flat, "q2": flat, "r1": flat, "r2": flat}, noise=0.15)
    frame["area"] = frame["group"].str[0]
    scan = ga.scan(frame, kinds=["trend"])
    told = {f.where.label for f in scan.findings if f.where.conditions}
    assert "p1" in told
    assert "p" not in told


def test_an_unfinished_month_is_no_collapse() -> None:
    frame = monthly({"a": [100.0] * 30, "b": [100.0] * 30}, rows=10, noise=0.1)
    frame = frame[frame["date"] < frame["date"].max() - pd.Timedelta(days=18)]
    scan = ga.scan(frame)
    assert scan.findings == ()
    assert any("unfinished" in text for text in scan.caveats())


def test_a_tiny_extreme_group_does_not_lead() -> None:
    frame = plain(4000)
    frame.loc[frame.index[:12], "shop"] = "Tiny"
    frame.loc[frame.index[:12], "rate"] = 58.0
    assert all(f.where.label != "Tiny" for f in ga.scan(frame, kinds=["difference"]).findings)


@pytest.mark.parametrize("seed", range(6))
def test_noise_stays_silent(seed: int) -> None:
    assert ga.scan(plain(3000, seed=100 + seed)).findings == ()
