"""Drifts of series that wander: walks make none, a steady climb among large moves is one."""

from __future__ import annotations

import numpy as np
import pytest

from golden_almanac.stats.wandering_series import drift_p, stretches

_SERIES = 4000


@pytest.mark.parametrize("n", [26, 60, 240])
@pytest.mark.parametrize("moves", ["normal", "heavy"])
def test_walks_do_not_drift(n: int, moves: str) -> None:
    rng = np.random.default_rng(n)
    steps = rng.standard_normal((_SERIES, n)) if moves == "normal" else rng.standard_t(3, (_SERIES, n))
    p = drift_p(np.cumsum(steps, axis=1))
    for level in (0.05, 0.01):
        assert np.mean(p < level) < level


def test_moves_that_lean_on_each_other_are_no_drift() -> None:
    rng = np.random.default_rng(5)
    steps = rng.standard_normal((_SERIES, 120))
    for place in range(1, 120):
        steps[:, place] += 0.5 * steps[:, place - 1]
    assert np.mean(drift_p(np.cumsum(steps, axis=1)) < 0.01) < 0.01


def test_a_walk_with_a_mean_drifts() -> None:
    rng = np.random.default_rng(6)
    # The mean of 240 moves is eleven of its standard errors.
    p = drift_p(np.cumsum(0.7 + rng.standard_normal((200, 240)), axis=1))
    assert np.median(p) < 1e-3


def test_the_direction_and_the_unit_do_not_matter() -> None:
    walks = np.cumsum(0.2 + np.random.default_rng(7).standard_normal((20, 90)), axis=1)
    assert drift_p(walks) == pytest.approx(drift_p(-1000 * walks + 5))
    assert drift_p(walks[:, :20]) == pytest.approx(1.0)
    assert drift_p(np.ones((1, 40))) == pytest.approx(1.0)


@pytest.mark.parametrize("n", [60, 180])
@pytest.mark.parametrize("moves", ["normal", "heavy"])
def test_walks_have_no_stretches(n: int, moves: str) -> None:
    rng = np.random.default_rng(n)
    steps = rng.standard_normal((2000, n)) if moves == "normal" else rng.standard_t(3, (2000, n))
    assert np.mean(stretches(np.cumsum(steps, axis=1)).p < 0.01) < 0.005


def test_a_stretch_is_found_at_its_ends() -> None:
    rng = np.random.default_rng(8)
    steps = rng.standard_normal((50, 179))
    steps[:, 100:142] -= 3.0
    found = stretches(np.concatenate([np.zeros((50, 1)), np.cumsum(steps, axis=1)], axis=1))
    assert np.median(found.p) < 1e-10
    assert abs(np.median(found.start) - 100) <= 3
    assert abs(np.median(found.stop) - 142) <= 3
    # The ends that are chosen make it steeper than it is, not less steep.
    assert np.median(found.slope) == pytest.approx(-3.0, abs=0.5)


def test_a_short_series_has_none() -> None:
    assert stretches(np.cumsum(np.ones((3, 40)), axis=1)).p == pytest.approx(1.0)
