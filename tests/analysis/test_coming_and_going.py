"""Customers of a subscription, a row a month each: some come and some go every month, and the first month is small."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga


def _subscriptions(seed: int, *, lost: bool = False) -> ga.Table:
    rng = np.random.default_rng(seed)
    rows = []
    for customer in range(160):
        start, seats = int(rng.integers(0, 24)), int(rng.integers(1, 40))
        for month in range(start, min(30, start + int(rng.integers(3, 30)))):
            rows.append((month, f"C{customer:04d}", rng.choice(["EMEA", "APAC"]), seats))
            seats = max(1, seats + int(rng.integers(-1, 2)))
    if lost:
        # All of June is missing in one region.
        rows = [row for row in rows if not (row[2] == "EMEA" and 18 <= row[0] <= 21)]
    frame = pd.DataFrame(rows, columns=["month", "customer", "region", "seats"])
    ends = pd.date_range("2023-06-30", periods=30, freq="ME")
    return ga.read(frame.assign(month=ends[frame["month"]]).sort_values("month", kind="stable"))


@pytest.mark.parametrize("seed", range(4))
def test_customers_who_left_are_no_gaps_and_the_first_month_is_no_outlier(seed: int) -> None:
    found = ga.scan(_subscriptions(seed))
    told = [one for one in (*found.findings, *found.folded) if one.kind in ("gap", "spike")]
    assert not told, [one.headline for one in told]


def test_rows_that_are_missing_are_told_still() -> None:
    found = ga.scan(_subscriptions(1, lost=True))
    gap = next(one for one in found.findings if one.kind == "gap")
    assert "EMEA" in gap.headline


def test_the_visits_of_a_study_come_one_after_the_other() -> None:
    rng = np.random.default_rng(3)
    begun = pd.Timestamp("2024-03-01") + pd.to_timedelta(np.repeat(rng.integers(0, 200, 180), 6), "D")
    visit = np.tile(np.arange(1, 7), 180)
    frame = pd.DataFrame({"visit_date": begun + pd.to_timedelta(30 * (visit - 1), "D"), "visit": visit})
    found = ga.scan(ga.read(frame.assign(pulse=rng.normal(72, 9, 1_080).round())), grain="week")
    assert not [one.headline for one in (*found.findings, *found.folded) if one.kind == "gap"]


@pytest.mark.parametrize("seed", range(3))
def test_of_cells_that_stand_still_while_one_moves_nothing_is_told(seed: int) -> None:
    """Twenty cells stand still, and one is down far longer since October: they did not fall behind it."""
    rng = np.random.default_rng(seed)
    days, cells = pd.date_range("2025-05-01", "2025-11-27"), 20
    day, cell = np.repeat(days, cells), np.tile(np.arange(cells), days.size)
    worse = (cell == 7) & (day >= np.datetime64("2025-10-06"))
    down = np.where(worse, rng.gamma(2, 6, day.size), rng.gamma(1.5, 0.4, day.size)).round(2)
    table = ga.read(pd.DataFrame({"day": day, "cell": [f"CELL_{one:02d}" for one in cell], "downtime_min": down}))
    found = ga.scan(table)
    shifts = [one for one in (*found.findings, *found.folded) if one.kind == "shift" and one.by == "cell"]
    assert not [one.headline for one in shifts if "CELL_07" not in one.headline]
