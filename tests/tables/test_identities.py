"""Bookkeeping among columns is found, with what breaks it, and nothing else is."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import golden_almanac as ga
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
