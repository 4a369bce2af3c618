"""The kind "divergence": what is planted is found with its size, what is none is not."""

from __future__ import annotations

import numpy as np
import pytest

import golden_almanac as ga
from tests.analysis.detectors.tables import plain


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
