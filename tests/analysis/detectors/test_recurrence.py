"""The kind "recurrence": what is planted is found with its size, what is none is not."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga
from tests.analysis.detectors.tables import told

_DAYS = pd.date_range("2021-01-04", "2025-12-28")
#: Good Fridays, as the computus has them.
_GOOD_FRIDAYS = ("2021-04-02", "2022-04-15", "2023-04-07", "2024-03-29", "2025-04-18")


def days(factor: np.ndarray, seed: int = 1) -> pd.DataFrame:
    noise = np.random.default_rng(seed).normal(1, 0.08, _DAYS.size)
    return pd.DataFrame({"date": _DAYS, "visits": np.round(1000 * factor * noise, 2)})


def test_a_week_of_every_year() -> None:
    weeks = _DAYS.isocalendar().week.to_numpy()
    frame = days(np.where(weeks == 51, 2.0, 1.0))
    (one,) = told(frame, "recurrence")
    assert (one.figures["week"], one.figures["years"], one.direction) == (51, 5, "up")
    by_hand = frame["visits"][weeks == 51].sum() / 5
    assert one.figures["value"] == pytest.approx(by_hand)
    assert one.figures["weeks"][0] == "2021-12-20"
    by_week = frame[weeks == 51].groupby(_DAYS[weeks == 51].year)["visits"].sum()
    assert one.figures["nearest"] == pytest.approx(by_week.min())
    assert "week 51, in all 5 years" in one.headline


def test_a_holiday_that_moves_is_told_by_its_name() -> None:
    high = np.zeros(_DAYS.size, dtype=bool)
    for friday in _GOOD_FRIDAYS:
        high |= np.isin(_DAYS, pd.date_range(end=friday, periods=5))
    frame = days(np.where(high, 1.8, 1.0))
    table = ga.read(frame, calendar=ga.Calendar(holidays="DE"))
    (one,) = ga.scan(table, kinds=["recurrence"]).findings
    assert one.figures["holiday"] in ("Good Friday", "Karfreitag")
    assert [week[:7] for week in one.figures["weeks"]] == ["2021-03", "2022-04", "2023-04", "2024-03", "2025-04"]
    assert told(frame, "recurrence") == []


def test_a_season_and_a_single_year_are_none() -> None:
    season = np.exp(0.6 * np.cos(2 * np.pi * (_DAYS.day_of_year.to_numpy() - 200) / 365.25))
    assert told(days(season), "recurrence") == []
    once = np.where((_DAYS >= "2023-06-05") & (_DAYS <= "2023-06-11"), 3.0, 1.0)
    assert told(days(once), "recurrence") == []


def test_chance_makes_none() -> None:
    """At most one of thirty tables of chance is told of; five in a hundred tests are as sure."""
    hits = 0
    for seed in range(30):
        rng = np.random.default_rng(8000 + seed)
        memory = np.zeros(_DAYS.size)
        for day, shock in enumerate(rng.normal(0, 0.1, _DAYS.size - 1), start=1):
            memory[day] = 0.7 * memory[day - 1] + shock
        hits += bool(told(days(np.exp(memory), seed), "recurrence"))
    assert hits <= 1
