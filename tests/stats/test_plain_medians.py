"""Medians as NumPy has them, to the bit."""

from __future__ import annotations

import numpy as np
import pytest

from golden_almanac.stats.plain_medians import median


@pytest.mark.parametrize("shape", [(1,), (2,), (7,), (3, 4), (5, 6), (2, 1)])
@pytest.mark.parametrize("axis", [0, -1])
def test_they_are_those_of_numpy(shape: tuple[int, ...], axis: int) -> None:
    values = np.random.default_rng(sum(shape)).normal(size=shape) * 1e3
    assert np.array_equal(median(values, axis), np.median(values, axis=axis))
