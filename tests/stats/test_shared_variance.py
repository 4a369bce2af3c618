"""What siblings and rows know of how much a series varies, and how long it remembers."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.special import stdtr
from scipy.stats import norm

from golden_almanac.stats.batched_fits import gls_each
from golden_almanac.stats.segmented_paths import choose_paths
from golden_almanac.stats.series_batch import Batch, Pooled, pooled_memory, prepare
from golden_almanac.tables import Grain

MONTHS = np.arange(600, 636)
SAMPLING = 0.01


def _siblings(rng: np.random.Generator, count: int, spread: float = 0.0, step: float = 0.0) -> Batch:
    """Noise of the variance that the rows make, its logarithm varying by `spread`; a step in the first series."""
    size = 0.1 * np.exp(spread / 2 * rng.standard_normal((count, 1)))
    y = size * rng.standard_normal((count, 36))
    y[0, 18:] += step
    return prepare(Grain.MONTH, MONTHS, y)


def _pooled(batch: Batch) -> Pooled:
    found = pooled_memory(batch, np.full(batch.count, SAMPLING))
    assert found is not None
    return found


def test_siblings_that_vary_as_their_rows_do_know_the_variance_well() -> None:
    pooled = [_pooled(_siblings(np.random.default_rng(seed), 20)) for seed in range(30)]
    assert np.median([one.times for one in pooled]) == pytest.approx(1.0, abs=0.06)
    # A series of 36 months knows its own with some 34 degrees of freedom.
    assert np.median([one.known for one in pooled]) > 34


def test_siblings_of_many_kinds_know_little_of_each_other() -> None:
    """Variances whose logarithm has variance v are those of 2·trigamma⁻¹(v) degrees of freedom; of v = 1, 2.8 (Smyth
    2004)."""
    pooled = [_pooled(_siblings(np.random.default_rng(seed), 60, spread=1.0)) for seed in range(30)]
    assert 1.5 < np.median([one.known for one in pooled]) < 4.5


def test_too_few_siblings_and_unknown_rows_know_nothing() -> None:
    assert pooled_memory(_siblings(np.random.default_rng(1), 4), np.full(4, SAMPLING)) is None
    batch = _siblings(np.random.default_rng(1), 20)
    unknown = pooled_memory(batch, np.full(20, np.nan))
    assert unknown is not None
    assert unknown.known == 0.0


def test_a_known_variance_turns_t_into_z() -> None:
    rng = np.random.default_rng(2)
    design = np.column_stack([np.ones(12), np.arange(12.0)])
    fit = gls_each(design, rng.standard_normal((5, 12)), np.zeros(5))
    same = fit.moderated(np.ones(5), np.zeros(5))
    assert same.p(1) == pytest.approx(2 * stdtr(fit.df, -np.abs(fit.t(1))))
    sure = fit.moderated(np.ones(5), np.full(5, 1e9))
    z = fit.beta[:, 1] / np.sqrt(np.linalg.inv(design.T @ design)[1, 1])
    assert sure.p(1) == pytest.approx(2 * norm.sf(np.abs(z)), rel=1e-4)


def test_weak_steps_are_surer_where_siblings_know_the_variance() -> None:
    """A step of four standard errors in one of twenty series: sure at p ≤ 0.001 far more often, on the same noise."""
    found = {True: 0, False: 0}
    for seed in range(60):
        batch = _siblings(np.random.default_rng(seed), 20, step=4 * 0.1 * 2 / 6)
        for known in found:
            pooled = pooled_memory(batch, np.full(20, SAMPLING) if known else None)
            found[known] += choose_paths(batch, pooled, np.full(20, SAMPLING))[0].p <= 0.001
    assert found[True] >= 1.2 * found[False] > 0


def test_chance_is_not_surer_where_siblings_know_the_variance() -> None:
    p = [
        path.p
        for seed in range(60)
        for batch in [_siblings(np.random.default_rng(1000 + seed), 20)]
        for path in choose_paths(batch, _pooled(batch), np.full(20, SAMPLING))
    ]
    assert np.mean(np.array(p) <= 0.01) <= 0.015
    assert np.mean(np.array(p) <= 0.001) <= 0.003


def test_what_the_noise_of_the_rows_hides_is_remembered_all_the_same() -> None:
    """Of totals that wander slowly (an autoregression of 0.9) behind as much as a quarter of noise, the month before
    shows 0.7 only: steps and trends of chance must not be told for it."""
    rng = np.random.default_rng(7)
    months = np.arange(600, 660)
    lags = np.abs(np.arange(60)[:, None] - np.arange(60)[None])
    wave = rng.standard_normal((300, 60)) @ np.linalg.cholesky(0.9**lags).T
    y = 0.1 * (rng.standard_normal((300, 60)) + 2 * wave)
    paths = choose_paths(prepare(Grain.MONTH, months, y), None, np.full(300, SAMPLING))
    # 13% before that was reckoned with.
    assert np.mean([path.p <= 0.001 for path in paths]) <= 0.05
