"""How much work a scan, a change and a driver search are, without a clock: engine statements and Python calls.

Whoever makes one of them dearer by more than a tenth changes the figure here, and says why in the commit.
"""

from __future__ import annotations

import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pandas as pd
import pytest

import golden_almanac as ga
from golden_almanac.engine.held_store import Held

#: What each does: thousands of calls (Python's and C's), and statements to the engine.
WRITTEN = {"scan": (275, 3), "change": (43, 0), "drivers": (161, 0)}


@pytest.fixture(scope="module")
def small(sailings: Path) -> pd.DataFrame:
    """Two years of the demo, three columns of labels, three measures."""
    frame = pd.read_csv(sailings, parse_dates=["date"])
    names = ["date", "route", "channel", "fare_class", "revenue", "passengers", "delay_min"]
    return frame.loc[frame["date"].between("2023-01-01", "2024-12-31"), names].reset_index(drop=True)


def calls(work: Callable[[], Any]) -> int:
    made = 0

    def count(frame: Any, event: str, argument: Any) -> None:
        nonlocal made
        made += event in ("call", "c_call")

    sys.setprofile(count)
    try:
        work()
    finally:
        sys.setprofile(None)
    return made


@pytest.mark.parametrize("name", WRITTEN)
def test_work_is_what_is_written_down(name: str, small: pd.DataFrame, monkeypatch: pytest.MonkeyPatch) -> None:
    work: dict[str, Callable[[ga.Table], Any]] = {
        "scan": ga.scan,
        "change": lambda table: ga.explain_change(table, period="2024-Q4", baseline="2023-Q4"),
        "drivers": lambda table: ga.find_drivers(table, "delay_min"),
    }
    asked: list[str] = []
    query = Held.query

    def counted(self: Any, sql: str, *rest: Any, **more: Any) -> Any:
        asked.append(sql)
        return query(self, sql, *rest, **more)

    work[name](ga.read(small))  # what is loaded, and made once for all, is none of its work
    table = ga.read(small)
    monkeypatch.setattr(Held, "query", counted)
    made = calls(lambda: work[name](table))
    thousands, statements = WRITTEN[name]
    told = f"{name}: {made / 1000:.0f} thousand calls, {len(asked)} statements"
    assert len(asked) <= statements, told
    assert 0.7 * thousands <= made / 1000 <= 1.1 * thousands, told
