"""What every detector must bear, whatever table it is given."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga
from golden_almanac.analysis import detectors
from golden_almanac.analysis.scan_pipeline import survey_of
from golden_almanac.findings import Candidate
from tests.analysis.detectors.tables import plain, planted

KINDS = sorted(detectors.kinds())
TESTS = Path(__file__).parent


def detect(kind: str, frame: pd.DataFrame, **options: object) -> list[Candidate]:
    survey = survey_of(ga.read(frame), measures=None, by=None, time=None, grain=None)
    detector = detectors.load(kind)
    line = survey.timeline
    if detector.kind.needs_time and (line is None or line.complete_count < detector.kind.least_periods):
        return []
    return list(detector.detect(survey))


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize(
    "frame",
    [
        plain().head(2),
        plain().assign(amount=5.0, rate=1.0),
        plain().assign(amount=np.nan),
        plain().assign(shop="only"),
        plain().assign(date=pd.NaT),
        plain().drop(columns=["date"]),
        plain().drop(columns=["shop", "area"]),
        plain().assign(amount=0.0),
        plain().assign(amount=-1.0),
        plain().head(40),
        plain().assign(amount=lambda f: np.where(f.index % 2 == 0, 1e15, 1e-9)),
        plain().assign(amount=np.where(np.arange(len(plain())) % 7 == 0, np.nan, 3.0)),
    ],
    ids=[
        "two rows",
        "constants",
        "all missing",
        "one label",
        "no dates left",
        "no dates",
        "no dimensions",
        "noughts",
        "negative",
        "forty rows",
        "fifteen orders of magnitude",
        "holes",
    ],
)
def test_odd_tables_are_borne(kind: str, frame: pd.DataFrame) -> None:
    for one in detect(kind, frame):
        assert 0 <= one.p <= 1
        assert 0 <= one.strength <= 1
        assert 0 <= one.reach <= 1
        assert one.kind.name == kind
        assert one.direction in (None, "up", "down", "flat")


@pytest.mark.parametrize("kind", KINDS)
def test_twice_is_the_same_and_the_input_is_unchanged(kind: str) -> None:
    frame = planted()
    before = frame.copy(deep=True)
    first, second = detect(kind, frame), detect(kind, frame)
    assert [(one.key, one.p) for one in first] == [(one.key, one.p) for one in second]
    pd.testing.assert_frame_equal(frame, before)


@pytest.mark.parametrize("kind", [kind for kind in KINDS if kind != "outlier"])
def test_order_of_rows_does_not_matter(kind: str) -> None:
    frame = planted()
    shuffled = frame.sample(frac=1, random_state=3).reset_index(drop=True)
    one = {c.key: c.p for c in detect(kind, frame)}
    two = {c.key: c.p for c in detect(kind, shuffled)}
    assert one.keys() == two.keys()
    for key, p in one.items():
        assert two[key] == pytest.approx(p, rel=1e-6, abs=1e-12)


@pytest.mark.parametrize("kind", KINDS)
def test_every_check_agrees(kind: str) -> None:
    frame = planted()
    table = ga.read(frame)
    for one in detect(kind, frame):
        if one.check is None:
            assert not one.large
            continue
        assert one.check.run(table).agrees, one.key


# --- what a kind declares, and where its other files are ------------------------------------------


def lacking(kind: str) -> list[str]:
    """What a kind of finding still lacks, by the declaration in its detector's file."""
    declared = detectors.kinds()[kind]
    room = Path(ga.__file__).parent
    missing = []
    for file, holds in (
        (room / "analysis" / "detectors" / f"{kind}.py", f"class {declared.detector}"),
        (room / "text" / "kinds" / f"{kind}.py", "message"),
        (room / "text" / "kinds" / f"{kind}.py", f'NAME = mark("{kind}", "kind")'),
        (room / "charts" / "kinds" / f"{kind}.py", "def draw("),
        (TESTS / f"test_{kind}.py", "def test_"),
        (TESTS.parents[2] / "docs" / "findings.md", f"## {kind}\n"),
    ):
        if not file.is_file() or holds not in file.read_text("utf-8"):
            missing.append(f"{file.parent.name}/{file.name}: {holds.strip()}")
    if not declared.figures or not all(declared.figures.values()):
        missing.append("the meaning of its figures")
    if not 0 < declared.interest <= 1 or not 0 < declared.weight <= 1:
        missing.append("interest and weight between nought and one")
    return missing


@pytest.mark.parametrize("kind", KINDS)
def test_a_kind_lacks_nothing(kind: str) -> None:
    assert lacking(kind) == []
    detector = detectors.load(kind)
    assert detector.kind.name == kind
    assert type(detector).__name__ == detector.kind.detector
    if detector.kind.floor is not None:
        assert getattr(detectors.load(kind, 0.125), detector.kind.floor.setting) == 0.125


def test_every_figure_of_a_finding_is_declared_with_its_meaning(
    demo_scan: ga.Scan, planted_scan: ga.Scan, sailings: Path
) -> None:
    change = ga.explain_change(sailings, "sum(revenue)").findings
    found = [*demo_scan.findings, *demo_scan.folded, *planted_scan.findings, *planted_scan.folded, *change]
    assert sorted({(one.kind, name) for one in found for name in set(one.figures) - set(one.definition.figures)}) == []


def test_the_page_of_findings_says_what_each_figure_means() -> None:
    page = (TESTS.parents[2] / "docs" / "findings.md").read_text("utf-8")
    for kind in detectors.kinds().values():
        section = page.split(f"## {kind.name}\n", 1)[1].split("\n## ", 1)[0]
        assert kind.what.capitalize() in section
        assert re.findall(r"^- `(\w+)`: (.+)$", section, re.MULTILINE) == list(kind.figures.items())
