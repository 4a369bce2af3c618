"""Series methods against closed forms, published data, scipy, and noise of known kind."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp
from scipy import stats

from golden_almanac.analysis.detectors.block_tests import block_test
from golden_almanac.stats import autocorrelated_fits, median_slopes
from golden_almanac.stats.seasonal_terms import candidates, choose
from golden_almanac.stats.segmented_paths import choose_path, choose_paths
from golden_almanac.stats.series_batch import Pooled, pooled_memory, prepare
from golden_almanac.tables import Grain

MONTHS = np.arange(600, 700)
values = hnp.arrays(np.float64, st.integers(8, 40), elements=st.floats(-1e6, 1e6).map(lambda x: round(x, 3)))

#: Annual flow of the Nile at Aswan, 1871–1970 (Cobb 1978): the level falls in 1899, when the dam was begun.
NILE = np.array(
    [
        1120,
        1160,
        963,
        1210,
        1160,
        1160,
        813,
        1230,
        1370,
        1140,
        995,
        935,
        1110,
        994,
        1020,
        960,
        1180,
        799,
        958,
        1140,
        1100,
        1210,
        1150,
        1250,
        1260,
        1220,
        1030,
        1100,
        774,
        840,
        874,
        694,
        940,
        833,
        701,
        916,
        692,
        1020,
        1050,
        969,
        831,
        726,
        456,
        824,
        702,
        1120,
        1100,
        832,
        764,
        821,
        768,
        845,
        864,
        862,
        698,
        845,
        744,
        796,
        1040,
        759,
        781,
        865,
        845,
        944,
        984,
        897,
        822,
        1010,
        771,
        676,
        649,
        846,
        812,
        742,
        801,
        1040,
        860,
        874,
        848,
        890,
        744,
        749,
        838,
        1050,
        918,
        986,
        797,
        923,
        975,
        815,
        1020,
        906,
        901,
        1170,
        912,
        746,
        919,
        718,
        714,
        740,
    ],
    float,
)


OWN = Pooled(phi=0.0, belief=1.0)


def path(y: np.ndarray, pooled: Pooled | None = OWN):
    return choose_path(prepare(Grain.MONTH, MONTHS[: y.size], y), pooled)


# --- regressions -------------------------------------------------------------------------------


@given(values)
def test_least_squares_agree_with_scipy(y: np.ndarray) -> None:
    if np.ptp(y) == 0:
        return
    x = np.arange(y.size, dtype=float)
    fit = autocorrelated_fits.ols(np.column_stack([np.ones(y.size), x]), y)
    wanted = stats.linregress(x, y)
    scale = max(1.0, float(np.abs(y).max()))
    assert fit.beta[1] == pytest.approx(wanted.slope, abs=1e-9 * scale)
    assert fit.error[1] == pytest.approx(wanted.stderr, rel=1e-6, abs=1e-9 * scale)
    if wanted.stderr > 1e-6 * scale:
        assert fit.p(1) == pytest.approx(wanted.pvalue, rel=1e-5, abs=1e-12)


def test_norris_certified_values() -> None:
    """NIST StRD "Norris", lower difficulty, certified to 15 digits."""
    y = np.array(
        [
            0.1,
            338.8,
            118.1,
            888.0,
            9.2,
            228.1,
            668.5,
            998.5,
            449.1,
            778.9,
            559.2,
            0.3,
            0.1,
            778.1,
            668.8,
            339.3,
            448.9,
            10.8,
            557.7,
            228.3,
            998.0,
            888.8,
            119.6,
            0.3,
            0.6,
            557.6,
            339.3,
            888.0,
            998.5,
            778.9,
            10.2,
            117.6,
            228.9,
            668.4,
            449.2,
            0.2,
        ]
    )
    x = np.array(
        [
            0.2,
            337.4,
            118.2,
            884.6,
            10.1,
            226.5,
            666.3,
            996.3,
            448.6,
            777.0,
            558.2,
            0.4,
            0.6,
            775.5,
            666.9,
            338.0,
            447.5,
            11.6,
            556.0,
            228.1,
            995.8,
            887.6,
            120.2,
            0.3,
            0.3,
            556.8,
            339.1,
            887.2,
            999.0,
            779.0,
            11.1,
            118.3,
            229.2,
            669.1,
            448.9,
            0.5,
        ]
    )
    fit = autocorrelated_fits.ols(np.column_stack([np.ones(x.size), x]), y)
    assert fit.beta.tolist() == pytest.approx([-0.262323073774029, 1.00211681802045], rel=1e-11)
    assert fit.error.tolist() == pytest.approx([0.232818234301152, 0.429796848199937e-03], rel=1e-11)


def test_autocorrelation_is_found_without_the_bias_of_short_series() -> None:
    rng = np.random.default_rng(11)
    found = []
    for _ in range(600):
        y = np.zeros(140)
        for i in range(1, 140):
            y[i] = 0.5 * y[i - 1] + rng.standard_normal()
        y = y[100:]
        line = np.column_stack([np.ones(40), np.arange(40.0)])
        found.append(autocorrelated_fits.autocorrelation(autocorrelated_fits.ols(line, y).residual, 2))
    assert np.mean(found) == pytest.approx(0.5, abs=0.05)


def test_whitening_makes_white() -> None:
    phi, rng = 0.7, np.random.default_rng(5)
    e = rng.standard_normal(4000)
    y = np.empty(4000)
    y[0] = e[0] / np.sqrt(1 - phi**2)
    for i in range(1, 4000):
        y[i] = phi * y[i - 1] + e[i]
    white = autocorrelated_fits.whiten(phi, y)[0]
    assert white == pytest.approx(e, abs=1e-9)


# --- median slopes ---------------------------------------------------------------


@given(values)
def test_theil_sen_agrees_with_scipy(y: np.ndarray) -> None:
    assert median_slopes.theil_sen(y) == pytest.approx(
        stats.theilslopes(y, np.arange(y.size)).slope, rel=1e-9, abs=1e-9
    )


@given(st.floats(-5, 5), st.integers(25, 60))
def test_seasonal_slope_is_blind_to_the_season(slope: float, n: int) -> None:
    season = np.array([5, -3, 8, 0, 1, 12, -7, 2, 4, 9, -1, 6], float)
    y = slope * np.arange(n) + season[np.arange(n) % 12]
    assert median_slopes.seasonal_slope(y, 12) == pytest.approx(slope, abs=1e-9)


def test_block_test_is_the_t_test_on_white_equal_weights() -> None:
    d = np.random.default_rng(8).standard_normal(40) * 3 + 1
    d[1::2] -= 0.5 * d[:-1:2]  # no positive autocorrelation left
    t, p = block_test(d, np.ones(40))
    wanted = stats.ttest_1samp(d, 0)
    assert t == pytest.approx(wanted.statistic, rel=1e-9)
    assert p == pytest.approx(wanted.pvalue, rel=1e-9)


# --- paths -------------------------------------------------------------------------------------


def test_the_nile_steps_down_in_1899() -> None:
    numbers = np.arange(1871, 1971) - 1970
    found = choose_path(prepare(Grain.YEAR, numbers, NILE))
    assert found.shape == "step"
    assert 1871 + found.start == 1899
    assert found.p < 0.02  # one series by itself must pay for not knowing its own autocorrelation
    after, before = NILE[28:].mean(), NILE[:28].mean()
    assert found.jump == pytest.approx(after - before, rel=0.05)


def test_a_line_a_bend_and_a_step_are_told_apart() -> None:
    rng, t = np.random.default_rng(21), np.arange(48.0)
    noise = rng.standard_normal((3, 48))
    line, bend, step = (
        path(0.3 * t + noise[0]),
        path(0.6 * np.maximum(t - 26, 0) + noise[1]),
        path(6 * (t >= 20) + noise[2]),
    )
    assert (line.shape, bend.shape, step.shape) == ("line", "bend", "step")
    assert line.slope == pytest.approx(0.3, abs=0.04)
    assert abs(bend.start - 26) <= 3
    assert bend.slope == pytest.approx(0.6, abs=0.1)
    assert step.start == 20
    assert step.jump == pytest.approx(6, abs=1)
    assert max(line.p, bend.p, step.p) < 1e-6


def test_the_season_is_taken_out_before_the_path() -> None:
    t = np.arange(40.0)
    season = 10 * np.cos(2 * np.pi * t / 12)
    y = season + 0.05 * t + np.random.default_rng(2).standard_normal(40) * 0.3
    found = path(y)
    assert choose(Grain.MONTH, MONTHS[:40], y).shape[1] > 0
    assert found.shape == "line"
    assert found.slope == pytest.approx(0.05, abs=0.015)


def test_seasons_need_two_cycles() -> None:
    assert candidates(Grain.MONTH, MONTHS[:23]) == []
    assert len(candidates(Grain.MONTH, MONTHS[:36])) == 3
    assert candidates(Grain.YEAR, MONTHS) == []


def test_one_wild_month_is_no_step() -> None:
    y = np.random.default_rng(4).standard_normal(36)
    y[17] = 40
    assert path(y).p > 0.01


@pytest.mark.parametrize("phi", [0.0, 0.6])
def test_false_alarms_on_noise_keep_their_level(phi: float) -> None:
    """Twenty siblings of 36 months: no more than 1% of paths at p ≤ 0.01 on white noise, 3% at φ = 0.6."""
    rng = np.random.default_rng(31)
    alarms = total = 0
    for _ in range(20):
        series = []
        for _ in range(20):
            y = np.zeros(136)
            for i in range(1, 136):
                y[i] = phi * y[i - 1] + rng.standard_normal()
            series.append(y[100:])
        batch = prepare(Grain.MONTH, MONTHS[:36], np.stack(series))
        alarms += sum(path.p <= 0.01 for path in choose_paths(batch, pooled_memory(batch)))
        total += len(series)
    assert alarms / total <= (0.01 if phi == 0 else 0.03)


def test_few_siblings_pool_nothing() -> None:
    series = prepare(Grain.MONTH, MONTHS[:20], np.random.default_rng(1).standard_normal((4, 20)))
    assert pooled_memory(series) is None


@pytest.mark.parametrize("n", [8, 12, 24, 47])
def test_a_batch_says_what_each_series_alone_says(n: int) -> None:
    """Flat series, lines, bends, steps and seasons together, and one by one."""
    rng = np.random.default_rng(n)
    time = np.arange(n)
    shapes = [
        0 * time,
        0.1 * time,
        0.3 * np.maximum(time - n // 2, 0),
        2.0 * (time >= n // 3),
        np.sin(time * np.pi / 6),
    ]
    y = np.stack([shape * size + rng.normal(0, 0.5, n) for shape in shapes for size in (0, 1, 3)])
    pooled = Pooled(phi=0.2, belief=0.5)
    for known in (None, pooled):
        together = choose_paths(prepare(Grain.MONTH, MONTHS[:n], y), known)
        for own, path in zip(y, together, strict=True):
            alone = choose_path(prepare(Grain.MONTH, MONTHS[:n], own), known)
            assert (alone.shape, alone.start) == (path.shape, path.start)
            for name in ("slope", "jump", "p", "error", "noise", "phi", "statistic"):
                assert getattr(path, name) == pytest.approx(getattr(alone, name), rel=1e-7, abs=1e-12)
