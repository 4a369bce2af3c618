"""Verification of what tests of every figure do not reach: findings of no measure, other versions, the folder above."""

from __future__ import annotations

import json
import re
from pathlib import Path

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga

from .ferry_log import desk


@pytest.fixture(scope="module")
def published(tmp_path_factory: pytest.TempPathFactory) -> ga.Edition:
    """An edition in which something is told of two columns, and so of no measure."""
    brief = desk(tmp_path_factory.mktemp("elsewhere"))
    path = brief.parent / "crossings.csv"
    frame = pd.read_csv(path)
    frame["load_kg"] = (900 + 40 * frame["wait_min"] + np.random.default_rng(3).normal(0, 20, len(frame))).round(1)
    frame.to_csv(path, index=False)
    text = brief.read_text("utf-8").replace('"avg(wait_min)"]', '"avg(wait_min)", "avg(load_kg)"]')
    brief.write_text(text, "utf-8")
    return ga.publish_brief(brief)


def test_findings_of_no_measure_are_verified_too(published: ga.Edition) -> None:
    told = json.loads((published.folder / "findings.json").read_text("utf-8"))["findings"]
    assert any(one["measure"] is None for one in told)
    assert ga.verify(published).agrees


def test_other_versions_may_have_other_last_digits(published: ga.Edition) -> None:
    record, findings = published.folder / "edition.json", published.folder / "findings.json"
    kept = record.read_text("utf-8"), findings.read_text("utf-8")
    long = next(one for one in re.findall(r"\d\.\d{13,}", kept[1]) if one[-1] != "1")
    try:
        findings.write_text(kept[1].replace(long, long[:-1] + "1", 1), "utf-8")
        assert not ga.verify(published).agrees
        told = json.loads(kept[0])
        told["versions"]["numpy"] = "0.0"
        record.write_text(json.dumps(told, indent=1, ensure_ascii=False), "utf-8")
        found = ga.verify(published)
        assert found.agrees, found.differences
        assert "numpy 0.0" in found.notes[0]
        # A figure that differs in what a person reads is one.
        other = str(9 - int(long[4]))
        findings.write_text(kept[1].replace(long, long[:4] + other + long[5:], 1), "utf-8")
        assert not ga.verify(published).agrees
    finally:
        record.write_text(kept[0], "utf-8")
        findings.write_text(kept[1], "utf-8")


def test_the_folder_of_editions_is_no_edition(published: ga.Edition) -> None:
    with pytest.raises(ga.SourceError, match=f"holds editions: name one of them, such as .*{published.folder.name}"):
        ga.verify(Path(published.folder).parent)
