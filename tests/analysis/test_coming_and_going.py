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
