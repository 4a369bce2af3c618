"""Long series of readings: one a week over decades, with holes, of a name that says nothing."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

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


def _employed(seed: int) -> pd.DataFrame:
    """People employed by trade at the end of each month: building loses three tenths within three and a half years, and
    one trade shrinks, another grows all the time."""
    rng = np.random.default_rng(seed)
    months = pd.date_range("1999-01-31", "2013-12-31", freq="ME")
    frames = []
    for trade, (level, growth) in {
        "Building": (7000, 0.0008), "Metal": (15000, -0.002), "Shops": (15000, 0.0008), "Care": (17000, 0.0019),
        "Inns": (12800, 0.0008), "Print": (3000, 0.0008),
    }.items():  # fmt: skip
        moves = np.full(months.size, growth)
        if trade == "Building":
            moves[102:144] = -0.0085
        swing = 0.02 * np.sin(2 * np.pi * (months.month - 4) / 12) if trade in ("Building", "Inns") else 0.0
        path = level * np.exp(np.cumsum(moves + rng.normal(0, 0.0015, months.size)) + swing)
        frames.append(pd.DataFrame({"month": months, "trade": trade, "employees": path.round(1)}))
    return pd.concat(frames, ignore_index=True)


@pytest.mark.parametrize("seed", [1, 2])
def test_a_fall_within_the_time_is_told_of_who_fell(seed: int) -> None:
    frame = _employed(seed)
    told = {f.where.label: f for f in ga.scan(frame).findings if f.kind == "trend"}
    assert {"Building", "Metal"} <= set(told)
    fall = told["Building"]
    assert fall.direction == "down"
    assert fall.period is not None
    assert abs((pd.Timestamp(fall.period.start) - pd.Timestamp("2007-07-01")).days) < 130
    assert abs((pd.Timestamp(fall.period.end) - pd.Timestamp("2010-12-31")).days) < 130
    # The year before against the year after, as anyone can add them up.
    own = frame[frame["trade"] == "Building"].set_index("month")["employees"]
    before, after = (
        own[one["start"] : one["end"]].mean() for one in map(fall.figures["windows"].get, ("before", "after"))
    )
    assert fall.figures["change_pct"] == pytest.approx(100 * (after / before - 1))
    assert fall.check().agrees
    # Those who stood still while building fell are no stories of their own.
    assert not {"Shops", "Inns", "Print"} & set(told)
