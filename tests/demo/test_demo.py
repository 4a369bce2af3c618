"""The made-up company: the same bytes everywhere, and its stories are found."""

from __future__ import annotations

import csv
import hashlib
import os
import subprocess
import sys
from collections import Counter
from pathlib import Path

import pytest

import golden_almanac as ga
from golden_almanac.demo import COLUMNS, sailings_csv, stories


@pytest.fixture(scope="module")
def rows(sailings: Path) -> list[dict[str, str]]:
    return list(csv.DictReader(sailings.read_text(encoding="utf-8").splitlines()))


def test_shape(rows: list[dict[str, str]]) -> None:
    assert tuple(rows[0]) == COLUMNS
    assert 24_000 < len(rows) < 27_000
    counts = {name: len({row[name] for row in rows}) for name in ("route", "region", "vessel", "fare_class", "channel")}
    assert counts == {"route": 6, "region": 3, "vessel": 9, "fare_class": 4, "channel": 3}
    assert (int(rows[-1]["date"][:4]) - int(rows[0]["date"][:4])) >= 3


def test_rows_make_sense(rows: list[dict[str, str]]) -> None:
    for row in rows:
        assert 0 <= int(row["passengers"]) <= int(row["capacity"])
        if row["cancelled"] == "yes":
            assert (row["passengers"], row["delay_min"], row["on_time"]) == ("0", "", "")
        else:
            assert row["on_time"] == ("yes" if int(row["delay_min"]) <= 10 else "no")
    assert len({row["sailing_id"] for row in rows}) == len(rows)


def test_the_storm_and_the_slip_are_there(rows: list[dict[str, str]]) -> None:
    storm = [row["cancelled"] == "yes" for row in rows if "2025-02-10" <= row["date"] <= "2025-02-16"]
    other = [row["cancelled"] == "yes" for row in rows if not "2025-02-10" <= row["date"] <= "2025-02-16"]
    assert sum(storm) / len(storm) > 0.45
    assert sum(other) / len(other) < 0.02
    slip = [row for row in rows if float(row["fuel_cost"]) > 10_000]
    assert [(row["date"], row["route"]) for row in slip] == [("2025-03-18", "Castle Reach")]


def test_neither_route_of_the_outer_isles_became_less_punctual(rows: list[dict[str, str]]) -> None:
    """An independent count: the region falls, its routes do not."""
    tally: dict[tuple[str, str], Counter[str]] = {}
    for row in rows:
        if row["region"] == "Outer Isles" and row["on_time"]:
            year = "early" if row["date"] < "2023-09" else "late" if row["date"] >= "2024-10" else ""
            for name in ("whole", row["route"]):
                tally.setdefault((name, year), Counter())[row["on_time"]] += 1

    def rate(name: str, year: str) -> float:
        return tally[name, year]["yes"] / tally[name, year].total()

    assert rate("whole", "late") < rate("whole", "early") - 0.02
    for route in ("Outer Bar", "Tern Rock"):
        assert abs(rate(route, "late") - rate(route, "early")) < 0.02


def test_the_same_bytes_under_another_hash_seed_and_time_zone() -> None:
    here = hashlib.sha256(sailings_csv()).hexdigest()
    code = "import hashlib; from golden_almanac.demo import sailings_csv as s; print(hashlib.sha256(s()).hexdigest())"
    env = {**os.environ, "PYTHONHASHSEED": "77", "TZ": "Pacific/Auckland"}
    there = subprocess.run(
        [sys.executable, "-c", code], env=env, capture_output=True, text=True, check=True
    ).stdout.strip()
    assert here == there


def tells(finding: ga.Finding, story: dict[str, object]) -> bool:
    name = finding.measure.name if finding.measure else ""
    measures = story["measures"]
    assert isinstance(measures, list)
    right_measure = name in measures or finding.figures.get("column") in measures
    places = [story["where"], story.get("mirror", story["where"])]
    where = {column: labels[0] for column, labels in finding.where.to_dict().items()}
    if finding.kind == "outlier":
        return right_measure and finding.figures["date"] == story.get("day")
    return finding.kind in story["kinds"] and right_measure and where in places  # type: ignore[operator]


def test_at_least_five_stories_are_among_the_first_ten_findings(demo_scan: ga.Scan) -> None:
    told = {story["id"] for story in stories()["story"] for one in demo_scan.findings[:10] if tells(one, story)}
    told |= {"partial-october"} if any("October 2025 is unfinished" in text for text in demo_scan.caveats()) else set()
    assert {
        "season",
        "shearwater-joins",
        "hundredfold-fuel",
        "peak-fares",
        "agents-fade",
        "outer-isles-punctuality",
        "partial-october",
    } <= told


def test_more_stories_are_found_further_down(demo_scan: ga.Scan) -> None:
    for name in ("outer-bar-grows", "petrel-late"):
        story = next(story for story in stories()["story"] if story["id"] == name)
        assert any(tells(one, story) for one in demo_scan.findings), name


def test_the_storm_is_found_as_one_week_and_the_new_ship_by_its_first_rows(demo_scan: ga.Scan) -> None:
    (storm,) = (one for one in demo_scan.findings if one.kind == "spike")
    assert storm.period is not None
    assert str(storm.period.start) == "2025-02-10"
    assert "cancelled rate was 61.9% (1.6% around it)" in storm.detail
    (ship,) = (one for one in demo_scan.findings if one.kind == "gap")
    assert ship.headline.startswith("Shearwater has sailings only since May 2024")


def test_the_punctuality_of_the_outer_isles_is_explained_by_mix(demo_scan: ga.Scan) -> None:
    one = next(f for f in demo_scan.findings if f.where.label == "Outer Isles" and f.kind == "trend")
    why = one.figures["why"]
    assert (why["how"], why["by"], why["lead"]["label"]) == ("mix", "route", "Outer Bar")
    assert why["mix"] / why["change"] > 0.8
    assert "mix" in one.detail


def test_no_noise_column_is_in_any_claim(demo_scan: ga.Scan) -> None:
    for one in (*demo_scan.findings, *demo_scan.folded):
        for column in stories()["noise"]["columns"]:
            assert column not in (one.by, one.measure.name if one.measure else "")
            assert column not in one.figures.get("columns", ())
            assert f"({column})" not in (one.measure.name if one.measure else "")
