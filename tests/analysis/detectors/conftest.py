"""One scan of the planted table for all tests of kinds."""

from __future__ import annotations

import pytest

import golden_almanac as ga
from tests.analysis.detectors.tables import planted


@pytest.fixture(scope="session")
def planted_scan() -> ga.Scan:
    return ga.scan(planted())
