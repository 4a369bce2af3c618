"""The kind "shift": what is planted is found with its size, what is none is not."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga
from tests.analysis.detectors.tables import finding_of
from tests.conftest import monthly


def test_shift(planted_scan: ga.Scan) -> None:
    birch = finding_of(planted_scan, "shift", "Birch", "sum(amount)")
    assert birch.direction == "up"
    assert abs(int((np.datetime64(birch.figures["date"]) - np.datetime64("2023-10-20")).astype(int))) < 45
    assert birch.figures["relative_pct"] == pytest.approx(60, abs=30)


def test_an_unfinished_month_is_no_collapse() -> None:
    frame = monthly({"a": [100.0] * 30, "b": [100.0] * 30}, rows=10, noise=0.1)
    frame = frame[frame["date"] < frame["date"].max() - pd.Timedelta(days=18)]
    scan = ga.scan(frame)
    assert scan.findings == ()
    assert any("unfinished" in text for text in scan.caveats())
