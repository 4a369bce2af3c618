"""The kind "trend": what is planted is found with its size, what is none is not."""

from __future__ import annotations

import numpy as np
import pytest

import golden_almanac as ga
from tests.analysis.detectors.tables import finding_of
from tests.conftest import monthly


def test_trend_against_siblings(planted_scan: ga.Scan) -> None:
    ash = finding_of(planted_scan, "trend", "Ash", "sum(amount)")
    assert ash.direction == "up"
    assert ash.figures["change_pct"] == pytest.approx(100 * (np.exp(0.9 * 24 / 36) - 1), rel=0.25)
    assert ash in planted_scan.findings[:5]


def test_a_growing_company_has_no_growing_parts() -> None:
    growth = [100 * 1.03**month for month in range(36)]
    scan = ga.scan(monthly(dict.fromkeys("abcd", growth), noise=0.3))
    assert [f.where.label for f in scan.findings if f.kind in ("trend", "shift")] == [""]
    assert scan.findings[0].figures["change_pct"] == pytest.approx(100 * (1.03**24 - 1), rel=0.1)


def test_what_is_said_against_siblings_is_what_both_did(planted_scan: ga.Scan) -> None:
    """One may divide the rise of the slice by that of its siblings: no third figure stands beside the two."""
    told = [f for f in planted_scan.findings if f.kind == "trend" and f.figures["relative_pct"] is not None]
    assert told
    for f in (one.figures for one in told):
        own, rest = (1 + f[name] / 100 for name in ("change_pct", "rest_change_pct"))
        assert 1 + f["relative_pct"] / 100 == pytest.approx(own / rest)
        assert f["relative_low_pct"] < f["relative_pct"] < f["relative_high_pct"]
