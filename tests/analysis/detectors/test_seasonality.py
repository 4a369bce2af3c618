"""The kind "seasonality": what is planted is found with its size, what is none is not."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga
from tests.analysis.detectors.tables import finding_of, plain


def test_seasonality(planted_scan: ga.Scan) -> None:
    season = finding_of(planted_scan, "seasonality", "", "sum(amount)")
    assert season.figures["peak"] in ("July", "August", "September")
    assert season.figures["strength"] > 0.5


def cycles(frame: pd.DataFrame) -> dict[str, ga.Finding]:
    found = ga.scan(frame, kinds=["seasonality"], measures=["sum(amount)"])
    for one in found.findings:
        assert one.check().agrees
        assert one.chart().issues() == []
    return {one.figures["cycle"]: one for one in found.findings}


def test_saturdays() -> None:
    frame = plain(6000)
    frame["amount"] = np.round(frame["amount"] * np.where(frame["date"].dt.day_of_week == 5, 1.6, 1.0), 2)
    found = cycles(frame)
    assert set(found) == {"week"}
    one = found["week"]
    span = one.period
    assert span is not None
    inside = frame[(frame["date"] >= str(span.start)) & (frame["date"] <= str(span.end))]
    weeks = (span.days) // 7
    saturdays = inside[inside["date"].dt.day_of_week == 5]["amount"].sum() / weeks
    assert one.figures["peak"] == "Saturdays"
    assert one.figures["peak_value"] == pytest.approx(saturdays)
    assert one.figures["average"] == pytest.approx(inside["amount"].sum() / weeks / 7)
    assert one.headline.startswith("Amount peaks on Saturdays, ")
    assert one.headline.endswith(" above its average day.")


def test_the_first_week_of_the_month() -> None:
    frame = plain(6000)
    frame["amount"] = np.round(frame["amount"] * np.where(frame["date"].dt.day <= 7, 1.5, 1.0), 2)
    found = cycles(frame)
    assert set(found) == {"month"}
    f = found["month"].figures
    early = frame[frame["date"].dt.day <= 7]["amount"].sum() / (36 * 7)
    assert f["peak"] == "the first week of the month"
    assert f["peak_value"] == pytest.approx(early)


def test_closed_sundays_take_no_part() -> None:
    frame = plain(6000)
    frame = frame[frame["date"].dt.day_of_week != 6].reset_index(drop=True)
    assert cycles(frame) == {}
    frame["amount"] = np.round(frame["amount"] * np.where(frame["date"].dt.day_of_week == 0, 0.5, 1.0), 2)
    one = cycles(frame)["week"]
    assert one.figures["trough"] == "Mondays"
    assert len(one.figures["profile"]) == 6


def test_month_ends_have_no_week() -> None:
    days = pd.date_range("2020-01-31", periods=48, freq="ME")
    frame = pd.DataFrame({"date": np.repeat(days, 6), "amount": np.random.default_rng(1).gamma(9, 10, 288)})
    assert ga.scan(frame, kinds=["seasonality"]).findings == ()
