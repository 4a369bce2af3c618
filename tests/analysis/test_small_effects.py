"""What is sure but small: silent in a scan of everything, told where its column was asked for by name."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga


@pytest.fixture(scope="module")
def delays() -> pd.DataFrame:
    """A port whose boats are 1.4 minutes later, with a spread of 20, and a crew that makes no difference."""
    rng = np.random.default_rng(3)
    n = 40_000
    port = rng.choice(["Skerry", "Holm", "Ness"], n, p=[0.4, 0.35, 0.25])
    late = rng.gamma(4, 10, n) + np.where(port == "Ness", 1.4, 0.0)
    day = pd.Timestamp("2023-01-01") + pd.to_timedelta(rng.integers(0, 1000, n), unit="D")
    return pd.DataFrame({"day": day, "port": port, "crew": rng.choice(list("ABCD"), n), "delay_minutes": late.round(1)})


def test_a_scan_of_everything_leaves_it_out(delays: pd.DataFrame) -> None:
    assert not ga.scan(delays, measures=["delay_minutes"]).findings


def test_a_column_asked_for_by_name_is_told_it(delays: pd.DataFrame) -> None:
    scan = ga.scan(delays, measures=["delay_minutes"], by=["Port", "crew"])
    (found,) = scan.findings
    assert (found.small, found.by, found.where.label) == (True, "port", "Ness")
    assert found.headline.endswith(": sure, but small.")
    assert "a scan leaves out what is below 0.1 standard deviations of the rows" in found.detail
    assert found.check().agrees
    means = delays.groupby("port")["delay_minutes"].mean()
    assert found.figures["value"] == pytest.approx(means["Ness"])
    assert [one["small"] for one in scan.to_dict()["findings"]] == [True]
    # It is worth knowing, not worth acting on.
    assert not scan.suggestions()


def test_chance_stays_silent_where_it_is_asked_for(delays: pd.DataFrame) -> None:
    told = [
        seed
        for seed in range(12)
        if ga.scan(
            delays.assign(crew=np.random.default_rng(seed).choice(list("ABCD"), len(delays))), by=["crew"]
        ).findings
    ]
    assert len(told) <= 1


def test_what_is_large_needs_no_small(delays: pd.DataFrame) -> None:
    later = delays.assign(delay_minutes=delays["delay_minutes"] + np.where(delays["port"] == "Ness", 9.0, 0.0))
    found = ga.scan(later, by=["port"]).findings
    assert [one.small for one in found] == [False] * max(1, len(found))
