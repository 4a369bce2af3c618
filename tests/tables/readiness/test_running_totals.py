"""Running totals: taken apart to what each row added, whatever they start again with; left alone where told."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest
from hypothesis import given
from hypothesis import strategies as st

import golden_almanac as ga

_STARTS = {"year": "Y", "quarter": "Q", "month": "M", "never": None}


def totals(name: str, start: str, freq: str, periods: int, seed: int = 1) -> tuple[pd.DataFrame, np.ndarray]:
    """A table with the running total of three shops, and what each row added."""
    rng = np.random.default_rng(seed)
    days = pd.date_range("2022-01-01", periods=periods, freq=freq)
    frame = pd.DataFrame({"day": np.repeat(days, 3), "shop": ["Ash", "Elm", "Oak"] * periods})
    added = np.round(rng.gamma(9, 100, len(frame)), 2)
    code = _STARTS[start]
    span = 0 if code is None else frame["day"].dt.to_period(code).astype(str)
    grown = pd.Series(added).groupby([frame["shop"], pd.Series(span, index=frame.index)]).cumsum()
    return frame.assign(**{name: grown.round(2)}), added


@pytest.mark.parametrize(
    ("name", "start", "freq", "periods", "made"),
    [
        ("sales_ytd", "year", "MS", 30, "sales"),
        ("Umsatz kumuliert", "year", "MS", 30, "Umsatz"),
        ("calls_qtd", "quarter", "MS", 30, "calls"),
        ("MTD calls", "month", "D", 150, "calls"),
        ("cumulative_rain", "never", "D", 90, "rain"),
        ("odometer_km", "never", "D", 90, "odometer_km difference"),
    ],
)
def test_a_total_is_taken_apart(name: str, start: str, freq: str, periods: int, made: str) -> None:
    frame, added = totals(name, start, freq, periods)
    table = ga.read(frame)
    assert table.columns[-1].name == made
    assert table.column(made).nature == "flow"
    assert table.column(name).nature == "running total"
    assert table.numbers(made) == pytest.approx(added, abs=0.011)
    (problem,) = [one for one in table.readiness if one.check == "running totals"]
    assert problem.severity == "repair"


def test_a_total_without_a_name_for_it_is_asked_about() -> None:
    frame, added = totals("revenue", "year", "MS", 36)
    table = ga.read(frame)
    (problem,) = [one for one in table.readiness if one.check == "running totals"]
    assert problem.severity == "question"
    assert table.numbers("revenue difference") == pytest.approx(added, abs=0.011)
    left = ga.read(frame, answers={"running totals/revenue": "leave as totals"})
    assert left.names == ["day", "shop", "revenue"]
    assert left.column("revenue").nature == "flow"


def test_the_log_takes_it_apart_again() -> None:
    frame, added = totals("sales_ytd", "year", "MS", 30)
    log = ga.read(frame).repair_log()
    assert ga.read(frame, repairs=log).numbers("sales") == pytest.approx(added, abs=0.011)


def test_where_a_table_begins_amid_a_year_its_first_row_says_nothing() -> None:
    frame, _ = totals("sales_ytd", "year", "MS", 36)
    late = frame[frame["day"] >= "2022-06-01"].reset_index(drop=True)
    made = ga.read(late).numbers("sales")
    assert np.isnan(made[:3]).all()
    assert np.isfinite(made[3:]).all()


@given(st.integers(0, 50))
def test_plain_amounts_are_no_totals(seed: int) -> None:
    rng = np.random.default_rng(seed)
    days = pd.date_range("2022-01-01", periods=36, freq="MS")
    frame = pd.DataFrame({"day": days, "sales": np.round(rng.gamma(9, 100, 36) * (1 + 0.02 * np.arange(36)), 2)})
    assert ga.read(frame).names == ["day", "sales"]


def test_the_number_of_the_month_is_no_total() -> None:
    days = pd.date_range("2022-01-01", periods=48, freq="MS")
    frame = pd.DataFrame({"day": days, "nth": days.month, "sales": np.arange(48) % 7 + 10.5})
    assert "nth difference" not in ga.read(frame).names


@pytest.mark.parametrize(("name", "made"), [("reading_kwh", "consumption"), ("Index", "Index difference")])
def test_readings_of_meters_are_taken_apart(name: str, made: str) -> None:
    """Nothing in the name says total, but its unit, or the column beside it, says that it stands on a meter."""
    rng = np.random.default_rng(4)
    meters, days = 8, pd.date_range("2025-01-01", periods=60)
    used = rng.gamma(20, 0.5, (days.size, meters)).round(1)
    frame = pd.DataFrame(
        {
            "day": np.repeat(days, meters),
            "meter": np.tile([f"M{one}" for one in range(meters)], days.size),
            name: (rng.integers(1_000, 90_000, meters) + used.cumsum(axis=0)).ravel().round(1),
        }
    )
    table = ga.read(frame)
    assert table.column(made).adds_up
    assert np.nansum(table.numbers(made)) == pytest.approx(used[1:].sum())


def test_readings_that_rise_and_fall_stay() -> None:
    rng = np.random.default_rng(5)
    frame = pd.DataFrame({"day": np.repeat(pd.date_range("2025-01-01", periods=60), 4), "meter": list("ABCD") * 60})
    table = ga.read(frame.assign(reading=rng.normal(40, 5, 240)))
    assert [column.name for column in table.columns] == ["day", "meter", "reading"]
