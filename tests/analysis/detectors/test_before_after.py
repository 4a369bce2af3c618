"""What a sentence may say of two windows: the same time of year, or not."""

from __future__ import annotations

import pytest

import golden_almanac as ga
from golden_almanac.analysis.detectors.before_after import around_leg, around_step, moved
from golden_almanac.analysis.scan_pipeline import survey_of
from tests.conftest import monthly


@pytest.fixture(scope="module")
def survey() -> object:
    return survey_of(ga.read(monthly({"a": [100.0] * 30})), measures=None, by=None, time=None, grain=None)


@pytest.mark.parametrize(
    ("place", "before", "same"), [(20, "2022-09-01", True), (12, "2022-01-01", True), (8, "2022-01-01", False)]
)
def test_a_step_is_set_against_the_same_months_only_where_there_are_any(
    survey, place: int, before: str, same: bool
) -> None:  # type: ignore[no-untyped-def]
    windows = around_step(survey, place, 0, 29, True)
    assert str(windows.before.start) == before
    assert windows.same_months is same
    if same:
        assert str(windows.before.start)[5:] == str(windows.after.start)[5:]
        assert str(windows.before.end)[5:7] == str(windows.after.end)[5:7]


def test_a_leg_says_the_same_months_only_when_it_has_them(survey) -> None:  # type: ignore[no-untyped-def]
    assert around_leg(survey, 0, 29, True).same_months
    assert around_leg(survey, 20, 29, True).same_months
    assert not around_leg(survey, 0, 9, True).same_months
    assert not around_leg(survey, 0, 29, False).same_months


def test_an_early_step_does_not_claim_a_year_before() -> None:
    levels = {"a": [100.0] * 8 + [200.0] * 20, **{name: [100.0] * 28 for name in "bcdefghijkl"}}
    early = ga.scan(monthly(levels, noise=0.6), kinds=["shift"])
    (found,) = early.findings
    assert found.where.label == "a"
    assert "a year before" not in found.headline
    assert "same time of year" not in found.detail


def test_movement_against_the_rest() -> None:
    seen = {"x": 10.0, "y": 12.0, "rest_x": 100.0, "rest_y": 150.0}
    assert moved(seen, ("x", "y"), in_proportion=True) == pytest.approx(0.08 - 0.1)
    assert moved(seen, ("x", "y"), in_proportion=False) == -48
    assert moved({"x": 10.0, "y": 12.0}, ("x", "y"), in_proportion=True) == 2
