"""Tests over periods: many at once say what each says alone; against Student's t where nothing leans."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import stats

from golden_almanac.analysis.detectors.block_tests import block_test, block_test_each


def test_many_at_once_are_each_alone() -> None:
    rng = np.random.default_rng(1)
    gaps = rng.normal(0.2, 1, (40, 14)).cumsum(axis=1) * np.linspace(0, 1, 40)[:, None] + rng.normal(0, 1, (40, 14))
    gaps[0], gaps[1] = 0.0, 2.0
    together = block_test_each(gaps)
    for place, gap in enumerate(gaps):
        assert (together[0][place], together[1][place]) == pytest.approx(block_test(gap, np.ones(14)))


def test_what_does_not_lean_has_students_t() -> None:
    gap = np.array([0.9, -0.4, 1.2, -0.1, 1.0, -0.3, 0.8, -0.2, 1.1, -0.5])
    found = stats.ttest_1samp(gap, 0.0)
    assert block_test(gap, np.ones(10)) == pytest.approx((found.statistic, found.pvalue))
