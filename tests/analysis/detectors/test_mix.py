"""The kind "mix": what is planted is found with its size, what is none is not."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

from tests.analysis.detectors.tables import plain, told


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
