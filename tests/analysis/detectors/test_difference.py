"""The kind "difference": what is planted is found with its size, what is none is not."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga
from tests.analysis.detectors.tables import finding_of, planted


def test_difference(planted_scan: ga.Scan) -> None:
    cedar = finding_of(planted_scan, "difference", "Cedar", "avg(rate)")
    assert cedar.figures["gap"] == pytest.approx(-4, abs=0.8)
    assert cedar.figures["gap_low"] < -4 < cedar.figures["gap_high"]
    frame = planted()
    assert cedar.figures["value"] == pytest.approx(frame[frame["shop"] == "Cedar"]["rate"].mean())
    assert cedar.figures["n"] == (frame["shop"] == "Cedar").sum()


def test_the_other_shops_are_no_findings_of_their_own(planted_scan: ga.Scan) -> None:
    """Only because Cedar is low, the rest is higher than the rest: mirrors are folded."""
    told = {f.where.label for f in planted_scan.findings if f.kind == "difference"}
    assert told == {"Cedar"}


def _deliveries(rng: np.random.Generator, *, dated: bool, habit: float = 1.0) -> pd.DataFrame:
    rows = 1200
    frame = pd.DataFrame(
        {
            "round": rng.choice([f"R{i}" for i in range(9)], rows),
            "stops": rng.poisson(12, rows) + 1,
            "takings": np.round(rng.lognormal(5, 0.6, rows), 2),
        }
    )
    frame["misses"] = rng.poisson(0.02 * frame["stops"] * np.where(frame["round"] == "R4", habit, 1.0))
    frame["tips"] = np.round(frame["takings"] * rng.uniform(0, 0.1, rows), 2)
    if dated:
        frame["day"] = pd.Timestamp("2023-01-01") + pd.to_timedelta(np.sort(rng.integers(0, 700, rows)), "D")
    return frame


@pytest.mark.parametrize("dated", [False, True])
def test_a_ratio_of_counts_is_weighed_by_its_events(dated: bool) -> None:
    measure = "1000 * sum(misses) / sum(stops)"
    frame = _deliveries(np.random.default_rng(11), dated=dated, habit=2.6)
    found = [f for f in ga.scan(frame, measures=[measure]).findings if f.kind == "difference"]
    assert [f.where.label for f in found] == ["R4"]
    own, rest = (part.sum(numeric_only=True) for _, part in frame.groupby(frame["round"] != "R4"))
    figures = found[0].figures
    assert figures["value"] == pytest.approx(1000 * own["misses"] / own["stops"])
    assert figures["rest"] == pytest.approx(1000 * rest["misses"] / rest["stops"])
    assert figures["gap_low"] < figures["gap"] < figures["gap_high"]
    # Poisson alone, by the delta method: the range is no narrower than single events make it.
    error = 1000 * np.sqrt(own["misses"] / own["stops"] ** 2 + rest["misses"] / rest["stops"] ** 2)
    assert (figures["gap_high"] - figures["gap_low"]) / 2 / 1.96 > 0.8 * error
    assert figures["weight"] == own["stops"]
    assert found[0].headline.startswith("Misses per 1,000 stops of R4 are ")
    assert found[0].check().agrees


def test_no_ratio_is_told_of_chance() -> None:
    """Nought of few, and heavy amounts over small ones, differ by chance: 20 tables of two ratios, nine labels each."""
    told = []
    for seed in range(20):
        frame = _deliveries(np.random.default_rng(400 + seed), dated=seed % 2 == 1)
        found = ga.scan(frame, measures=["sum(misses) / sum(stops)", "sum(tips) / sum(takings)"]).findings
        told += [f.headline for f in found if f.kind == "difference"]
    assert len(told) <= 1, told


def test_what_a_gap_of_a_ratio_comes_to_is_its_events() -> None:
    """A gap of misses per stop is as many misses as there were stops, not rows."""
    frame = _deliveries(np.random.default_rng(11), dated=True, habit=2.6)
    measure = "sum(misses) / sum(stops)"
    scan = ga.scan(frame, measures=[measure], better={measure: "down"})
    finding = next(f for f in scan.findings if f.kind == "difference")
    step = next(one for one in scan.suggestions() if one.finding == finding.id)
    assert step.amount == pytest.approx(finding.figures["gap"] * frame.loc[frame["round"] == "R4", "stops"].sum())
    assert "(misses)" in step.text
    assert "(stops)" in step.reckoned


@pytest.mark.parametrize(("gap", "low", "high"), [(3.0, -1.0, 7.0), (-3.0, -7.0, 1.0)])
def test_a_range_that_reaches_beyond_nought_says_so(planted_scan: ga.Scan, gap: float, low: float, high: float) -> None:
    """Above them by minus one to seven, not by one to seven; below them likewise."""
    cedar = finding_of(planted_scan, "difference", "Cedar", "avg(rate)")
    figures = {**cedar.figures, "gap": gap, "gap_low": low, "gap_high": high}
    told = replace(cedar, candidate=replace(cedar.candidate, figures=figures)).detail
    assert "95% range \u22121 to 7" in told.replace(".00", "")
