"""The kind "difference": what is planted is found with its size, what is none is not."""

from __future__ import annotations

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
