"""Chance says nothing, whatever kind is asked; a story is told once."""

from __future__ import annotations

import pytest

import golden_almanac as ga
from golden_almanac.analysis import detectors
from tests.analysis.detectors.tables import desks, plain, told
from tests.conftest import monthly


def test_a_child_is_told_and_its_parent_folded() -> None:
    flat, rise = [100.0] * 36, [100 * 1.02**month for month in range(36)]
    frame = monthly({"p1": rise, "p2": flat, "q1": flat, "q2": flat, "r1": flat, "r2": flat}, noise=0.15)
    frame["area"] = frame["group"].str[0]
    scan = ga.scan(frame, kinds=["trend"])
    told = {f.where.label for f in scan.findings if f.where.conditions}
    assert "p1" in told
    assert "p" not in told


def test_noise_stays_silent() -> None:
    """No more than one in fifty tables of chance says anything."""
    told = [seed for seed in range(50) if ga.scan(plain(3000, seed=100 + seed)).findings]
    assert len(told) <= 1, told


@pytest.mark.parametrize("kind", detectors.kinds())
def test_chance_says_nothing_to_any_kind(kind: str) -> None:
    for seed in range(2):
        assert told(desks(4000, seed), kind) == []
