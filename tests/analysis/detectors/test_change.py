"""The kind "change": what is planted is found with its size, what is none is not."""

from __future__ import annotations

import pytest

from tests.analysis.detectors.tables import told
from tests.conftest import monthly


def level(last: float) -> list[float]:
    """Thirty months about 600, the last as given."""
    return [600 + 6 * ((7 * month) % 5 - 2) for month in range(29)] + [last]


def test_a_month_unlike_all_before_is_told() -> None:
    found = told(monthly({"a": level(420)}), "change")
    assert [one.measure.name for one in found if one.measure] == ["sum(amount)"]
    assert found[0].figures["value"] == pytest.approx(420)
    assert found[0].figures["change"] == pytest.approx(420 - level(420)[17])
    assert found[0].direction == "down"


def test_a_usual_month_is_not() -> None:
    assert told(monthly({"a": level(606)}), "change") == []
