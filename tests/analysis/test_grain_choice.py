"""The scan as a whole, on tables of other grains than months."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga


def series(grain: str, periods: int, growth: float, seed: int = 3) -> pd.DataFrame:
    rng = np.random.default_rng(seed)
    step = {"day": 1, "week": 7, "year": 365}[grain]
    starts = np.datetime64("2003-01-06") + step * np.arange(periods)
    rows = [
        (start, shop, 100 * np.exp((growth if shop == "a" else 0.0) * place) * rng.lognormal(0, 0.1))
        for place, start in enumerate(starts)
        for shop in "abcdefgh"
    ]
    return pd.DataFrame(rows, columns=["day", "shop", "sales"])


@pytest.mark.parametrize(("grain", "periods"), [("day", 90), ("week", 80), ("year", 20)])
def test_a_trend_is_found_at_every_grain(grain: str, periods: int) -> None:
    """What is told is from the middle of the first fifth to that of the last (twelve periods at most)."""
    apart = 1 - min(12, round(0.2 * periods)) / periods
    scan = ga.scan(series(grain, periods, 0.7 / periods))
    assert scan.result.survey.timeline is not None
    assert scan.result.survey.timeline.grain == grain
    hits = [one for one in scan.findings if one.where.label == "a" and one.kind == "trend"]
    assert hits
    assert hits[0].figures["change_pct"] == pytest.approx(100 * np.expm1(0.7 * apart), rel=0.25)
    assert all(one.check().agrees for one in (*scan.findings, *scan.folded))
    assert all(one.chart().issues() == [] for one in scan.findings)


def test_the_grain_can_be_set() -> None:
    scan = ga.scan(series("day", 400, 0.001), grain="week")
    assert scan.to_dict()["table"]["grain"] == "week"
