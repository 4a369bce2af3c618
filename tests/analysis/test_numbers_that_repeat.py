"""The rate of a loan stands in each of its months: the loans are the sample of it, not their months."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga


def _loans(seed: int, *, dearer: float = 0.0) -> ga.Table:
    """The rate of each loan, and how its borrower is scored, at each month's end."""
    rng = np.random.default_rng(seed)
    loans, months = 120, pd.date_range("2024-01-31", periods=20, freq="ME")
    branch = rng.choice(["Harbour", "Hill", "Centre"], loans)
    rate = (5 + dearer * (branch == "Hill") + rng.uniform(-2, 2, loans)).round(3)
    frame = pd.DataFrame(
        {
            "month": np.repeat(months, loans),
            "loan_no": np.tile([f"LN{one:04d}" for one in range(loans)], months.size),
            "branch": np.tile(branch, months.size),
            "interest_rate": np.tile(rate, months.size),
            "borrower_score": np.tile(rng.normal(40, 9, loans).round(1), months.size),
        }
    )
    return ga.read(frame)


@pytest.mark.parametrize("seed", range(6))
def test_loans_that_differ_by_chance_make_no_branch_differ(seed: int) -> None:
    found = ga.scan(_loans(seed))
    told = [
        one for one in (*found.findings, *found.folded) if one.kind in ("difference", "distribution", "relationship")
    ]
    assert not told, [one.headline for one in told]


def test_a_branch_that_is_dearer_is_told_with_a_range_that_its_loans_give() -> None:
    gap = next(one for one in ga.scan(_loans(1, dearer=2.5)).findings if one.kind == "difference")
    assert "Hill" in gap.headline
    f = gap.figures
    assert f["gap_low"] < 2.5 < f["gap_high"]
    # Some 40 loans against 80, each spread evenly over 4: half a range is 1.96 times 0.22, not that of their months.
    error = 4 / np.sqrt(12) * np.sqrt(1 / 40 + 1 / 80)
    assert f["gap_high"] - f["gap_low"] == pytest.approx(2 * 1.96 * error, rel=0.2)


def test_humps_of_what_repeats_are_those_of_the_loans() -> None:
    rng = np.random.default_rng(4)
    loans = 400
    rate = np.where(rng.random(loans) < 0.5, rng.normal(10, 1.5, loans), rng.normal(30, 1.5, loans)).round(1)
    names = [f"LN{one:04d}" for one in range(loans)]
    months = np.repeat(pd.date_range("2024-01-31", periods=5, freq="ME"), loans)
    frame = pd.DataFrame({"month": months, "loan_no": np.tile(names, 5), "interest_rate": np.tile(rate, 5)})
    found = ga.scan(ga.read(frame))
    humps = next(one for one in (*found.findings, *found.folded) if one.kind == "distribution")
    assert humps.figures["first_hump"] == pytest.approx(10, abs=1.5)
    assert humps.figures["second_hump"] == pytest.approx(30, abs=1.5)
    assert humps.figures["n"] == 5 * loans


@pytest.mark.parametrize("seed", range(3))
def test_neither_drivers_nor_comparisons_are_sure_of_them(seed: int) -> None:
    table = _loans(seed)
    found = ga.find_drivers(table, "interest_rate")
    assert not found.drivers
    assert "Left out: loan no" in str(found.summary())
    compared = str(ga.compare(table, "interest_rate", by="branch").summary())
    assert "does not differ between the branches by more than chance" in compared
    assert "the 120 of them are counted" in compared


def test_few_that_repeat_are_counted_too() -> None:
    """Meters stand at what they stand at: sixteen of them on two sites are sixteen, however often they are read."""
    rng = np.random.default_rng(2)
    meters, days = 16, pd.date_range("2025-01-01", periods=90)
    level = rng.uniform(1_000, 90_000, meters)
    frame = pd.DataFrame(
        {
            "day": np.repeat(days, meters),
            "meter": np.tile([f"M{one:02d}" for one in range(meters)], days.size),
            "site": np.tile(["Quay", "Depot"], days.size * meters // 2),
            "pressure": np.tile(level, days.size) + rng.normal(0, 200, days.size * meters),
        }
    )
    table = ga.read(frame)
    compared = str(ga.compare(table, "pressure", by="site").summary())
    assert "rows of one meter resemble each other, so the 16 of them are counted" in compared
    told = [one for one in (*ga.scan(table).findings, *ga.scan(table).folded) if one.kind == "difference"]
    assert not [one.headline for one in told if one.by == "site"]


def test_a_list_of_prices_is_not_told_article_by_article() -> None:
    """Eighty articles with a price each, now and then with a discount: each differs, and nobody asked."""
    rng = np.random.default_rng(6)
    article = rng.integers(0, 80, 4_000)
    price = (5 + 0.9 * article) * (1 - rng.choice([0, 0.05], 4_000, p=[0.9, 0.1]))
    days = pd.Timestamp("2024-01-01") + pd.to_timedelta(np.sort(rng.integers(0, 600, 4_000)), "D")
    frame = pd.DataFrame({"day": days, "article": [f"A{one:02d}" for one in article], "price": price.round(2)})
    found = ga.scan(ga.read(frame))
    assert not [one.headline for one in (*found.findings, *found.folded) if one.kind == "difference"]
