"""Tests by permutation against all orders by hand, and against the library's."""

from __future__ import annotations

from itertools import permutations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from golden_almanac.stats.friedman import friedman
from golden_almanac.stats.permutation_tests import correlation_p, groups_p


@given(st.lists(st.integers(-20, 20), min_size=4, max_size=6, unique=True), st.integers(0, 99))
def test_few_rows_try_every_order(values: list[int], seed: int) -> None:
    x, y = np.array(values, dtype=float), np.random.default_rng(seed).normal(size=len(values)).round(3)
    seen = abs(np.cov(x, y)[0, 1])
    by_hand = np.mean([abs(np.cov(x, np.array(order))[0, 1]) >= seen - 1e-9 for order in permutations(y)])
    assert correlation_p(x, y) == pytest.approx(by_hand)


def test_more_rows_agree_with_the_library() -> None:
    rng = np.random.default_rng(4)
    x = rng.normal(size=16)
    for strength in (0.2, 0.5):
        y = strength * x + rng.normal(size=16)
        assert correlation_p(x, y) == pytest.approx(stats.pearsonr(x, y).pvalue, abs=0.03)
        codes = np.repeat([0, 1, 2, 3], 4)
        groups = [y[codes == code] for code in range(4)]
        assert groups_p(codes, y) == pytest.approx(stats.f_oneway(*groups).pvalue, abs=0.03)


def test_two_groups_of_three_by_counting() -> None:
    """Of the twenty ways to choose three of six, two are as far apart."""
    assert groups_p(np.array([0, 0, 0, 1, 1, 1]), np.array([1.0, 2, 3, 10, 11, 12])) == pytest.approx(2 / 20)


def test_friedman_of_its_own_paper_s_kind() -> None:
    values = np.array([[1.0, 2, 3], [2, 3, 1], [1, 3, 2], [1, 2, 3], [2, 1, 3], [1, 2, 3]])
    chi = stats.friedmanchisquare(*values.T).statistic
    n, k = values.shape
    f, p = friedman(values)
    assert f == pytest.approx((n - 1) * chi / (n * (k - 1) - chi))
    assert p == pytest.approx(stats.f.sf(f, k - 1, (k - 1) * (n - 1)))
