"""Roles guessed from type, values and name; and what a caller may override."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga


@pytest.fixture(scope="module")
def table() -> ga.Table:
    rng = np.random.default_rng(3)
    n = 400
    return ga.read(
        pd.DataFrame(
            {
                "ticket": np.arange(1000, 1000 + n),
                "email": [f"p{i}@example.org" for i in range(n)],
                "day": pd.date_range("2024-01-01", periods=n),
                "region": rng.choice(["N", "S"], n),
                "remark": ["word " * 12 + str(i) for i in range(n)],
                "revenue": rng.normal(100, 10, n).round(2),
                "delay_min": rng.integers(0, 90, n),
                "unit_price": rng.normal(9, 1, n),
                "cancelled": rng.integers(0, 2, n),
                "year": rng.integers(2019, 2025, n),
                "zone code": rng.integers(1, 9, n),
                "constant": 5,
                "nothing": [None] * n,
                "customer_id": rng.integers(1, 300, n),
            }
        )
    )


@pytest.mark.parametrize(
    ("name", "role"),
    [
        ("ticket", "key"),
        ("email", "key"),
        ("day", "time"),
        ("region", "dimension"),
        ("remark", "text"),
        ("revenue", "measure"),
        ("delay_min", "measure"),
        ("unit_price", "measure"),
        ("cancelled", "measure"),
        ("year", "dimension"),
        ("zone code", "dimension"),
        ("constant", "ignored"),
        ("nothing", "ignored"),
        ("customer_id", "key"),
    ],
)
def test_roles(table: ga.Table, name: str, role: str) -> None:
    assert table.column(name).role == role


@pytest.mark.parametrize(
    ("name", "adds_up"), [("revenue", True), ("delay_min", False), ("unit_price", False), ("cancelled", False)]
)
def test_amounts_are_summed_and_rates_averaged(table: ga.Table, name: str, adds_up: bool) -> None:
    assert table.column(name).adds_up is adds_up


def test_units_are_read_from_names(table: ga.Table) -> None:
    assert table.column("delay_min").unit == "min"
    assert table.column("revenue").unit is None


def test_roles_can_be_overridden(table: ga.Table) -> None:
    changed = table.with_roles(cancelled="dimension", revenue="ignored")
    assert changed.column("cancelled").role == "dimension"
    assert changed.column("revenue").role == "ignored"
    assert table.column("revenue").role == "measure"


def test_impossible_roles_are_refused(table: ga.Table) -> None:
    with pytest.raises(ga.ColumnError, match="holds text, so it cannot be a measure"):
        table.with_roles(region="measure")
    with pytest.raises(ga.ColumnError, match="cannot be the time"):
        table.with_roles(revenue="time")
    with pytest.raises(ga.RequestError, match="cannot be 'star'"):
        table.with_roles(region="star")
    with pytest.raises(ga.ColumnError, match="Did you mean 'region'"):
        table.with_roles(regio="dimension")


def test_columns_are_shown(table: ga.Table) -> None:
    text = repr(table)
    assert "400 rows" in text
    assert "revenue" in text
    assert table.describe_columns().set_index("column").loc["revenue", "adds up"] == "sum"
