"""Amounts of several currencies turned into one by a table of rates, by date where it has dates; holes are refused."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pandas as pd
import pytest
from hypothesis import given
from hypothesis import strategies as st

import golden_almanac as ga

_WORTH = {"EUR": 1.0, "USD": 0.9, "JPY": 1 / 160}


def bookings(rows: int = 600, seed: int = 1) -> pd.DataFrame:
    rng = np.random.default_rng(seed)
    frame = pd.DataFrame(
        {
            "booked": rng.choice(pd.date_range("2024-01-01", "2025-06-30"), rows),
            "currency": rng.choice(list(_WORTH), rows, p=[0.5, 0.3, 0.2]),
            "fare": np.round(rng.gamma(4, 20, rows), 2),
            "passengers": rng.integers(1, 6, rows),
        }
    )
    frame.loc[frame["currency"] == "JPY", "fare"] *= 160
    return frame


def by_month() -> pd.DataFrame:
    months = pd.date_range("2024-01-01", "2025-06-01", freq="MS")
    return pd.DataFrame(
        [(month, "USD", 0.8 + 0.01 * place) for place, month in enumerate(months)]
        + [(month, "JPY", 0.006) for month in months],
        columns=["month", "currency", "rate"],
    )


@given(st.integers(0, 1000), st.floats(0.01, 100), st.floats(0.001, 10))
def test_sums_are_those_of_the_rates(seed: int, dollar: float, yen: float) -> None:
    frame, worth = bookings(80, seed), {"EUR": 1, "USD": dollar, "JPY": yen}
    table = ga.read(frame, rates=worth)
    assert table.numbers("fare").sum() == pytest.approx((frame["fare"] * frame["currency"].map(worth)).sum())
    assert table.column("fare").unit == "EUR"
    assert table.numbers("passengers").sum() == frame["passengers"].sum()


def test_figures_and_their_sql_are_in_one_currency() -> None:
    frame = bookings()
    found = ga.scan(ga.read(frame, rates=_WORTH))
    assert not any("not added" in str(line) for line in found.summary().text.splitlines())
    change = ga.explain_change(ga.read(frame, rates=_WORTH), measure="fare", period="2025-Q1", baseline="2024-Q1")
    inside = frame["booked"].between("2025-01-01", "2025-03-31")
    assert change.explanation.value == pytest.approx((frame["fare"] * frame["currency"].map(_WORTH))[inside].sum())


def test_rates_hold_from_their_date(tmp_path: Path) -> None:
    """The one that the rates leave out is what amounts are turned into."""
    frame, rates = bookings(), by_month()
    path = tmp_path / "rates.csv"
    rates.to_csv(path, index=False)
    month = frame["booked"].dt.to_period("M").dt.to_timestamp()
    worth = rates.set_index(["month", "currency"])["rate"]
    each = [1.0 if c == "EUR" else worth[m, c] for m, c in zip(month, frame["currency"], strict=True)]
    for given_rates in (rates, path):
        table = ga.read(frame, rates=given_rates)
        assert table.numbers("fare").sum() == pytest.approx((frame["fare"] * each).sum())


@pytest.mark.parametrize(
    ("rates", "said"),
    [
        ({"EUR": 1, "USD": 0.9}, "a rate for JPY"),
        ({"EUR": 2, "USD": 0.9, "JPY": 3}, "has the rate 1"),
        ({"EUR": 1, "USD": 0.9, "JPY": 0}, "above nought"),
        (by_month()[lambda one: ~one["month"].between("2024-04-01", "2024-07-01")], "no rate for 'JPY' on 2024-04"),
        (by_month()[lambda one: one["month"] >= "2024-03-01"], "no rate for 'JPY' on 2024-01"),
        (by_month().assign(currency="GBP"), "a column of labels such as 'EUR'"),
    ],
)
def test_rates_that_do_not_do_are_refused(rates: object, said: str) -> None:
    with pytest.raises(ga.RequestError, match=said):
        ga.read(bookings(), rates=rates)


def test_a_table_of_one_currency_takes_no_rates() -> None:
    with pytest.raises(ga.RequestError, match="left out"):
        ga.read(bookings().assign(currency="EUR"), rates=_WORTH)
