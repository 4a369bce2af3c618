"""The kind "spike": what is planted is found with its size, what is none is not."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

import golden_almanac as ga
from golden_almanac.analysis.detectors.slice_spikes import deviations
from golden_almanac.stats.normal_scores import normal_scores
from tests.analysis.detectors.tables import plain, told


def test_a_bad_week() -> None:
    frame = plain(9000)
    frame["late"] = np.random.default_rng(5).random(len(frame)) < 0.1
    inside = frame["date"].between("2023-05-08", "2023-05-14")
    frame.loc[inside, "late"] = True
    (one,) = told(frame, "spike")
    around = frame["date"].between("2023-03-27", "2023-06-25") & ~inside
    assert one.measure is not None
    assert one.measure.name == "avg(late)"
    assert str(one.period.start) == one.figures["date"] == "2023-05-08"  # type: ignore[union-attr]
    assert one.figures["value"] == 1.0
    assert one.figures["expected"] == pytest.approx(frame.loc[around, "late"].mean())
    assert one.figures["n"] == int(inside.sum())
    assert one.headline.startswith("Late rate was 100% in the week of 8 May 2023, against ")


def test_a_week_without_most_of_its_rows_is_one_story() -> None:
    frame = plain(20_000)
    inside = frame["date"].between("2024-02-05", "2024-02-11").to_numpy()
    frame = frame[~inside | (np.arange(len(frame)) % 10 == 0)].reset_index(drop=True)
    frame["units"] = frame["amount"] // 10 + 1
    found = ga.scan(frame, kinds=["spike"])
    (one,) = found.findings
    assert one.direction == "down"
    reasons = {other.folded_under and other.folded_under[1] for other in found.folded}
    # The month that holds it may be as far off, or not.
    assert {"the same time, in another measure"} <= reasons <= {"the same time, in another measure", "the same time"}
    assert "In the same week " in one.detail


def test_a_week_without_any_row_is_missing_not_low() -> None:
    frame = plain(9000)
    frame = frame[~frame["date"].between("2024-02-05", "2024-02-11")].reset_index(drop=True)
    assert ga.scan(frame, kinds=["spike"]).findings == ()
    (one,) = ga.scan(frame).findings
    assert (one.kind, one.figures["what"], one.figures["since"]) == ("gap", "no rows", "2024-02-05")
    assert one.check().agrees
    assert one.chart().issues() == []


def test_a_step_is_no_spike_and_one_huge_row_is_no_week() -> None:
    frame = plain(9000)
    frame["amount"] *= np.where(frame["date"] > "2023-06-15", 3.0, 1.0)
    frame.loc[4000, "amount"] *= 1e4
    assert told(frame, "spike") == []


def test_robust_deviations_by_hand() -> None:
    """0 1 2 0 1 2 …, with a 41: six before and six after it have the median 1; others lie 1, 0 or 1 from theirs."""
    values = np.tile([0.0, 1.0, 2.0], 14)
    values[21] = 41.0
    off = deviations(values[None])[0]
    assert int(np.argmax(np.abs(off))) == 21
    assert off[21] == pytest.approx(40 / 1.4826)
    assert deviations(5 - 3 * values[None])[0] == pytest.approx(-off)


@given(st.floats(-1e6, 1e6), st.integers(8, 30))
def test_a_step_of_any_height_is_far_from_one_side_only(height: float, place: int) -> None:
    values = np.tile([0.0, 1.0, 2.0], 13) + height * (np.arange(39) >= place)
    assert np.abs(deviations(values[None])[0]).max() < 3


def test_normal_scores_are_those_of_the_ranks() -> None:
    values = np.array([3.0, 1.0, 2.0, np.nan, 2.0])
    scores = normal_scores(values)
    assert np.isnan(scores[3])
    assert scores[[1, 0]] == pytest.approx(stats.norm.ppf([0.125, 0.875]))
    assert scores[2] == scores[4] == pytest.approx(0.0)
    strata = np.array([0, 0, 1, 1, 1])
    assert normal_scores(values, strata, 2)[[0, 1]] == pytest.approx(stats.norm.ppf([0.75, 0.25]))


def test_the_peak_of_every_year_is_no_spike() -> None:
    """July and August bring half as much again, every year: none of them is a month far off."""
    for seed in range(3, 9):
        frame = plain(12000, seed)
        months = frame["date"].dt.month
        frame["amount"] = np.round(frame["amount"] * np.where(months.isin([7, 8]), 1.5, 1.0), 2)
        assert told(frame, "spike") == []


def test_a_month_off_its_season_is_a_spike() -> None:
    frame = plain(12000, 4)
    months = frame["date"].dt.month
    twice = frame["date"].dt.strftime("%Y-%m") == "2023-02"
    frame["amount"] = np.round(frame["amount"] * np.where(months.isin([7, 8]), 1.5, 1.0) * np.where(twice, 1.9, 1.0), 2)
    (one,) = ga.scan(frame, kinds=["spike"]).findings
    assert one.period is not None
    assert str(one.period.start)[:7] == "2023-02"
    assert one.check().agrees


def test_a_month_of_one_label_is_told_of_that_label() -> None:
    frame = plain(14_000)
    own = (frame["shop"] == "Elm") & frame["date"].between("2023-06-01", "2023-06-30")
    frame = frame.loc[frame.index.repeat(np.where(own, 3, 1))].reset_index(drop=True)
    found = told(frame, "spike")
    assert "Elm" in {one.where.label for one in found}
    one = next(one for one in found if one.where.label == "Elm")
    assert str(one.period.start)[:7] in ("2023-05", "2023-06")  # type: ignore[union-attr]
    assert one.headline.startswith("Amount of Elm was ")
    # The whole is higher only for it: that is folded, or not told.
    assert not [other for other in found if not other.where.conditions]


def test_what_befalls_all_is_told_of_the_whole() -> None:
    frame = plain(14_000)
    inside = frame["date"].between("2023-05-08", "2023-05-14")
    frame = frame.loc[frame.index.repeat(np.where(inside, 3, 1))].reset_index(drop=True)
    assert {one.where.label for one in told(frame, "spike")} == {""}


def test_chance_makes_no_spikes_of_slices() -> None:
    assert sum(bool(told(plain(6000, seed), "spike")) for seed in range(8)) <= 1
