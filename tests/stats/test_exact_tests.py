"""Exact tests of counts, held to another library's."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from golden_almanac.stats.exact_tests import fisher_p, rates_p

_COUNT = st.integers(0, 60)


@given(_COUNT, st.integers(1, 500), _COUNT, st.integers(1, 500))
def test_rates_are_compared_by_the_binomial(events: int, exposed: int, others: int, beside: int) -> None:
    n, chance = events + others, exposed / (exposed + beside)
    tails = [stats.binom.cdf(events, n, chance), stats.binom.sf(events - 1, n, chance)]
    assert rates_p(events, exposed, others, beside) == pytest.approx(min(1.0, 2 * min(tails)), rel=1e-9, abs=1e-15)


@given(_COUNT, st.integers(1, 500), _COUNT, st.integers(1, 500))
def test_either_rate_may_come_first(events: int, exposed: int, others: int, beside: int) -> None:
    assert rates_p(events, exposed, others, beside) == pytest.approx(rates_p(others, beside, events, exposed))


@given(_COUNT, _COUNT, _COUNT, _COUNT)
def test_yes_and_no_are_compared_by_fisher(a: int, b: int, c: int, d: int) -> None:
    table = np.array([[a, b], [c, d]])
    assert fisher_p(table.astype(float)) == pytest.approx(stats.fisher_exact(table)[1], rel=1e-6)
