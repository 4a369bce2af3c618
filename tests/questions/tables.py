"""The four tables that questions are asked of: the ferry company's sailings, its harbour office's workbook with two
sheets joined, a survey without dates, and a table of a hundred columns."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from tempfile import mkdtemp

import numpy as np
import pandas as pd

import golden_almanac as ga

_CARGO = (
    "timber grain cement gravel coal salt sand steel paper wool glass clay slate chalk peat malt hops hay straw bricks "
    "tiles pipes cable paint rope canvas ice feed seed fertiliser livestock whisky beer milk butter"
).split()
_FISH = "fish cod herring crab mackerel haddock lobster squid".split()


@cache
def demo() -> Path:
    return Path(ga.write_demo(mkdtemp())).parent


@cache
def table(name: str) -> ga.Table:
    made = {"sailings": sailings, "survey": survey, "moorings": moorings, "harbours": harbours}
    return made[name]()


def sailings() -> ga.Table:
    return ga.read(demo() / "sailings.csv")


def moorings() -> ga.Table:
    """What asking of the workbook itself reads: its longest sheet with the sheet that it leads to."""
    return ga.read_all(demo() / "harbour-office.xlsx").star()


def survey() -> ga.Table:
    rng = np.random.default_rng(7)
    n = 900
    frame = pd.DataFrame(
        {
            "respondent_id": [f"R{k:04}" for k in range(n)],
            "department": rng.choice(["Deck", "Engine", "Catering", "Bridge", "Shore office"], n),
            "site": rng.choice(["Longstrand", "Pellow Quay", "Skerry Haven"], n),
            "gender": rng.choice(["Woman", "Man", "Other"], n, p=[0.48, 0.48, 0.04]),
            "age": rng.integers(18, 66, n),
            "years_of_service": rng.integers(0, 30, n),
            "satisfaction_score": rng.integers(1, 11, n),
            "would_recommend": rng.choice(["yes", "no"], n, p=[0.7, 0.3]),
            "overtime_hours": rng.gamma(2, 6, n).round(1),
            "salary": rng.normal(38_000, 6_000, n).round(2),
        }
    )
    return ga.read(frame, name="survey")


def harbours() -> ga.Table:
    rng = np.random.default_rng(11)
    names = ["Marlhaven", "Eddisport", "Corrick", "Stonness", "Lowick", "Brackwater", "Farholm", "Tarness"]
    months = pd.date_range("2022-01-01", "2024-12-01", freq="MS")
    grid = pd.MultiIndex.from_product([months, names], names=["month", "harbour"]).to_frame(index=False)
    grid["coast"] = grid["harbour"].map(dict(zip(names, ["West", "East"] * 4, strict=True)))
    n = len(grid)
    columns: dict[str, object] = {}
    for fish in _FISH:
        columns[f"{fish}_landed_t"] = rng.gamma(4, 40, n).round(1)
    for cargo in _CARGO:
        columns[f"{cargo}_imports_t"] = rng.gamma(3, 120, n).round(1)
        columns[f"{cargo}_exports_t"] = rng.gamma(3, 90, n).round(1)
    for visits in ("yacht_visits", "ferry_calls", "cruise_calls", "tug_jobs"):
        columns[visits] = rng.poisson(40, n)
    for money in ("harbour_dues_eur", "pilotage_fees_eur", "crane_hire_eur", "water_sales_eur", "repairs_eur"):
        columns[money] = rng.gamma(5, 2_000, n).round(2)
    for rate in ("berth_occupancy_pct", "on_time_pct", "crane_use_pct", "storage_use_pct"):
        columns[rate] = rng.uniform(20, 95, n).round(1)
    for count in ("dockers_employed", "accidents", "inspections", "complaints", "permits_issued"):
        columns[count] = rng.poisson(12, n)
    return ga.read(pd.concat([grid, pd.DataFrame(columns)], axis=1), name="harbours")
