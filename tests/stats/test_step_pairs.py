"""Two steps in one series, and leaps of series that wander: found where they are, and not made of chance."""

from __future__ import annotations

import numpy as np
import pytest

import golden_almanac as ga
from golden_almanac.stats.segmented_paths import choose_paths
from golden_almanac.stats.series_batch import prepare
from golden_almanac.stats.step_pairs import best_step_pairs
from golden_almanac.tables import Grain
from tests.conftest import monthly

_NUMBERS = np.arange(648, 648 + 36)


def test_up_and_down_again() -> None:
    rng = np.random.default_rng(1)
    y = rng.normal(0, 0.1, 48) + 0.5 * ((np.arange(48) >= 14) & (np.arange(48) < 34))
    (found,) = best_step_pairs(y[None], np.empty((y.size, 0)))
    assert found is not None
    assert found.places == (14, 34)
    assert found.jumps == pytest.approx((0.5, -0.5), abs=0.1)
    assert found.p < 1e-6
    # The levels beside each other, by hand.
    assert found.jumps[0] == pytest.approx(y[14:34].mean() - y[:14].mean())


def test_chance_makes_no_pairs_of_steps() -> None:
    rng = np.random.default_rng(2)
    pairs = best_step_pairs(rng.normal(size=(400, 36)), np.empty((36, 0)))
    p = [found.p for found in pairs if found is not None]
    assert sum(one < 0.05 for one in p) <= 0.05 * 400


def test_too_short_a_series_has_no_pair() -> None:
    assert best_step_pairs(np.arange(8.0)[None], np.empty((8, 0))) == [None]


def test_two_stories_in_one_slice_are_told_at_their_dates() -> None:
    rng = np.random.default_rng(3)
    months = np.arange(48)
    beech = 280 * np.where(months >= 14, 1.4, 1.0) * np.where(months >= 34, 0.6, 1.0)
    paths = {"Alder": np.full(48, 300.0), "Beech": beech, "Cedar": np.full(48, 350.0), "Dogwood": np.full(48, 260.0)}
    frame = monthly({name: list(path * rng.normal(1, 0.03, 48)) for name, path in paths.items()}, rows=10, noise=0.1)
    told = [one for one in ga.scan(frame).findings if one.kind == "shift"]
    assert {one.where.label for one in told} == {"Beech"}
    assert sorted((one.figures["date"], one.direction) for one in told) == [
        ("2023-03-01", "up"),
        ("2024-11-01", "down"),
    ]
    for one in told:
        assert one.check().agrees
        assert one.chart().png()
        assert one.figures["periods_before"] + one.figures["periods_after"] <= 48


@pytest.mark.parametrize("seed", range(6))
def test_a_leap_far_beyond_all_others_is_a_step_however_short_the_series(seed: int) -> None:
    rng = np.random.default_rng(seed)
    y = np.where(np.arange(36) >= 28, 2.7, 0.0) + rng.normal(0, 0.05, 36)
    (path,) = choose_paths(prepare(Grain.MONTH, _NUMBERS, y[None]))
    assert (path.shape, path.start) == ("step", 28)
    assert path.p < 1e-3


def test_walks_make_no_leaps() -> None:
    rng = np.random.default_rng(7)
    walks = np.cumsum(rng.normal(size=(300, 36)), axis=1)
    paths = choose_paths(prepare(Grain.MONTH, _NUMBERS, walks))
    wandering = [path for path in paths if path.phi >= 0.93]
    assert len(wandering) > 200
    assert all(path.p > 0.01 for path in wandering)
