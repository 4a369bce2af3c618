"""Periods of which a table knows nothing: not nought, and no reason to be silent of all others."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga
from golden_almanac.aggregation import period_holes
from golden_almanac.analysis.scan_pipeline import survey_of
from golden_almanac.stats.series_holes import filled
from golden_almanac.tables import Grain
from tests.analysis.detectors.tables import plain

LOST = ["2022-05", "2022-06", "2023-02", "2024-04"]


def _without(frame: pd.DataFrame, months: list[str]) -> pd.DataFrame:
    return frame[~frame["date"].dt.strftime("%Y-%m").isin(months)].reset_index(drop=True)


def _rising(seed: int, growth: float = 0.0, shop: str | None = None) -> pd.DataFrame:
    frame = plain(9000, seed)
    time = (frame["date"] - frame["date"].min()).dt.days / 1096
    own = np.ones(len(frame), dtype=bool) if shop is None else (frame["shop"] == shop).to_numpy()
    frame["amount"] = np.round(frame["amount"] * np.where(own, np.exp(growth * time), 1.0), 2)
    return frame


def _paths(scan: ga.Scan) -> list[tuple[str, str, str | None]]:
    """Kind, label and direction of what is told of amounts over time."""
    kinds = ("trend", "shift", "divergence", "spike", "change")
    return [
        (f.kind, f.where.label, f.direction)
        for f in scan.findings
        if f.kind in kinds and f.measure is not None and "amount" in f.measure.name
    ]


@pytest.mark.parametrize("shop", [None, "Birch"])
def test_a_rise_is_told_though_months_are_missing(shop: str | None) -> None:
    scan = ga.scan(_without(_rising(5, 0.9, shop), LOST))
    assert ("trend", shop or "", "up") in _paths(scan)
    assert all(f.check().agrees for f in scan.findings)


def test_missing_months_are_a_gap_and_no_fall() -> None:
    for seed in range(4):
        scan = ga.scan(_without(_rising(seed), LOST))
        assert _paths(scan) == []
        assert [f.figures["what"] for f in scan.findings if f.kind == "gap"] in (["no rows"], [])


def test_what_is_usual_leaves_missing_months_out() -> None:
    widths = []
    for frame in (_rising(1), _without(_rising(1), LOST)):
        change = ga.explain_change(ga.read(frame), "sum(amount)", period="2024-11").to_dict()["findings"][0]
        widths.append(change["figures"]["expected_high"] - change["figures"]["expected_low"])
    assert widths[1] < 1.6 * widths[0]


def test_weekends_are_no_reason_for_silence() -> None:
    """A price of working days, over a year: a step in it is told."""
    rng = np.random.default_rng(3)
    days = pd.bdate_range("2024-01-01", "2024-12-31")
    price = 50 + 4.0 * (np.arange(days.size) > 120) + rng.normal(0, 1, days.size)
    each = np.repeat(price, 12) + rng.normal(0, 1, days.size * 12)
    frame = pd.DataFrame({"date": np.repeat(days, 12), "price": each.round(2)})
    found = [f for f in ga.scan(frame, grain="day").findings if f.kind == "shift"]
    assert [f.direction for f in found] == ["up"]
    assert found[0].check().agrees


def test_where_rows_are_few_a_period_without_any_is_nought() -> None:
    """Three sales a month: some months have none, and that is chance."""
    rng = np.random.default_rng(4)
    days = pd.Timestamp("2022-01-01") + pd.to_timedelta(np.sort(rng.integers(0, 1096, 110)), unit="D")
    frame = pd.DataFrame({"date": days, "amount": rng.gamma(2, 50, 110).round(2)})
    survey = survey_of(ga.read(frame), measures=None, by=None, time=None, grain="month")
    assert not period_holes(survey).any()


def test_holes_take_the_season_and_line_of_the_others() -> None:
    numbers = np.arange(600, 660)
    truth = 5 + 0.1 * np.arange(60) + 2 * np.cos(2 * np.pi * numbers / 12)
    holes = np.zeros(60, dtype=bool)
    holes[[7, 8, 30, 59]] = True
    given = np.where(holes, np.nan, truth)
    assert filled(Grain.MONTH, numbers, given, holes) == pytest.approx(truth, abs=1e-9)


def test_tests_stay_right_with_a_sixth_of_the_months_missing() -> None:
    lost = [*LOST, "2022-09", "2024-10"]
    told = sum(bool(_paths(ga.scan(_without(plain(9000, 50 + seed), lost)))) for seed in range(20))
    assert told <= 1


def _lacking(first: str, last: str) -> pd.DataFrame:
    frame = plain(12000, 5)
    return frame[~frame["date"].between(first, last)].reset_index(drop=True)


def test_a_month_recorded_in_part_is_said_and_left_out() -> None:
    frame = _lacking("2023-05-09", "2023-05-24")
    scan = ga.scan(frame)
    assert _paths(scan) == []
    assert any("1 month has rows on fewer of its days" in one for one in scan.to_dict()["caveats"])
    (gap,) = [f for f in scan.findings if f.kind == "gap"]
    assert (gap.figures["since"], gap.figures["until"]) == ("2023-05-09", "2023-05-24")
    table = ga.read(frame)
    change = ga.explain_change(table, "sum(amount)", period="2023-05", baseline="previous")
    assert "16 days are missing from the period" in change.summary().text
    # A year later the month before is the better baseline, unless another is asked for.
    assert str(ga.explain_change(table, "sum(amount)", period="2024-05").explanation.baseline.start) == "2024-04-01"
    asked = ga.explain_change(table, "sum(amount)", period="2024-05", baseline="year-ago")
    assert "16 days are missing from the baseline" in asked.summary().text


def test_a_closing_that_comes_every_year_is_no_hole() -> None:
    frame = plain(12000, 6)
    shut = frame["date"].dt.strftime("%m-%d").between("08-05", "08-25")
    frame = frame[~shut].reset_index(drop=True)
    survey = survey_of(ga.read(frame), measures=None, by=None, time=None, grain="month")
    assert not period_holes(survey).any()
    change = ga.explain_change(ga.read(frame), "sum(amount)", period="2024-08", baseline="year-ago")
    assert "missing" not in change.summary().text


@pytest.mark.parametrize("lost", [("2022-08-08", "2022-08-25"), ("2024-01-01", "2024-01-31")])
def test_sql_leaves_out_what_the_figures_leave_out(lost: tuple[str, str]) -> None:
    """Trends, steps and seasons of a table that lacks days: each figure is found again by its SQL."""
    frame = _rising(8, 0.9)
    frame = frame[~frame["date"].between(*lost)]
    month = frame["date"].dt.month
    frame["amount"] = np.round(frame["amount"] * np.where(month.isin([6, 7]), 1.8, 1.0), 2)
    frame["rows per day"] = np.where((frame["shop"] == "Ash") & (frame["date"] > "2023-09-01"), 3.0, 1.0)
    scan = ga.scan(frame.reset_index(drop=True))
    assert {"trend", "seasonality"} <= {f.kind for f in scan.findings}
    assert all(f.check().agrees for f in scan.findings)


def test_a_last_month_that_lacks_days_is_no_fall() -> None:
    """Said first by a scan, right behind the headline of a change, and nothing is judged: neither unusual, nor even
    across the board."""
    frame = _lacking("2024-12-09", "2024-12-24")
    scan, change = ga.scan(frame).summary(), ga.explain_change(ga.read(frame), "sum(amount)").summary()
    lost = "There are no rows from 9 December 2024 to 24 December 2024"
    assert scan.headline.startswith(lost)
    assert change.text.startswith(f"{lost}: 16 days are missing")
    for summary in (scan, change):
        assert "16 days are missing" in summary.text
        assert "unusual" not in summary.text
        assert "usual movement" not in summary.text
        assert "even across" not in summary.text
    figures = ga.explain_change(ga.read(frame), "sum(amount)").to_dict()["findings"][0]["figures"]
    assert figures["expected_low"] is None


def test_the_line_of_a_slice_is_drawn_though_its_first_year_has_a_hole() -> None:
    scan = ga.scan(_without(_rising(5, 0.9, "Birch"), ["2022-05", "2022-06"]))
    (rise,) = [f for f in scan.findings if f.kind == "trend" and f.where.label == "Birch"]
    drawn = rise.chart().data.iloc[:, 1:]
    assert (drawn.notna().sum() == 34).all()
    assert rise.chart().issues() == []
