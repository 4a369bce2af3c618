"""Slices against their siblings: who moves is found in rounds, within each family by itself."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga
from golden_almanac.aggregation.measures import lead_measure
from golden_almanac.analysis.detectors.peer_series import all_series
from golden_almanac.analysis.detectors.tested_series import MIRROR, Series
from golden_almanac.analysis.scan_pipeline import survey_of


def _routes(times: float) -> dict[str, Series]:
    """The series of a small port, one of whose routes grows by 60% and hides that another grows by 20%; a large port
    beside it is `times` as large."""
    rng = np.random.default_rng(2)
    months = pd.date_range("2022-01-01", periods=36, freq="MS")
    rows = []
    for port, route, grown in (
        ("Small", "Reef", 1.6), ("Small", "Mole", 1.2), ("Small", "Quay", 1.0), ("Small", "Bank", 1.0),
        *(("Large", route, 1.0) for route in ("Isle", "Cape", "Ness", "Holm", "Skaw", "Voe")),
    ):  # fmt: skip
        for place, month in enumerate(months):
            amount = 1000 * (grown if place >= 18 else 1.0) * rng.lognormal(0, 0.03)
            rows += [(month, port, route, amount / 8 * (times if port == "Large" else 1.0))] * 8
    frame = pd.DataFrame(rows, columns=["day", "port", "route", "sales"])
    survey = survey_of(ga.read(frame), measures=["sum(sales)"], by=None, time=None, grain=None)
    return {series.where.label: series for series in all_series(survey) if series.by == "route"}


def test_a_small_family_is_looked_at_like_a_large_one() -> None:
    """What is found among the routes of a port does not depend on how large other ports are."""
    alike, dwarfed = _routes(1.0), _routes(1000.0)
    assert alike["Mole"].path.p <= MIRROR
    assert [one.label for one in alike["Mole"].besides] == ["Reef"]
    for route in ("Reef", "Mole", "Quay", "Bank"):
        assert dwarfed[route].path.p == pytest.approx(alike[route].path.p)
        assert dwarfed[route].besides == alike[route].besides
        assert dwarfed[route].implied_by == alike[route].implied_by


def test_a_price_that_is_weighed_is_compared_in_proportion() -> None:
    """A cafe puts all its prices up by a twelfth, to the nearest five: one story, that of the whole, and its takings,
    which the price is a part of, come first."""
    rng = np.random.default_rng(31)
    rows = 9000
    day = pd.Timestamp("2023-01-01") + pd.to_timedelta(np.sort(rng.integers(0, 600, rows)), "D")
    listed = {"Flat white": 3.4, "Espresso": 2.2, "Croissant": 2.6, "Toast": 4.8, "Juice": 3.9, "Tea": 2.4}
    item = rng.choice(list(listed), rows)
    price = np.array([listed[one] for one in item]) * np.where(day > pd.Timestamp("2024-02-01"), 1.08, 1)
    price, qty = np.round(price * 20) / 20, rng.choice([1, 1, 2, 3], rows)
    frame = pd.DataFrame({"day": day, "item": item, "unit price": price, "qty": qty, "till": np.round(price * qty, 2)})
    scan = ga.scan(frame)
    moves = [f for f in scan.findings if f.kind in ("shift", "trend") and f.measure is not None]
    assert [f.headline for f in moves if f.measure is not None and f.measure.column and f.where.conditions] == []
    assert any(f.measure is not None and f.measure.column == "unit price" for f in moves)
    assert lead_measure(scan.result.survey.measures).name == "sum(till)"
