"""Twenty flights a day at sixty times of departure: that one of them had three yesterday and none today is chance."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga


def _flights(seed: int, *, stopped: bool = False) -> pd.DataFrame:
    rng = np.random.default_rng(seed)
    days = pd.date_range("2025-01-01", periods=300)
    day = np.repeat(days, rng.poisson(22, days.size))
    slot = rng.integers(0, 60, day.size)
    origin = np.where(rng.random(day.size) < 0.4, "Quay", "Moor")
    frame = pd.DataFrame({"day": day, "departs": [f"T{one:02d}" for one in slot], "origin": origin})
    # Of one origin nothing flies on the last day.
    return frame[~((frame["origin"] == "Quay") & (frame["day"] >= days[-1]))] if stopped else frame


@pytest.mark.parametrize("seed", range(8))
def test_of_a_row_or_none_nothing_stands_out(seed: int) -> None:
    told = str(ga.explain_change(ga.read(_flights(seed)), "count(*)", grain="day").summary())
    assert "stands out" not in told
    assert "Not all moved alike" not in told
    assert "ended" not in told


def test_what_really_stopped_is_told() -> None:
    told = str(ga.explain_change(ga.read(_flights(1, stopped=True)), "count(*)", grain="day").summary())
    assert "Quay" in told
