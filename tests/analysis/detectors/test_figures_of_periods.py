"""Tables that are summed up already, a row a period: a period that is far off is told, and noise is not."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga


def _scan(values: np.ndarray, **more: object) -> ga.Scan:
    frame = pd.DataFrame(
        {"month": pd.date_range("2015-01-01", periods=len(values), freq="MS"), "income": values, **more}
    )
    return ga.scan(ga.read(frame, name="summed"), measures=["sum(income)"], kinds=["spike"])


@pytest.mark.parametrize("size", [36, 60, 120])
@pytest.mark.parametrize("up", [1, -1])
def test_a_month_far_off_is_told_of_a_row_a_month(size: int, up: int) -> None:
    values = 100 + np.random.default_rng(size).normal(0, 2, size)
    values[size - 9] += up * 45
    found = _scan(values).findings
    assert [one.kind for one in found] == ["spike"]
    assert found[0].figures["value"] == pytest.approx(values[size - 9])
    assert found[0].check().agrees


def test_noise_of_many_kinds_has_no_month_far_off() -> None:
    random = np.random.default_rng(99)
    told = 0
    for turn in range(24):
        size = (40, 80, 120)[turn % 3]
        noise = random.normal(size=size)
        series = (
            100 + 5 * noise, 200 + 2 * np.cumsum(noise), 100 * np.exp(0.3 * noise),
            100 + 2.0 * np.arange(size) + 6 * noise,
        )[turn % 4]  # fmt: skip
        told += bool(_scan(series).findings)
    assert told <= 1
