"""What rows have no value for is unknown, and not nought; what few rows tell is no history."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga

TOWNS = "Aldwick Brae Carrick Dunmore Elsay Fara Garve Hoy".split()


@pytest.fixture(scope="module")
def permits() -> pd.DataFrame:
    """Permits of eight towns by the month, of which Brae gave none of its figures before March 2013."""
    rng = np.random.default_rng(4)
    months = pd.period_range("2010-01", "2015-12", freq="M")
    frame = pd.DataFrame(
        [
            (month.to_timestamp(), town, round(size * rng.normal(1, 0.06)))
            for town, size in _sizes(rng)
            for month in months
        ],
        columns=["month", "town", "permits"],
    )
    late = (frame["town"] == "Brae") & (frame["month"] < "2013-03")
    return frame.assign(permits=frame["permits"].astype(float).where(~late))


def _sizes(rng: np.random.Generator) -> list[tuple[str, float]]:
    return [(town, rng.uniform(80, 400)) for town in TOWNS]


@pytest.fixture(scope="module")
def scanned(permits: pd.DataFrame) -> ga.Scan:
    return ga.scan(permits)


def test_no_step_from_nought_is_told_of_who_gave_no_figures(scanned: ga.Scan) -> None:
    told = [(one.kind, one.where.label) for one in (*scanned.findings, *scanned.folded)]
    assert not [one for one in told if one[0] in ("shift", "trend", "spike", "divergence") and one[1]]


def test_it_is_told_as_what_it_is(scanned: ga.Scan, permits: pd.DataFrame) -> None:
    (gap,) = [one for one in scanned.findings if one.kind == "gap"]
    assert gap.headline == "No permits of Brae is given before March 2013, in any of 38 rows."
    assert gap.check().agrees
    assert gap.figures["rows"] == permits["permits"].isna().sum() == 38


def test_the_step_of_the_whole_says_what_it_is_like_for_like(scanned: ga.Scan, permits: pd.DataFrame) -> None:
    (step,) = [one for one in scanned.findings if one.kind == "shift"]
    others = permits[permits["town"] != "Brae"].set_index("month")["permits"].sort_index()
    before, after = others["2012-03":"2013-02"].sum(), others["2013-03":"2014-02"].sum()  # type: ignore[misc]
    alike = step.figures["like_for_like"]
    assert (alike["came"], alike["stayed"]) == (["Brae"], 7)
    assert alike["change_pct"] == pytest.approx(100 * (after / before - 1))


def test_a_change_against_months_without_figures_is_told_like_for_like(permits: pd.DataFrame) -> None:
    change = ga.explain_change(permits, period="2013")
    assert "Like for like, the 7 towns there throughout moved by" in str(change.summary())


def test_falling_by_less_than_the_others_is_no_step_up() -> None:
    """All fall by half but one, which falls by a quarter: beside them it gained, by itself it fell."""
    rng = np.random.default_rng(11)
    months = pd.date_range("2021-01-01", periods=36, freq="MS")
    rows = [
        (month, town, rng.normal(50, 4) * ((0.75 if town == "Hoy" else 0.4) if at >= 20 else 1.0))
        for town in TOWNS
        for at, month in enumerate(months)
        for _ in range(12)
    ]
    scan = ga.scan(pd.DataFrame(rows, columns=["month", "town", "revenue"]))
    (own,) = [one for one in (*scan.findings, *scan.folded) if one.where.label == "Hoy" and one.kind == "shift"]
    assert own.direction == "up"
    assert own.figures["change"] < 0
    assert own.headline.startswith("Revenue of Hoy held up in September 2022: −25% on a year before, against −")
    (advice,) = [one.text for one in scan.suggestions() if "Hoy" in one.text]
    assert advice.startswith("Find why revenue of Hoy does better than the other towns")


def test_a_share_that_two_rows_tell_expects_nobody() -> None:
    """Two early licences of a district do not make hundreds missing later, when all others are counted in thousands."""
    rng = np.random.default_rng(12)
    days = pd.Timestamp("2020-01-01") + pd.to_timedelta(np.sort(1000 * rng.beta(6, 1, 8000)).astype(int), unit="D")
    district = rng.choice([f"district {at}" for at in range(9)], days.size)
    district[:60] = np.where(np.arange(60) < 2, "district 9", district[:60])
    scan = ga.scan(pd.DataFrame({"licensed": days, "district": district}))
    assert not [one for one in scan.findings if one.kind == "gap" and one.where.label == "district 9"]


def test_a_few_stray_years_are_no_history_and_choose_no_grain() -> None:
    rng = np.random.default_rng(13)
    days = pd.to_datetime("2022-01-01") + pd.to_timedelta(rng.integers(0, 1095, 6000), unit="D")
    stray = pd.to_datetime([f"{year}-05-0{1 + year % 3}" for year in range(1999, 2009)])
    frame = pd.DataFrame({"licensed": [*stray, *days], "district": rng.choice(list("ABC"), 6010)})
    assert "months within the data hold no" in str(ga.scan(frame).summary())
    explained = ga.explain_change(frame, period="2024").to_dict()["explanation"]
    expected = explained["expected"]
    assert expected is None or expected["high"] - expected["low"] > 20


def test_events_with_nothing_but_prices_are_counted() -> None:
    rng = np.random.default_rng(14)
    # Twice as many on Saturdays.
    days = rng.choice(pd.date_range("2024-01-01", periods=364), 6000, p=_saturdays(364))
    frame = pd.DataFrame({"day": days, "size": rng.choice(["S", "M"], 6000), "price": rng.normal(9, 1, 6000)})
    scan = ga.scan(frame)
    assert "count(*)" in scan.to_dict()["request"]["measures"]
    assert any("Saturdays" in one.headline and one.measure.name == "count(*)" for one in scan.findings if one.measure)
    # One row a day and city is a table of readings, which nobody counts.
    daily = pd.DataFrame({"day": pd.date_range("2024-01-01", periods=200).repeat(3), "city": list("ABC") * 200})
    assert "count(*)" not in ga.scan(daily.assign(temperature=rng.normal(9, 2, 600))).to_dict()["request"]["measures"]


def _saturdays(n: int) -> np.ndarray:
    weights = np.where(np.arange(n) % 7 == 5, 2.0, 1.0)
    return weights / weights.sum()


def test_what_is_left_over_leads_nothing() -> None:
    rng = np.random.default_rng(15)
    months = pd.date_range("2022-01-01", periods=36, freq="MS").repeat(20)
    firm = rng.choice(["Other", "Gull Line", "Tern Line", "Skua Line"], months.size, p=[0.55, 0.25, 0.12, 0.08])
    scan = ga.scan(pd.DataFrame({"month": months, "firm": firm, "revenue": rng.normal(100, 5, months.size)}))
    leaders = [one.headline for one in scan.findings if one.kind == "ranking"]
    assert leaders
    assert not [one for one in leaders if one.startswith("Other")]


@pytest.mark.parametrize(
    ("columns", "told"),
    [(("high_gust", "low_gust"), False), (("gust", "delay"), True), (("net_fare", "gross_fare"), False)],
)
def test_one_thing_seen_twice_is_no_relationship(columns: tuple[str, str], told: bool) -> None:
    rng = np.random.default_rng(16)
    first = rng.normal(40, 6, 900)
    days = pd.Timestamp("2022-01-03") + pd.to_timedelta(np.arange(900), unit="D")
    frame = pd.DataFrame({"day": days, columns[0]: first, columns[1]: first + rng.normal(0, 4, 900)})
    scan = ga.scan(frame)
    found = [one for one in (*scan.findings, *scan.folded) if one.kind == "relationship"]
    assert bool(found) is told
    assert all("within the same month and" in one.detail for one in found)


@pytest.mark.parametrize(("spacing", "said"), [("D", "month"), ("QS", "quarter"), ("YS", "year")])
def test_rows_near_in_time_are_said_to_be_of_the_period_that_they_are_of(spacing: str, said: str) -> None:
    rng = np.random.default_rng(17)
    dates, places = (900, 1) if spacing == "D" else (40, 12)
    days = pd.date_range("1980-01-01", periods=dates, freq=spacing)
    gust = rng.normal(40, 6, dates * places)
    frame = pd.DataFrame({"day": days.repeat(places), "gust": gust, "delay": gust + rng.normal(0, 4, gust.size)})
    if places > 1:
        frame = frame.assign(port=[f"port {at}" for at in range(places)] * dates)
    scan = ga.scan(frame)
    (found,) = [one for one in (*scan.findings, *scan.folded) if one.kind == "relationship"]
    assert f"within the same {said} and the same groups" in found.detail
