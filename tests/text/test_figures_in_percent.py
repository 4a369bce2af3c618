"""Figures that are written in percent differ by points, as shares do."""

from __future__ import annotations

import re

import numpy as np
import pandas as pd

import golden_almanac as ga


def _yields(*, fall: float = 9.0) -> ga.Table:
    rng = np.random.default_rng(3)
    days = np.repeat(pd.date_range("2023-01-01", "2025-06-30"), 3)
    line = np.tile(["A", "B", "C"], days.size // 3)
    fell = (line == "C") & (days >= np.datetime64("2024-11-01"))
    return ga.read(
        pd.DataFrame(
            {
                "day": days,
                "line": line,
                "yield_pct": (95 - 6.0 * (line == "B") - fall * fell + rng.normal(0, 1, days.size)).round(1),
            }
        )
    )


def _told(table: ga.Table) -> list[str]:
    found = ga.scan(table)
    return [f"{one.headline} {one.detail}" for one in (*found.findings, *found.folded)]


def test_a_gap_is_told_in_points() -> None:
    gap = next(one for one in _told(_yields(fall=0.0)) if " B is" in one)
    assert re.search(r"is 89\.\d%, against 95\.\d% for", gap)
    assert re.search(r"That is [56]\.\d points less \(95% range 5\.\d to 6\.\d points\)", gap)


def test_a_movement_is_told_in_points() -> None:
    step = next(one for one in _told(_yields()) if "stepped down" in one)
    assert re.search(r"stepped down .* −[89]\.\d points", step)


def test_a_change_is_told_in_points() -> None:
    change = ga.explain_change(_yields(), "yield_pct", period="2025-05", baseline="2024-05")
    assert "points" in str(change.summary())
    assert not re.search(r"[0-9]% (below|above)", str(change.summary()))


def test_a_question_is_answered_in_points() -> None:
    answer = str(ga.ask(_yields(), "yield in May 2025 compared with May 2024"))
    assert "points" in answer
