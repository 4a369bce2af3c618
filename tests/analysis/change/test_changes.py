"""Changes: contributions add up to the last digit; two examples worked by hand."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

import golden_almanac as ga
from golden_almanac.analysis.change import contributions

amounts = st.lists(
    st.tuples(st.sampled_from("abcd"), st.sampled_from([0, 1]), st.integers(-(10**6), 10**6), st.integers(0, 500)),
    min_size=4,
    max_size=50,
)


def table(rows: list[tuple[str, int, int, int]]) -> pd.DataFrame:
    return pd.DataFrame(
        {
            "day": [np.datetime64("2024-03-05") + np.timedelta64(31 * when, "D") for _, when, _, _ in rows],
            "shop": [shop for shop, *_ in rows],
            "cents": [cents / 100 for *_, cents, _ in rows],
            "units": [units for *_, units in rows],
        }
    )


@settings(max_examples=40)
@given(amounts)
def test_contributions_add_up_for_any_table_and_measure(rows: list[tuple[str, int, int, int]]) -> None:
    assume({when for _, when, _, _ in rows} == {0, 1})
    source = table(rows)
    for measure in ("sum(cents)", "count(*)", "avg(cents)", "sum(cents) / sum(units)"):
        try:
            change = ga.explain_change(source, measure, period="2024-04", baseline="2024-03", by="shop", time="day")
        except ga.PeriodError as problem:
            assert "has no value" in str(problem)  # noqa: PT017
            continue
        one = change.explanation
        for breakdown in one.breakdowns:
            total = sum(part.change for part in breakdown.contributions)
            scale = max(1.0, abs(one.value), abs(one.before), *(abs(part.change) for part in breakdown.contributions))
            assert total == pytest.approx(one.change, abs=1e-9 * scale)
            for part in breakdown.contributions:
                if part.rate is not None and part.mix is not None:
                    assert part.rate + part.mix == pytest.approx(part.change, abs=1e-9 * scale)
                if part.status != "kept" and part.rate is not None:
                    assert part.rate == 0


@settings(max_examples=40)
@given(amounts)
def test_renaming_and_order_change_nothing(rows: list[tuple[str, int, int, int]]) -> None:
    assume({when for _, when, _, _ in rows} == {0, 1})
    one = ga.explain_change(table(rows), "sum(cents)", period="2024-04", baseline="2024-03", by="shop", time="day")
    other = table(rows[::-1]).rename(columns={"shop": "store"})
    other["store"] = other["store"].map({"a": "P", "b": "Q", "c": "R", "d": "S"})
    two = ga.explain_change(other, "sum(cents)", period="2024-04", baseline="2024-03", by="store", time="day")
    assert sorted(one.to_frame()["change"]) == sorted(two.to_frame()["change"])
    assert one.explanation.change == two.explanation.change


def test_worked_example_sums() -> None:
    """Tea 100 → 130, cake 50 → 40, scones new with 20: +40, of which +30, −10 and +20."""
    rows = pd.DataFrame(
        {
            "day": ["2024-01-10"] * 2 + ["2024-02-10"] * 3,
            "item": ["tea", "cake", "tea", "cake", "scones"],
            "sales": [100, 50, 130, 40, 20],
        }
    )
    rows["day"] = pd.to_datetime(rows["day"])
    change = ga.explain_change(rows, "sum(sales)", period="2024-02", baseline="previous", by="item")
    frame = change.to_frame().set_index("label")
    assert change.explanation.change == 40
    assert frame["change"].to_dict() == {"tea": 30, "scones": 20, "cake": -10}
    assert frame["status"].to_dict() == {"tea": "kept", "scones": "new", "cake": "kept"}
    assert frame["share_of_change"].sum() == pytest.approx(1)


def test_worked_example_reversal() -> None:
    """Both routes become more punctual, the whole less: mix alone.

    A: 90 of 100 on time, then 19 of 20. B: 10 of 20, then 60 of 100. Whole 100/120 = 83.3%, then 79/120 =
    65.8%. Rate part: (100+20)/240·(0.95−0.90) + (20+100)/240·(0.60−0.50) = +7.5 points; mix −25.0 points.
    """

    def sailings(route: str, day: str, good: int, bad: int) -> list[tuple[str, str, bool]]:
        return [(day, route, True)] * good + [(day, route, False)] * bad

    rows = (
        sailings("A", "2024-01-10", 90, 10)
        + sailings("B", "2024-01-11", 10, 10)
        + sailings("A", "2024-02-10", 19, 1)
        + sailings("B", "2024-02-11", 60, 40)
    )
    frame = pd.DataFrame(rows, columns=["day", "route", "on_time"])
    frame["day"] = pd.to_datetime(frame["day"])
    change = ga.explain_change(frame, "on_time", period="2024-02", baseline="2024-01", by="route")
    assert change.explanation.change == pytest.approx(79 / 120 - 100 / 120)
    parts = change.to_frame().set_index("label")
    assert parts["rate"].sum() == pytest.approx(0.075)
    assert parts["mix"].sum() == pytest.approx(-0.25)
    assert change.to_dict()["explanation"]["rate_mix"][0]["mix"] == pytest.approx(-0.25)
    assert "It is a reversal: within the routes it rose (+7.5 points in all)" in change.summary().text


@given(st.floats(1, 1e6), st.floats(1, 1e6), st.floats(1, 1e6), st.floats(1, 1e6))
def test_factors_of_a_product_add_up(v0: float, v1: float, p0: float, p1: float) -> None:
    split = contributions.factors(v0 * p0, v1 * p1, (v0, p0), (v1, p1))
    assert split is not None
    assert sum(split) == pytest.approx(v1 * p1 - v0 * p0, abs=1e-9 * max(v0 * p0, v1 * p1))
    assert split[0] * (v1 - v0) >= 0


def test_factors_need_positive_numbers() -> None:
    assert contributions.factors(1, -2, (1,), (2,)) is None


@pytest.fixture
def years() -> pd.DataFrame:
    rng = np.random.default_rng(9)
    days = np.arange(np.datetime64("2022-01-01"), np.datetime64("2025-10-20"))
    frame = pd.DataFrame([(day, shop) for day in days for shop in ("a", "b", "c")], columns=["day", "shop"])
    frame["sales"] = np.round(100 * (1 + 0.05 * rng.standard_normal(len(frame))), 2)
    return frame


def test_an_unfinished_period_is_compared_with_the_same_days(years: pd.DataFrame) -> None:
    change = ga.explain_change(years, "sum(sales)", period="2025-10", baseline="year-ago")
    one = change.explanation
    assert one.cut_days == 19
    assert str(one.baseline.end) == "2024-10-19"
    assert abs(one.change_pct or 0) < 5  # and not a collapse of 40%
    assert "first 19 days" in change.summary().text


@pytest.mark.parametrize(
    ("period", "baseline", "ends"),
    [
        ("2024", None, ("2024-10-31", "2023-10-31")),
        ("2024-Q4", None, ("2024-10-31", "2023-10-31")),
        ("2024-Q4", "previous", ("2024-10-31", "2024-07-31")),
        ("2024-09/2024-12", None, ("2024-10-31", "2023-10-31")),
        ("2024-10", None, ("2024-10-31", "2023-10-31")),
    ],
)
def test_a_year_of_whole_months_is_compared_as_far_as_it_has_come(
    period: str, baseline: str | None, ends: tuple[str, str]
) -> None:
    months = pd.date_range("2022-01-01", "2024-10-01", freq="MS")
    frame = pd.DataFrame({"month": months.repeat(2), "shop": ["a", "b"] * len(months), "sales": 100.0})
    told = ga.explain_change(frame, period=period, baseline=baseline).explanation
    assert (str(told.period.end), str(told.baseline.end)) == ends
    assert told.value == told.before


def test_february_of_a_leap_year_is_set_against_february() -> None:
    months = pd.date_range("2022-01-01", "2024-02-01", freq="MS")
    frame = pd.DataFrame({"month": months, "sales": [100.0, 101.0] * 13})
    told = ga.explain_change(frame, period="2024").explanation
    assert (told.value, told.before) == (201.0, 201.0)


def test_a_fall_of_one_branch_is_never_called_even() -> None:
    rng = np.random.default_rng(4)
    months = pd.date_range("2022-01-01", "2024-12-01", freq="MS")
    rows = [
        (month, branch, channel, 1000 * (0.75 if branch == "East" and month >= pd.Timestamp("2024-07-01") else 1))
        for month in months
        for branch in ("North", "South", "East")
        for channel in ("Web", "Shop")
    ]
    frame = pd.DataFrame(rows, columns=["month", "branch", "channel", "sales"])
    frame["sales"] *= rng.normal(1, 0.02, len(frame))
    change = ga.explain_change(frame, period="2024")
    assert "even across" not in change.summary().text
    assert "East" in change.summary().text
    assert change.explanation.breakdowns[0].by == "branch"


def test_by_default_the_last_complete_period_against_a_year_ago(years: pd.DataFrame) -> None:
    one = ga.explain_change(years).explanation
    assert (str(one.period.start), str(one.baseline.start)) == ("2025-09-01", "2024-09-01")


def test_usual_movement_names_no_slice_and_unusual_does(years: pd.DataFrame) -> None:
    calm = ga.explain_change(years, "sum(sales)", period="2025-08")
    assert calm.explanation.expected is not None
    assert calm.explanation.expected.usual
    assert len(calm.findings) == 1
    assert "within its usual movement" in calm.summary().text
    fallen = years.copy()
    at = (fallen["day"] >= "2025-08-01") & (fallen["day"] <= "2025-08-31") & (fallen["shop"] == "b")
    fallen.loc[at, "sales"] *= 0.3
    change = ga.explain_change(fallen, "sum(sales)", period="2025-08")
    assert [one.where.label for one in change.findings] == ["", "b"]
    assert "What stands out: b" in change.summary().text
    assert all(one.check().agrees for one in change.findings)


def test_an_even_fall_names_nobody(years: pd.DataFrame) -> None:
    fallen = years.copy()
    fallen.loc[(fallen["day"] >= "2025-08-01") & (fallen["day"] <= "2025-08-31"), "sales"] *= 0.7
    change = ga.explain_change(fallen, "sum(sales)", period="2025-08")
    assert len(change.findings) == 1
    assert "even across the board: by shop nothing" in change.summary().text


@pytest.mark.parametrize(
    ("period", "baseline", "words"),
    [
        ("2019", None, "outside the data"),
        ("2025-08", "2025-08-15/2025-09-15", "overlap"),
        ("2025-08", "2019", "outside the data"),
        ("soon", None, "cannot be read"),
        ("2025-08", "before", "cannot be read"),
    ],
)
def test_bad_periods(years: pd.DataFrame, period: str, baseline: str | None, words: str) -> None:
    with pytest.raises(ga.PeriodError, match=words):
        ga.explain_change(years, "sum(sales)", period=period, baseline=baseline)


def test_no_rows_no_dates_no_value(years: pd.DataFrame) -> None:
    with pytest.raises(ga.PeriodError, match="no column of dates"):
        ga.explain_change(years[["shop", "sales"]], "sum(sales)")
    gap = years[(years["day"] < "2024-05-01") | (years["day"] > "2024-05-31")]
    with pytest.raises(ga.PeriodError, match="no rows from 2024-05-01"):
        ga.explain_change(gap, "sum(sales)", period="2024-05")
    missing = years.copy()
    missing.loc[(missing["day"] >= "2024-05-01") & (missing["day"] <= "2024-05-31"), "sales"] = np.nan
    with pytest.raises(ga.PeriodError, match="has no value"):
        ga.explain_change(missing, "sum(sales)", period="2024-05")


def test_no_percentage_from_a_base_that_is_not_positive() -> None:
    frame = pd.DataFrame(
        {
            "day": pd.to_datetime(["2024-01-05", "2024-01-06", "2024-02-05", "2024-02-06"]),
            "shop": ["a", "b", "a", "b"],
            "profit": [-50.0, 20.0, 40.0, 30.0],
        }
    )
    change = ga.explain_change(frame, "sum(profit)", period="2024-02", baseline="2024-01")
    assert change.explanation.change_pct is None
    assert "%" not in change.headline
    assert "100 above January 2024" in change.headline
