"""Candidates of forecasts against closed forms and hand-worked cases; that no origin sees what comes behind it."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from golden_almanac.stats.forecasting import autoregression, plain
from golden_almanac.stats.forecasting.combination import combined
from golden_almanac.stats.forecasting.intermittent import croston
from golden_almanac.stats.forecasting.origins import Origins, scale_of
from golden_almanac.stats.forecasting.plain_guess import plain_guess
from golden_almanac.stats.forecasting.procedure import procedure
from golden_almanac.stats.forecasting.ranges import ranges
from golden_almanac.stats.forecasting.seasons import seasons
from golden_almanac.stats.forecasting.smoothing import fitted_forms
from golden_almanac.stats.forecasting.theta import theta


def _noisy(seed: int, size: int = 60, season: float = 0.0) -> np.ndarray:
    random = np.random.default_rng(seed)
    return (100 + season * np.sin(np.arange(size) * np.pi / 6) + random.normal(0, 5, size))[None]


def test_a_line_is_carried_on_by_every_method_with_a_trend() -> None:
    line = 5.0 + 3.0 * np.arange(40)[None]
    origins = Origins(40, 1, 6)
    wanted = 5.0 + 3.0 * np.arange(40, 46)
    assert plain.drift(line, origins)[0, -1] == pytest.approx(wanted)
    fit = fitted_forms(line, origins, [("linear", "none")])[0]
    assert fit.paths[0, -1] == pytest.approx(wanted, rel=1e-6)
    assert autoregression.on_changes(line, origins)[0, -1] == pytest.approx(wanted, rel=1e-6)
    # The optimised form keeps a part of the level that is smoothed.
    assert theta(line, origins, seasons(line, origins)).optimised[0, -1] == pytest.approx(wanted, rel=0.03)


def test_a_season_that_repeats_exactly_is_repeated() -> None:
    pattern = np.array([3.0, 9.0, 4.0, 1.0])
    series = np.tile(50 + pattern, 12)[None]
    origins = Origins(48, 4, 8)
    wanted = np.tile(50 + pattern, 2)
    assert plain.last_season(series, origins)[0, -1] == pytest.approx(wanted)
    assert fitted_forms(series, origins, [("none", "added")])[0].paths[0, -1] == pytest.approx(wanted, rel=1e-6)
    assert fitted_forms(series, origins, [("none", "multiplied")])[0].paths[0, -1] == pytest.approx(wanted, rel=1e-6)
    assert autoregression.on_seasonal_changes(series, origins)[0, -1] == pytest.approx(wanted, rel=1e-6)
    assert seasons(series, origins).has[0, -1]


def test_smoothing_is_the_recursion_of_the_text_book() -> None:
    series = _noisy(3)
    origins = Origins(60, 1, 3)
    fit = fitted_forms(series, origins, [("none", "none")])[0]
    alpha = fit.parameters.alpha[0, -1]
    level = series[0, :5].mean()
    for value in series[0]:
        level = alpha * value + (1 - alpha) * level
    assert fit.paths[0, -1] == pytest.approx(np.full(3, level))


def test_theta_is_smoothing_with_half_the_slope_as_drift() -> None:
    """Hyndman & Billah (2003), with the weight that foretells a step best."""
    series = _noisy(5) + 0.8 * np.arange(60)
    origins = Origins(60, 1, 4)
    found = theta(series, origins, seasons(series, origins)).plain[0, -1]
    values = series[0]
    slope = np.polyfit(np.arange(60), values, 1)[0]
    best = None
    for alpha in (0.05, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 0.98):
        level, squares = values[0], 0.0
        for place, value in enumerate(values):
            squares += (value - level) ** 2 if place > 1 else 0.0
            level += alpha * (value - level)
        if best is None or squares < best[0]:
            best = (squares, level, alpha)
    assert best is not None
    _, level, alpha = best
    wanted = level + slope / 2 * (np.arange(4) + (1 - (1 - alpha) ** 60) / alpha)
    assert found == pytest.approx(wanted)


def test_a_damped_swing_is_carried_on_by_autoregression() -> None:
    values = [10.0, 4.0]
    for _ in range(60):
        values.append(6 + 0.9 * values[-1] - 0.5 * values[-2])
    series = np.array(values[:40])[None]
    found = autoregression.on_values(series, Origins(40, 1, 5))[0, -1]
    assert found == pytest.approx(values[40:45], rel=0.02)


def test_croston_by_hand() -> None:
    """Demands of 3 and 5, three and two periods apart: size 3 + 0.1·2, gap 3 + 0.1·(2 − 3)."""
    series = np.array([[0, 0, 3.0, 0, 5.0, 0, 0, 0, 0]])
    found = croston(series, Origins(9, 1, 2), unbiased=False)[0, -1]
    assert found == pytest.approx(np.full(2, 3.2 / 2.9))
    assert croston(series, Origins(9, 1, 2), unbiased=True)[0, -1] == pytest.approx(np.full(2, 0.95 * 3.2 / 2.9))


def test_mase_is_scaled_by_the_seasonal_naive_step() -> None:
    series = np.array([[1.0, 2, 1, 4, 3, 2, 1, 6]])
    assert scale_of(series, 4)[0] == pytest.approx(np.mean([2, 0, 0, 2]))
    assert scale_of(series, 1)[0] == pytest.approx(np.mean(np.abs(np.diff(series[0]))))


@settings(max_examples=10, deadline=None)
@given(st.integers(0, 10_000), st.integers(1, 20))
def test_no_origin_sees_what_comes_behind_it(seed: int, cut: int) -> None:
    series = _noisy(seed, season=20)
    later = series.copy()
    later[:, -cut:] += 40
    origins = Origins(60, 12, 6)
    one, other = combined(series, origins), combined(later, origins)
    known = origins.ends <= 60 - cut
    assert one.path[0, known] == pytest.approx(other.path[0, known])


@settings(max_examples=10, deadline=None)
@given(st.integers(0, 10_000), st.floats(0.001, 1e6))
def test_another_unit_gives_the_same_forecast_in_that_unit(seed: int, factor: float) -> None:
    series = _noisy(seed, season=20)
    one, other = procedure(series, "month", 6), procedure(factor * series, "month", 6)
    assert other.path[0, -1] == pytest.approx(factor * one.path[0, -1], rel=1e-5)
    assert other.model[0] == pytest.approx(factor * one.model[0], rel=1e-3)


def test_series_together_are_each_as_by_itself() -> None:
    pair = np.concatenate([_noisy(1, season=20), _noisy(2)])
    both = procedure(pair, "month", 6)
    for place in range(2):
        alone = procedure(pair[place : place + 1], "month", 6)
        assert both.path[place] == pytest.approx(alone.path[0])
    assert both.found.weights.sum(axis=0) == pytest.approx(np.ones((2, both.origins.count)))


def test_nothing_is_foretold_of_noise_or_of_a_walk() -> None:
    random = np.random.default_rng(8)
    origins = Origins(80, 12, 6)
    noise = 30 + random.normal(size=(20, 80))
    walks = 50 + np.cumsum(random.normal(size=(20, 80)), axis=1)
    seasonal = noise + 3 * np.sin(np.arange(80) * np.pi / 6)
    told = {}
    for name, series in (("noise", noise), ("walks", walks), ("seasonal", seasonal)):
        both = combined(series, origins)
        told[name] = [plain_guess(series, origins, both, place) for place in range(20)]
    assert told["noise"].count("mean") >= 16
    assert told["walks"].count("last value") >= 15
    assert told["seasonal"].count(None) == 20


def test_ranges_cover_what_they_promise_on_series_of_known_make() -> None:
    random = np.random.default_rng(11)
    size, horizon = 72, 6
    season = 10 * np.sin(np.arange(size + horizon) * np.pi / 6)
    made = 100 + season + 0.3 * np.arange(size + horizon) + random.normal(0, 3, (60, size + horizon))
    found = procedure(made[:, :size], "month", horizon)
    errors = found.origins.errors(made[:, :size], found.path)
    spread = ranges(made[:, :size], found.origins, errors, found.model)
    missed = np.abs(made[:, size:] - found.path[:, -1])
    assert 0.74 < (missed <= spread.half[0.8]).mean() < 0.92
    assert 0.91 < (missed <= spread.half[0.95]).mean() <= 0.995
    assert not spread.naive


def test_too_few_origins_give_the_naive_range() -> None:
    series = _noisy(4, size=9)
    found = procedure(series, "year", 2)
    assert ranges(series, found.origins, found.origins.errors(series, found.path), found.model).naive
