"""Bookkeeping among columns is found, with what breaks it, and nothing else is."""

from __future__ import annotations

from typing import Any

import numpy as np
import pandas as pd
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import golden_almanac as ga
from golden_almanac.tables.composed_columns import composed_pairs
from golden_almanac.tables.identities import bound_together, identities


def ledger(rows: int = 3000, seed: int = 1) -> pd.DataFrame:
    rng = np.random.default_rng(seed)
    frame = pd.DataFrame(
        {
            "revenue": np.round(rng.gamma(3, 50, rows), 2),
            "cost": np.round(rng.gamma(2, 40, rows), 2),
            "quantity": rng.integers(1, 40, rows),
            "price": np.round(rng.gamma(5, 3, rows), 2),
            "delay": np.round(rng.normal(8, 6, rows)),
        }
    )
    frame["profit"] = (frame["revenue"] - frame["cost"]).round(2)
    frame["sales"] = (frame["quantity"] * frame["price"]).round(2)
    frame["late"] = (frame["delay"] > 10).astype(int)
    return frame


def found(frame: pd.DataFrame) -> set[tuple[str, frozenset[str]]]:
    return {(one.kind, one.columns) for one in identities(ga.read(frame), list(frame.columns))}


def test_sums_products_and_thresholds() -> None:
    assert found(ledger()) == {
        ("sum", frozenset({"revenue", "cost", "profit"})),
        ("product", frozenset({"sales", "quantity", "price"})),
        ("threshold", frozenset({"late", "delay"})),
    }


def test_rows_that_break_an_identity_are_counted() -> None:
    frame = ledger()
    frame.loc[[5, 700], "profit"] += 500.0
    table = ga.read(frame)
    (one,) = (i for i in identities(table, list(frame.columns)) if i.kind == "sum")
    assert one.broken == 2


@given(st.integers(0, 200))
@settings(max_examples=15, deadline=None)
def test_chance_binds_nothing(seed: int) -> None:
    rng = np.random.default_rng(seed)
    frame = pd.DataFrame({name: np.round(rng.gamma(2, 20, 400), seed % 3) for name in "abcd"})
    frame["flag"] = rng.integers(0, 2, 400)
    frame["near"] = frame["a"] + frame["b"] + rng.normal(0, 1, 400).round(2)
    assert found(frame) == set()


def test_multiples_bind_through_one_another() -> None:
    frame = ledger().assign(tax=lambda f: (0.2 * f["revenue"]).round(2))
    bound = bound_together(identities(ga.read(frame), list(frame.columns)))
    assert any({"revenue", "profit"} <= one for one in bound)
    assert any({"tax", "cost"} <= one for one in bound)
    assert not any({"price", "revenue"} <= one for one in bound)


def test_the_sql_of_an_identity_gives_the_column_again() -> None:
    frame = ledger()
    table = ga.read(frame)
    for one in identities(table, list(frame.columns)):
        off = table.sql(f'SELECT max(abs(CAST("{one.result}" AS DOUBLE) - ({one.sql()}))) AS off FROM source')["off"][0]
        assert off == pytest.approx(0, abs=0.011)


# --- columns that others make up but for some noise ------------------------------------------------


def _orders(rng: np.random.Generator) -> pd.DataFrame:
    n = 3000
    quantity, price = rng.integers(1, 9, n), rng.choice([4.5, 9.9, 19.5, 25.0], n)
    paid = quantity * price * rng.choice([1.0, 1.0, 0.9, 0.95], n)
    return pd.DataFrame({"quantity": quantity, "price": price, "paid": paid.round(2), "weight": rng.normal(5, 1, n)})


def _stays(rng: np.random.Generator) -> pd.DataFrame:
    n = 3000
    nights, rate = rng.integers(1, 8, n), rng.normal(110, 20, n).round(2)
    cost = (nights * rng.normal(40, 8, n)).round(2)
    return pd.DataFrame({"nights": nights, "rate": rate, "cost": cost, "profit": (nights * rate - cost).round(2)})


def _ledger(rng: np.random.Generator) -> pd.DataFrame:
    n = 3000
    income, spent = rng.gamma(3, 100, n), rng.gamma(2, 80, n)
    left = income - spent + rng.normal(0, 5, n)
    return pd.DataFrame({"income": income, "spent": spent, "left": left}).round(2)


@pytest.mark.parametrize(
    ("make", "told"),
    [
        (_orders, {("paid", "quantity"), ("paid", "price")}),
        (_stays, {("profit", "nights"), ("profit", "rate"), ("profit", "cost")}),
        (_ledger, {("left", "income"), ("left", "spent")}),
    ],
)
def test_what_a_column_is_made_of_is_no_relationship(make: Any, told: set[tuple[str, str]]) -> None:
    frame = make(np.random.default_rng(5))
    pairs = composed_pairs(ga.read(frame), list(frame.columns))
    assert {frozenset(pair) for pair in told} <= pairs
    related = {frozenset(f.figures["columns"]) for f in ga.scan(frame).findings if f.kind == "relationship"}
    assert not related & {frozenset(pair) for pair in told}


def test_columns_that_go_together_make_each_other_not_up() -> None:
    rng = np.random.default_rng(6)
    size = rng.normal(100, 20, 3000)
    frame = pd.DataFrame({"size": size, "load": 2 * size + rng.normal(0, 20, 3000), "heat": rng.gamma(3, 4, 3000)})
    assert composed_pairs(ga.read(frame), list(frame.columns)) == set()


def test_an_identity_is_found_behind_a_column_that_nearly_stands_for_another() -> None:
    """A tax of a fifth, rounded, hides that the amount is cost and profit."""
    rng = np.random.default_rng(7)
    amount, cost = rng.lognormal(4, 0.5, 4000).round(2), rng.lognormal(3, 0.4, 4000).round(2)
    frame = pd.DataFrame({"amount": amount, "cost": cost, "profit": (amount - cost).round(2)})
    frame["tax"] = (0.2 * amount).round(2)
    found = [one.columns for one in identities(ga.read(frame), list(frame.columns))]
    assert {"amount", "cost", "profit"} in found
