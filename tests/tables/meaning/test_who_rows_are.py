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
