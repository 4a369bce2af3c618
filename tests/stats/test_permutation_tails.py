"""Far tails: against the exact p-value where all orders can be counted, and against a uniform law on chance."""

from __future__ import annotations

from itertools import combinations
from math import comb

import numpy as np
import pytest

from golden_almanac.stats.autocorrelated_fits import ols, whiten
from golden_almanac.stats.permutation_tails import Runs, calibrated_p
from golden_almanac.stats.segmented_paths import searched


def nominal(y: np.ndarray, column: np.ndarray) -> tuple[int, float]:
    fit = ols(np.column_stack([np.ones(y.size), column]), y)
    return fit.df, fit.p(1)


def test_it_is_the_exact_permutation_p_of_two_groups() -> None:
    y = np.array([1.2, 0.4, 2.2, 1.9, 0.1, 3.4, 2.8, 3.9, 2.5, 3.1, 4.4, 2.9])
    column = (np.arange(12) >= 6).astype(float)
    df, p = nominal(y, column)
    whole = y.sum()
    seen = abs(y[6:].sum() - whole / 2)
    orders = [abs(sum(y[list(six)]) - whole / 2) >= seen - 1e-12 for six in combinations(range(12), 6)]
    exact = sum(orders) / comb(12, 6)
    got = calibrated_p(np.ones((12, 1)), [column[:, None]], y, df, p)
    assert got == pytest.approx(exact, rel=0.6)
    assert 0.002 < exact < 0.02


def test_on_normal_noise_one_column_has_students_p() -> None:
    rng = np.random.default_rng(3)
    column = np.arange(36.0)
    for shift in (0.02, 0.05, 0.1):
        y = rng.normal(size=36) + shift * column
        df, p = nominal(y, column)
        got = calibrated_p(np.ones((36, 1)), [column[:, None]], y, df, p)
        assert abs(np.log10(got) - np.log10(p)) <= 0.25 + 0.25 * abs(np.log10(p))
        assert got > 0


def test_a_search_on_chance_has_a_uniform_p() -> None:
    rng = np.random.default_rng(8)
    time = np.arange(36.0)
    trials = (time[:, None] >= np.arange(3, 34)).astype(float)
    found = [searched(np.ones((36, 1)), trials, rng.standard_t(3, 36), 0.0)[2] for _ in range(400)]
    assert np.mean(np.array(found) <= 0.01) <= 0.03


def test_more_searches_are_paid_for() -> None:
    rng = np.random.default_rng(9)
    y = rng.normal(size=36) + 2.0 * (np.arange(36) >= 20)
    steps = (np.arange(36)[:, None] >= np.arange(3, 34)).astype(float)
    df, p = nominal(y, steps[:, 17])
    one = calibrated_p(np.ones((36, 1)), [steps[:, 17:18]], y, df, p)
    many = calibrated_p(np.ones((36, 1)), [steps, np.arange(36.0)[:, None]], y, df, 31 * p)
    assert one < many


@pytest.mark.parametrize("phi", [0.0, 0.4, -0.2])
def test_running_sums_are_the_products_with_whitened_steps_and_slopes(phi: float) -> None:
    time, places = np.arange(30.0)[:, None], np.arange(3, 27)
    series = np.random.default_rng(10).normal(size=(4, 30))
    for sloped, columns in ((False, (time >= places).astype(float)), (True, np.maximum(time - places, 0.0))):
        (white,) = whiten(phi, columns)
        assert Runs(white, 3, phi, sloped).products(series.T) == pytest.approx((series @ white).T)
    # A line that sets in with the last period has not begun.
    late = np.maximum(time - np.arange(25, 30), 0.0)
    assert Runs(whiten(phi, late)[0], 25, phi, sloped=True).products(series.T) == pytest.approx(
        (series @ whiten(phi, late)[0]).T
    )
