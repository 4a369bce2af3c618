"""A last day whose clock stops early is no collapse."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pandas as pd

import golden_almanac as ga


def _calls(last_hour: int, sunday_hour: int = 23) -> pd.DataFrame:
    """Calls all day long over sixty days, Sundays until an hour; the last day, a Thursday, until another."""
    rng = np.random.default_rng(1)
    parts = []
    for number, day in enumerate(pd.date_range("2024-01-01", periods=60)):
        until = last_hour if number == 59 else sunday_hour if day.day_of_week == 6 else 24
        minutes = rng.uniform(0, 60 * until, int(rng.poisson(3 * until)))
        parts.append(pd.DataFrame({"called": day + pd.to_timedelta(minutes.round(), unit="min")}))
    frame = pd.concat(parts, ignore_index=True)
    return frame.assign(waited_min=rng.gamma(3, 2, len(frame)).round(1))


def test_a_last_day_that_is_not_over_is_left_out_and_said() -> None:
    found = ga.scan(ga.read(_calls(9)), grain="day")
    assert "The last day is unfinished (data end on 29 February 2024)" in str(found.summary())
    change = ga.explain_change(ga.read(_calls(9)), measure="count(*)", grain="day")
    assert "28 February" in change.headline


def test_a_day_that_ends_as_others_do_is_over() -> None:
    assert "unfinished" not in str(ga.scan(ga.read(_calls(24)), grain="day").summary())
    # The Sunday before ended as early: so may any day.
    assert "unfinished" not in str(ga.scan(ga.read(_calls(15, sunday_hour=14)), grain="day").summary())


def test_who_says_that_it_is_over_is_believed() -> None:
    table = ga.read(_calls(9), calendar=ga.Calendar(as_of=np.datetime64("2024-03-05")))
    assert "unfinished" not in str(ga.scan(table, grain="day").summary())


def test_it_is_the_same_of_a_table_left_in_its_file(tmp_path: Path) -> None:
    _calls(9).to_parquet(tmp_path / "calls.parquet")
    table = ga.read(tmp_path / "calls.parquet", memory=1_000_000)
    assert "The last day is unfinished" in str(ga.scan(table, grain="day").summary())
