"""Numbers that say which thing or when, incomes of people, ratios and indices: none of them is added up; found by
reading the tables of strangers."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga


def people(n: int = 400) -> pd.DataFrame:
    rng = np.random.default_rng(1)
    return pd.DataFrame({"sex": rng.choice(["f", "m"], n), "town": rng.choice(list("ABCD"), n)})


@pytest.mark.parametrize(
    ("name", "high"),
    [
        ("StoreID", 7), ("plan_code", 5), ("region id", 4), ("pan_day", 107), ("study week", 40),
        ("WeekofPurchase", 278),
        ("center", 10),
        ("week of purchase", 278), ("model_type_index", 999), ("occ10", 9830), ("industry", 7389),
    ],
)  # fmt: skip
def test_numbers_that_say_which_or_when_are_no_measures(name: str, high: int) -> None:
    frame = people()
    frame[name] = np.random.default_rng(2).integers(1, high + 1, len(frame))
    frame.loc[0, name], frame.loc[1, name] = 1, high
    found = ga.read(frame).column(name)
    assert found.role.value in ("key", "dimension"), (found.role, found.nature)


@pytest.mark.parametrize(
    "name",
    [
        "visits_day",
        "sales_week",
        "daily sales",
        "orders_month",
        "no_orders",
        "num visits",
        "number vmail messages",
        "price index",
    ],
)
def test_amounts_and_counts_of_a_day_stay_measures(name: str) -> None:
    frame = people()
    frame[name] = np.random.default_rng(3).integers(20, 900, len(frame))
    assert ga.read(frame).column(name).role.value == "measure"


@pytest.mark.parametrize(
    "name", ["annual_income", "MonthlyIncome", "household income", "debt_to_income", "loan to value", "rgdppc"]
)
def test_what_somebody_has_is_averaged(name: str) -> None:
    frame = people()
    frame[name] = np.random.default_rng(4).gamma(4, 15_000, len(frame)).round()
    assert ga.read(frame).column(name).adds_up is False


def test_the_monthly_income_of_a_business_is_added_up() -> None:
    months = pd.date_range("2022-01-01", periods=30, freq="MS").repeat(4)
    frame = pd.DataFrame({"month": months, "branch": list("ABCD") * 30})
    frame["monthly_income"] = np.random.default_rng(5).gamma(9, 4000, 120).round()
    assert ga.read(frame).column("monthly_income").adds_up is True


def test_series_that_are_all_a_hundred_on_one_day_are_an_index() -> None:
    months = pd.date_range("2015-06-01", periods=60, freq="MS")
    rng = np.random.default_rng(6)
    paths = {name: 100 * np.exp(np.cumsum(rng.normal(0, 0.01, 60))) for name in ("All items", "Fuel", "Food", "Rent")}
    frame = pd.DataFrame(
        [
            (day, name, round(path[at] / path[0] * 100, 1))
            for name, path in paths.items()
            for at, day in enumerate(months)
        ],
        columns=["month", "item", "value"],
    )
    assert ga.read(frame).column("value").adds_up is False
    amounts = frame.assign(value=frame["value"] * rng.uniform(0.5, 9, len(frame)))
    assert ga.read(amounts).column("value").adds_up is True


def test_parts_of_a_date_by_another_clock_are_parts_of_it() -> None:
    """Local months and days beside moments in UTC: five hours of each day fall on the next."""
    moments = pd.date_range("2023-01-01 05:00", periods=24 * 200, freq="h", tz="UTC")
    local = moments.tz_convert("America/New_York")
    frame = pd.DataFrame({"moment": moments, "month": local.month, "day": local.day})
    frame["temperature"] = np.random.default_rng(7).normal(12, 4, len(frame)).round(1)
    table = ga.read(frame)
    assert [table.column(name).role.value for name in ("month", "day")] == ["part of a date"] * 2


def test_years_of_old_tables_are_years() -> None:
    frame = pd.DataFrame({"Year": np.arange(1610, 1900), "births": np.random.default_rng(8).integers(50, 90, 290)})
    assert "date" in [one.name for one in ga.read(frame).columns]


def test_six_digits_called_a_date_are_days() -> None:
    days = pd.date_range("1998-11-02", periods=400, freq="B")
    frame = pd.DataFrame(
        {"date": days.strftime("%y%m%d").astype(int), "rate": np.random.default_rng(9).normal(1.5, 0.1, 400)}
    )
    table = ga.read(frame)
    assert str(table.days("date")[0]) == "1998-11-02"
    assert str(table.days("date").max()) == str(days[-1].date())
    sizes = frame.rename(columns={"date": "size"})
    assert ga.read(sizes).column("size").type == "number"


def test_periods_from_one_on_are_no_amount() -> None:
    frame = pd.DataFrame({"land": np.repeat(list("ABCDEF"), 40), "time": np.tile(np.arange(1, 41), 6)})
    frame["sales"] = np.random.default_rng(10).gamma(9, 100, len(frame)).round()
    assert ga.read(frame).column("time").role.value in ("key", "dimension")
    run = frame.assign(time=np.random.default_rng(11).integers(2930, 9000, len(frame)))
    assert ga.read(run).column("time").role.value == "measure"


def test_numbers_without_names_of_their_own_are_of_one_thing() -> None:
    rng = np.random.default_rng(12)
    months = pd.date_range("2015-01-01", periods=60, freq="MS")
    sizes = {"pop": 250_000, "rate": 8, "spent": 900}
    parts = [
        pd.DataFrame({"date": months, "variable": name, "value": size * rng.uniform(0.9, 1.1, 60)}).assign(
            value01=rng.uniform(0, 1, 60)
        )
        for name, size in sizes.items()
    ]
    summary = str(ga.scan(pd.concat(parts)).summary())
    assert "Figures are those of pop" in summary


def test_a_date_of_six_digits_may_end_with_its_year() -> None:
    days = pd.date_range("1997-10-20", periods=120, freq="D")
    values = np.random.default_rng(13).normal(3, 0.4, 120).round(2)
    for written in ("%m%d%y", "%d%m%y"):
        frame = pd.DataFrame({"date": days.strftime(written).astype(int), "price": values})
        assert list(ga.read(frame).days("date")) == list(days.to_numpy().astype("datetime64[D]"))
    # Month and day of which each may be the other: nobody can tell.
    unsure = pd.DataFrame({"date": [month * 10_000 + (month + 1) * 100 + 98 for month in range(1, 12)] * 3})
    assert ga.read(unsure.assign(price=1.5)).column("date").type == "number"


def test_moments_called_timestamps_reach_back_to_1990() -> None:
    seconds = np.arange(789_652_004, 789_652_004 + 40 * 86_400, 7_200)
    frame = pd.DataFrame({"timestamp": seconds, "rating": np.random.default_rng(14).integers(1, 6, seconds.size)})
    table = ga.read(frame)
    assert table.column("timestamp").role.value == "time"
    assert str(table.days("timestamp")[0]) == "1995-01-09"
    # A number of another name may be what it likes.
    assert ga.read(frame.rename(columns={"timestamp": "time"})).column("time").type == "number"


def test_years_before_named_months_are_dates() -> None:
    months = pd.date_range("1939-01-01", periods=200, freq="MS")
    for written in ("%Y %b", "%Y-%B", "%Y/%b"):
        frame = pd.DataFrame({"Month": months.strftime(written), "employed": np.arange(200) % 17 + 5.5})
        assert list(ga.read(frame).days("Month")) == list(months.to_numpy().astype("datetime64[D]"))
    frame = pd.DataFrame({"weight": [f"{n} kg" for n in range(1900, 2000)], "n": range(100)})
    assert ga.read(frame).column("weight").type == "number"


def test_sexes_of_nought_and_one_are_labels() -> None:
    rng = np.random.default_rng(15)
    frame = pd.DataFrame({"sex": rng.integers(0, 2, 300), "visits": rng.poisson(3, 300)})
    assert ga.read(frame).column("sex").role.value == "dimension"
    assert ga.read(frame.rename(columns={"sex": "female"})).column("female").nature == "share"


@pytest.mark.parametrize(
    ("name", "low", "high", "adds_up"),
    [
        ("unemp", 2.3, 14.9, False), ("packpc", 80.0, 190.0, False), ("regprc", 0.6, 1.9, False),
        ("unemp", 2_000.5, 90_000.0, True), ("founding year", 1776, 1996, None), ("foundingyear", 1776, 1996, None),
    ],
)  # fmt: skip
def test_short_names_of_rates_prices_and_years(name: str, low: float, high: float, adds_up: bool | None) -> None:
    frame = people()
    values = np.random.default_rng(16).uniform(low, high, len(frame))
    frame[name] = values.round() if adds_up is None else values.round(3)
    assert ga.read(frame).column(name).adds_up is adds_up


def test_an_income_beside_an_age_is_that_of_somebody() -> None:
    rng = np.random.default_rng(17)
    frame = people().assign(age=rng.integers(18, 90, 400), income=rng.gamma(3, 9_000, 400).round(-2))
    assert ga.read(frame).column("income").adds_up is False
    shops = pd.DataFrame({"shop": rng.choice(list("ABCD"), 400), "income": rng.gamma(3, 9_000, 400).round(-2)})
    assert ga.read(shops).column("income").adds_up is True


def test_a_pct_below_one_has_no_percent_sign() -> None:
    rng = np.random.default_rng(18)
    frame = people().assign(pct_off=rng.uniform(0, 0.4, 400).round(2), pct_full=rng.uniform(0, 100, 400).round(1))
    table = ga.read(frame)
    assert (table.column("pct_off").unit, table.column("pct_full").unit) == (None, "%")
