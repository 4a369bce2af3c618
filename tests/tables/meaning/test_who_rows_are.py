"""Rows that are people by their key, and rows that are no stores for all their file's name."""

from __future__ import annotations

import numpy as np
import pandas as pd

import golden_almanac as ga
from golden_almanac.tables.meaning.row_nouns import row_noun


def _staff() -> ga.Table:
    rng = np.random.default_rng(7)
    hired = pd.Timestamp("2015-01-01") + pd.to_timedelta(np.sort(rng.integers(0, 3900, 240)), "D")
    frame = pd.DataFrame(
        {"emp_id": np.arange(5000, 5240), "hire_date": hired, "dept": rng.choice(["Deck", "Quay"], 240)}
    )
    return ga.read(frame.assign(annual_salary=rng.normal(41_000, 9_000, 240).round()))


def test_what_each_employee_earns_a_year_is_averaged() -> None:
    column = _staff().column("annual_salary")
    assert (column.role.value, column.adds_up) == ("measure", False)
    assert row_noun(_staff()) == "employees"


def test_rows_of_weekly_stores_are_no_stores() -> None:
    frame = pd.DataFrame({"Week": [f"FY24 W{one:02d}" for one in range(1, 41)] * 2, "Store": ["101", "102"] * 40})
    table = ga.read(frame.assign(sales=np.arange(80.0) * 3), name="weekly_stores.csv")
    assert table.column("Week").role.value == "time"
    assert row_noun(table) == ""


def test_units_of_measure_are_one_word() -> None:
    """Weights in kilograms and in pounds are not told together, whatever the column of units is called."""
    rng = np.random.default_rng(8)
    days = pd.Timestamp("2024-01-01") + pd.to_timedelta(np.sort(rng.integers(0, 600, 900)), "D")
    frame = pd.DataFrame(
        {"day": days, "UoM": rng.choice(["kg", "lb"], 900, p=[0.7, 0.3]), "Loaded": rng.gamma(3, 50, 900)}
    )
    told = str(ga.scan(ga.read(frame)).summary())
    assert "those in lb (UoM) are not added to them" in told


def test_what_a_home_has_is_not_added_up_over_those_sold() -> None:
    rng = np.random.default_rng(9)
    sold = pd.Timestamp("2022-01-01") + pd.to_timedelta(np.sort(rng.integers(0, 900, 500)), "D")
    frame = pd.DataFrame({"sold": sold, "Beds": rng.integers(1, 6, 500), "Sq ft": rng.normal(1_100, 300, 500).round()})
    table = ga.read(frame.assign(price=rng.normal(250_000, 40_000, 500).round(-3), rooms_sold=rng.integers(1, 90, 500)))
    assert [table.column(name).adds_up for name in ("Beds", "Sq ft", "rooms_sold")] == [False, False, True]


def test_orders_in_pieces_and_in_kilograms_are_worth_so_many_euros_together() -> None:
    rng = np.random.default_rng(10)
    days = pd.Timestamp("2024-01-01") + pd.to_timedelta(np.sort(rng.integers(0, 600, 900)), "D")
    frame = pd.DataFrame({"day": days, "UoM": rng.choice(["EA", "KG"], 900), "Qty": rng.integers(1, 90, 900)})
    table = ga.read(frame.assign(net_value=rng.gamma(3, 90, 900).round(2)))
    found = ga.scan(table)
    assert "Qty is in several units (UoM: EA and KG) and is not added up." in str(found.summary())
    most = frame["UoM"].value_counts().idxmax()
    asked = ga.total(table, ["sum(Qty)"]).to_frame()
    assert float(asked.iloc[0, -1]) == frame.loc[frame["UoM"] == most, "Qty"].sum()
    worth = ga.total(table, ["sum(net_value)"]).to_frame()
    assert float(worth.iloc[0, -1]) == np.round(table.numbers("net_value").sum(), 2)


def test_results_of_several_tests_are_not_added_up() -> None:
    rng = np.random.default_rng(11)
    days = pd.Timestamp("2025-01-01") + pd.to_timedelta(np.sort(rng.integers(0, 300, 900)), "D")
    test = rng.choice(["HbA1c", "LDL"], 900, p=[0.6, 0.4])
    frame = pd.DataFrame({"day": days, "test": test, "units": np.where(test == "LDL", "mmol/L", "mmol/mol")})
    told = str(ga.scan(ga.read(frame.assign(result=rng.gamma(9, 4, 900).round(1)))).summary())
    assert "Figures are those in mmol/mol; those in mmol/L (units) are not added to them." in told


def test_thousands_of_euros_are_no_euros() -> None:
    frame = pd.DataFrame({"month": pd.date_range("2024-01-01", periods=24, freq="MS")})
    for name in ("kEUR", "Revenue (EUR '000)", "Sales USD m", "Cost EUR k"):
        assert ga.read(frame.assign(**{name: np.arange(24) * 3.5 + 400})).column(name).unit is None
    assert ga.read(frame.assign(cost_eur=np.arange(24) * 3.5 + 400)).column("cost_eur").unit == "EUR"
    told = str(ga.scan(ga.read(frame.assign(kEUR=np.arange(24) * 3.5 + 400))).summary())
    assert "kEUR" in told or "KEUR" in told
    assert "€" not in told
