"""What to do next stands in every format of a scan, in its words."""

from __future__ import annotations

from pathlib import Path

import pytest

import golden_almanac as ga
from tests.attacks.kit import texts
from tests.conftest import monthly


@pytest.fixture(scope="module")
def scan() -> ga.Scan:
    falling = [200.0 * 0.97**month for month in range(30)]
    frame = monthly({"a": falling, "b": [150.0] * 30, "c": [120.0] * 30}, rows=8, noise=0.05)
    scan = ga.scan(frame)
    assert scan.suggestions(3)
    return scan


@pytest.mark.parametrize("ending", ["html", "md", "pdf", "docx", "pptx", "xlsx", "eml"])
def test_what_to_do_next_stands_in_every_format(scan: ga.Scan, ending: str, tmp_path: Path) -> None:
    path = tmp_path / f"report.{ending}"
    scan.report().write(path)
    told = " ".join("\n".join(text for _, text in texts(path)).replace("=\n", "").split())
    assert "What to do next" in told
    for one in scan.suggestions(3):
        assert " ".join(one.text.split()[:4]) in told
