"""Deliveries that come now and then, of five hundred or none: a few on one day are chance, more for months are not."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga


def _stock(seed: int, *, often: float = 1.0) -> ga.Table:
    """What forty articles received a day; `often` times as often in the South in the second half."""
    rng = np.random.default_rng(seed)
    days, articles = pd.date_range("2025-01-01", "2025-08-31"), 40
    day, article = np.repeat(days, articles), np.tile(np.arange(articles), days.size)
    south = article % 2 == 1
    chance = np.where(south & (day >= days[days.size // 2]), often, 1.0) / 55
    frame = pd.DataFrame(
        {
            "day": day,
            "store": np.where(south, "South", "North"),
            "article": [f"A{one:02d}" for one in article],
            "received": np.where(rng.random(day.size) < chance, 500, 0),
        }
    )
    return ga.read(frame)


@pytest.mark.parametrize("seed", range(6))
def test_a_few_on_one_day_are_chance(seed: int) -> None:
    found = ga.scan(_stock(seed), grain="day")
    moves = [one for one in (*found.findings, *found.folded) if one.kind in ("spike", "shift", "trend")]
    assert not moves, [one.headline for one in moves]


@pytest.mark.parametrize("grain", ["day", "week"])
def test_more_of_them_for_months_are_told(grain: str) -> None:
    found = ga.scan(_stock(1, often=5.0), grain=grain)
    moves = [one for one in found.findings if one.kind in ("shift", "trend")]
    assert moves
    assert moves[0].direction == "up"
