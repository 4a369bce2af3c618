"""Long series of readings: one a week over decades, with holes, of a name that says nothing."""

from __future__ import annotations

import numpy as np
import pandas as pd

import golden_almanac as ga


def _air(rng: np.random.Generator, years: int = 40, rise: float = 1.3, swing: float = 3.0) -> pd.DataFrame:
    days = pd.date_range("1961-01-07", periods=52 * years, freq="W-SAT")
    year = np.asarray((days - days[0]).days) / 365.25
    of_year = np.asarray((days - pd.to_datetime(days.year.astype(str) + "-01-01")).days) / 365.25
    level = 318 + rise * year + 0.005 * year**2 + swing * np.sin(2 * np.pi * (of_year - 0.11))
    frame = pd.DataFrame({"taken": days, "c2": np.round(level + rng.normal(0, 0.35, days.size), 2)})
    # Five months without any, and single weeks lost.
    lost = [*range(170, 192), *rng.choice(np.arange(300, days.size), 20, replace=False)]
    return frame.drop(index=lost).reset_index(drop=True)


def test_a_climb_and_its_season_are_told() -> None:
    frame = _air(np.random.default_rng(3))
    found = {f.kind: f for f in ga.scan(frame).findings}
    assert found["trend"].direction == "up"
    assert found["trend"].measure is not None
    assert found["trend"].measure.name == "avg(c2)"
    assert found["seasonality"].figures["peak"] == "May"
    assert found["seasonality"].figures["years"] >= 39
    assert all(f.check().agrees for f in found.values())


def test_what_moves_by_much_is_added_up() -> None:
    """A till's takings a week, smooth as they are, are no readings."""
    rng = np.random.default_rng(4)
    weeks = pd.date_range("2010-01-02", periods=300, freq="W-SAT")
    takings = 5000 * np.exp(np.cumsum(rng.normal(0, 0.03, weeks.size)))
    columns = ga.read(pd.DataFrame({"week": weeks, "c2": np.round(takings, 2)})).columns
    assert next(one for one in columns if one.name == "c2").adds_up


def test_walks_are_told_of_at_their_level_only() -> None:
    told = []
    for seed in range(25):
        rng = np.random.default_rng(900 + seed)
        days = pd.date_range("2015-01-31", periods=int(rng.integers(60, 130)), freq="ME")
        walk = 400 * np.exp(np.cumsum(rng.normal(0, 0.004, days.size)))
        found = ga.scan(pd.DataFrame({"day": days, "quoted": np.round(walk, 2)})).findings
        told += [f.headline for f in found if f.kind in ("trend", "shift")]
    assert len(told) <= 1, told
