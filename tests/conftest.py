"""What tests share: the demo's data and scan, made once, and small tables written by hand."""

from __future__ import annotations

import os
from pathlib import Path

import numpy as np
import pandas as pd
import pytest
from hypothesis import settings

import golden_almanac as ga

# The workers, and what they start, share the processors already.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

# A processor each: what would start helpers or threads for two would only wait for the other workers.
_WORKER = os.environ.get("PYTEST_XDIST_WORKER", "")
if _WORKER.startswith("gw") and hasattr(os, "sched_setaffinity"):
    ALL = sorted(os.sched_getaffinity(0))
    os.sched_setaffinity(0, {ALL[int(_WORKER[2:]) % len(ALL)]})

# Shared machines are slow at times: a slow example is no failure, and the same examples run everywhere.
settings.register_profile("house", deadline=None, derandomize=True, max_examples=40)
settings.load_profile("house")


@pytest.fixture(scope="session")
def sailings(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return ga.write_demo(tmp_path_factory.mktemp("demo"))


@pytest.fixture(scope="session")
def demo_scan(sailings: Path) -> ga.Scan:
    return ga.scan(sailings)


@pytest.fixture
def shop(tmp_path: Path) -> Path:
    """Six rows that can be added up in the head."""
    path = tmp_path / "shop.csv"
    path.write_text(
        "date,item,price,units,sold\n"
        "2025-01-01,tea,2.50,4,yes\n2025-01-02,tea,2.50,6,no\n2025-01-02,cake,4.00,5,yes\n"
        "2025-02-01,cake,4.00,10,yes\n2025-02-03,tea,3.00,2,no\n2025-02-03,,1.00,,yes\n",
        encoding="utf-8",
    )
    return path


def monthly(
    values: dict[str, list[float]], *, rows: int = 6, start: str = "2022-01-01", noise: float = 0.0, seed: int = 1
) -> pd.DataFrame:
    """A table in which each group's monthly sums are the values given, spread over `rows` rows a month."""
    rng = np.random.default_rng(seed)
    out = []
    first = np.datetime64(start, "M")
    for group, series in values.items():
        for place, value in enumerate(series):
            month, after = ((first + np.timedelta64(at, "M")).astype("datetime64[D]") for at in (place, place + 1))
            days = int((after - month).astype(int))
            for row in range(rows):
                day = (row * days) // rows + (row == rows - 1) * (days - 1 - ((rows - 1) * days) // rows)
                out.append(
                    (month + np.timedelta64(day, "D"), group, value / rows * (1 + noise * rng.standard_normal()))
                )
    return pd.DataFrame(out, columns=["date", "group", "amount"])


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """The tests that take longest first: a worker that meets one at the end keeps the others waiting."""
    items.sort(key=lambda item: "end_to_end" not in item.path.parts)
