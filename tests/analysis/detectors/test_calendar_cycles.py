"""The cycles of the week and the month: the test is that of SciPy."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from golden_almanac.stats.friedman import friedman


@given(st.integers(0, 10_000), st.integers(3, 7), st.integers(5, 60))
def test_friedman_is_that_of_scipy_turned_into_f(seed: int, k: int, b: int) -> None:
    values = np.random.default_rng(seed).normal(size=(b, k))
    chi = stats.friedmanchisquare(*values.T).statistic
    f, p = friedman(values)
    wanted = (b - 1) * chi / (b * (k - 1) - chi)  # Iman & Davenport (1980)
    assert f == pytest.approx(wanted, rel=1e-9)
    assert p == pytest.approx(stats.f.sf(wanted, k - 1, (b - 1) * (k - 1)), rel=1e-9)
