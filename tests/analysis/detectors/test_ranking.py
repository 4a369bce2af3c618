"""The kind "ranking": what is planted is found with its size, what is none is not."""

from __future__ import annotations

import pytest

import golden_almanac as ga
from tests.analysis.detectors.tables import plain
from tests.conftest import monthly


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


def test_a_tiny_extreme_group_does_not_lead() -> None:
    frame = plain(4000)
    frame.loc[frame.index[:12], "shop"] = "Tiny"
    frame.loc[frame.index[:12], "rate"] = 58.0
    assert all(f.where.label != "Tiny" for f in ga.scan(frame, kinds=["difference"]).findings)
