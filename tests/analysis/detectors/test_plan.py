"""The kind "plan": what is planted is found with its size and since when, what is none is not."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga

_MONTHS = pd.date_range("2023-01-01", "2025-06-01", freq="MS")


def budgeted(factor: float = 1.0, since: str = "2024-07-01", seed: int = 3, memory: float = 0.0) -> pd.DataFrame:
    """Sales and their budget of four regions; those of East are `factor` times what they would be since a month."""
    rng = np.random.default_rng(seed)
    rows = []
    for region, size in (("North", 900), ("South", 700), ("East", 500), ("West", 800)):
        off = 0.0
        for month in _MONTHS:
            plan = round(size * (1 + 0.1 * np.sin(month.month / 12 * 2 * np.pi)))
            off = memory * off + rng.normal(0, 0.03)
            low = factor if region == "East" and month >= pd.Timestamp(since) else 1.0
            rows.append((month, region, round(plan * np.exp(off) * low, 1), plan))
    return pd.DataFrame(rows, columns=["month", "region", "sales", "sales_budget"])


def by_label(frame: pd.DataFrame) -> pd.DataFrame:
    long = frame.rename(columns={"sales": "Actual", "sales_budget": "Budget"})
    return long.melt(["month", "region"], var_name="scenario", value_name="sales")


@pytest.mark.parametrize("labelled", [False, True])
def test_a_budget_missed_since_july(labelled: bool) -> None:
    frame = budgeted(0.75)
    found = ga.scan(by_label(frame) if labelled else frame, kinds=["plan"])
    (one,) = found.findings
    assert one.direction == "down"
    assert one.figures["most"]["label"] == "East"
    assert one.check().agrees
    assert set(one.evidence.expect) == {
        f"{what}{of}" for what in ("", "before_", "most_") for of in ("value", "planned")
    }
    assert one.chart().issues() == []
    since = frame["month"] >= one.period.start  # type: ignore[union-attr]
    assert one.figures["value"] == pytest.approx(frame["sales"][since].sum())
    assert one.figures["planned"] == pytest.approx(frame["sales_budget"][since].sum())
    assert "most of it in East" in one.headline
    (east,) = [other for other in found.folded if other.where.label == "East"]
    assert str(east.period.start) == "2024-07-01"  # type: ignore[union-attr]
    inside = (frame["region"] == "East") & (frame["month"] >= "2024-07-01")
    gap = 100 * (frame["sales"][inside].sum() / frame["sales_budget"][inside].sum() - 1)
    assert east.figures["gap_pct"] == pytest.approx(gap)


def test_a_plan_never_kept_is_told_of_the_whole_time() -> None:
    (one,) = ga.scan(budgeted().assign(sales_budget=lambda b: b["sales_budget"] * 2), kinds=["plan"]).findings
    assert one.figures["since"] is False
    assert one.figures["gap_pct"] == pytest.approx(-50, abs=1)


def test_rises_and_falls_of_slices_are_told_apart() -> None:
    frame = budgeted(0.75)
    frame.loc[(frame["region"] == "North") & (frame["month"] >= "2024-07-01"), "sales"] *= 1.14
    found = ga.scan(frame, kinds=["plan"]).findings
    assert {(one.where.label, one.direction) for one in found} >= {("East", "down"), ("North", "up")}


def test_a_plan_kept_by_chance_is_not_told() -> None:
    hits = sum(bool(ga.scan(budgeted(seed=s, memory=0.5 * (s % 2)), kinds=["plan"]).findings) for s in range(100, 130))
    assert hits <= 1


def test_a_table_without_a_plan_has_none() -> None:
    assert ga.scan(budgeted(0.75).drop(columns="sales_budget"), kinds=["plan"]).tests == 0
