"""Medians as NumPy has them, to the bit."""

from __future__ import annotations

import numpy as np
import pytest

from golden_almanac.stats.plain_medians import known_median, median


@pytest.mark.parametrize("shape", [(1,), (2,), (7,), (3, 4), (5, 6), (2, 1)])
@pytest.mark.parametrize("axis", [0, -1])
def test_they_are_those_of_numpy(shape: tuple[int, ...], axis: int) -> None:
    values = np.random.default_rng(sum(shape)).normal(size=shape) * 1e3
    assert np.array_equal(median(values, axis), np.median(values, axis=axis))


@pytest.mark.parametrize("shape", [(1,), (2,), (7,), (3, 4), (5, 6), (2, 1)])
@pytest.mark.parametrize("axis", [0, -1])
@pytest.mark.filterwarnings("ignore:All-NaN")
def test_missing_values_are_left_out(shape: tuple[int, ...], axis: int) -> None:
    random = np.random.default_rng(sum(shape))
    for share in (0.0, 0.3, 0.8, 1.0):
        values = np.where(random.random(shape) < share, np.nan, random.normal(size=shape))
        assert np.array_equal(known_median(values, axis), np.nanmedian(values, axis=axis), equal_nan=True)
