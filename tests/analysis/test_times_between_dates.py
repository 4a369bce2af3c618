"""Two dates of each row say how long it took: that is an average of its own, unless it is known or not yet over."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga


def _orders(seed: int, *, slow: float = 0.0, open_now: bool = False) -> pd.DataFrame:
    rng = np.random.default_rng(seed)
    ordered = pd.Timestamp("2024-01-01") + pd.to_timedelta(np.sort(rng.integers(0, 690, 2_500)), "D")
    vendor = rng.choice(["Ardent", "Bolt", "Crane"], 2_500)
    due = ordered + pd.Timedelta(days=14)
    took = rng.gamma(6, 2, 2_500).round() + slow * (vendor == "Crane")
    frame = pd.DataFrame(
        {"order_date": ordered, "due_date": due, "vendor": vendor, "value": rng.gamma(3, 90, 2_500).round(2)}
    )
    frame["received_at"] = ordered + pd.to_timedelta(took, "D")
    if open_now:
        # What has not come by the end of the data has no date yet: the last weeks know the quick ones only.
        frame.loc[frame["received_at"] > ordered.max(), "received_at"] = pd.NaT
    return frame


def _told(frame: pd.DataFrame) -> list[ga.Finding]:
    found = ga.scan(ga.read(frame))
    return [one for one in (*found.findings, *found.folded) if one.measure is not None and one.measure.between]


def test_who_takes_longer_is_told_with_a_figure_that_agrees() -> None:
    frame = _orders(1, slow=5.0)
    gap = next(one for one in _told(frame) if one.kind == "difference")
    took = (frame["received_at"] - frame["due_date"]).dt.days
    crane = frame["vendor"] == "Crane"
    assert gap.figures["value"] == pytest.approx(took[crane].mean())
    assert gap.figures["rest"] == pytest.approx(took[~crane].mean())
    assert "Average time from due to received of Crane is" in gap.headline
    assert "days" in gap.headline
    assert gap.check().agrees


def test_from_what_was_planned_it_may_be_early() -> None:
    frame = _orders(6, slow=5.0).drop(columns="order_date")
    gap = next(one for one in _told(frame) if one.kind == "difference")
    took = (frame["received_at"] - frame["due_date"]).dt.days
    assert gap.figures["rest"] == pytest.approx(took[frame["vendor"] != "Crane"].mean())
    assert "Average time from due to received of Crane is" in gap.headline


@pytest.mark.parametrize("seed", range(6))
def test_what_is_not_over_yet_makes_nobody_quicker(seed: int) -> None:
    told = _told(_orders(seed, open_now=True))
    assert not told, [one.headline for one in told]


def test_of_those_who_never_leave_nothing_is_told() -> None:
    frame = _orders(2, slow=9.0)
    frame.loc[np.random.default_rng(3).random(len(frame)) < 0.6, "received_at"] = pd.NaT
    assert not _told(frame)


def test_a_column_that_says_it_already_is_enough() -> None:
    frame = _orders(4, slow=9.0)
    late = (frame["received_at"] - frame["due_date"]).dt.days
    assert not _told(frame.assign(days_late=late))
    assert not _told(frame.assign(hours_late=24 * late))


def test_moments_are_told_in_hours_and_in_the_language_asked_for() -> None:
    rng = np.random.default_rng(5)
    opened = pd.Timestamp("2025-01-01") + pd.to_timedelta(np.sort(rng.integers(0, 300 * 1_440, 2_000)), "min")
    urgent = rng.random(2_000) < 0.3
    frame = pd.DataFrame({"created_at": opened, "priority": np.where(urgent, "P1", "P3")})
    frame["resolved_at"] = opened + pd.to_timedelta((rng.gamma(2, 6, 2_000) * np.where(urgent, 0.3, 1)).round(1), "h")
    gap = next(one for one in _told(frame) if one.kind == "difference")
    hours = (frame["resolved_at"] - frame["created_at"]).dt.total_seconds() / 3_600
    assert gap.figures["value"] == pytest.approx(
        hours[frame["priority"] == gap.where.conditions[-1][1]].mean(), abs=0.02
    )
    assert " h, against " in gap.headline
    german = str(ga.scan(ga.read(frame), locale="de").summary())
    assert "durchschnittliche Zeit von created bis resolved" in german


def test_asked_for_by_its_name_it_is_called_the_same() -> None:
    """The command that comes with the advice says "average time", not the expression."""
    table = ga.read(_orders(1, slow=5.0))
    made = next(one for one in ga.scan(table).result.survey.measures if one.between)
    change = str(ga.explain_change(table, made.name).summary())
    assert change.startswith("Average time from due to received was ")
    assert "days" in change.split(",")[0]
