"""Advice follows what is good: errors that rise were raised, not lost."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga


@pytest.mark.parametrize(
    ("name", "times", "said"),
    [("errors", 4.0, "Find what raised errors of"), ("errors", 0.2, "Find what lowered errors of"),
     ("revenue", 0.2, "Find what revenue of"), ("revenue", 4.0, "Find what lifted revenue of")],
)  # fmt: skip
def test_advice_says_which_way_it_went(name: str, times: float, said: str) -> None:
    rng = np.random.default_rng(12)
    days = np.repeat(pd.date_range("2025-01-01", periods=60), 3)
    host = np.tile(["web-01", "web-02", "db-01"], 60)
    usual = np.where((host == "web-02") & (days >= np.datetime64("2025-02-01")), 50 * times, 50)
    found = ga.scan(ga.read(pd.DataFrame({"day": days, "host": host, name: rng.poisson(usual)})), grain="day")
    assert any(said in one.text for one in found.suggestions()), [one.text for one in found.suggestions()]
