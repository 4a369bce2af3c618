"""The whole report of a table: what happened first, why, what to expect; nothing made of noise; no part told twice."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga
from golden_almanac.reports.brief_model import brief_schema

from ..commands import run
from ..editions.ferry_log import crossings, desk


@pytest.fixture(scope="module")
def whole() -> ga.Report:
    return ga.report(ga.read(crossings(), name="crossings.csv"))


def test_it_opens_with_what_happened_and_goes_on_to_what_is_to_be_expected(whole: ga.Report) -> None:
    model = whole.model
    parts = [section.part for section in model.sections if section.part]
    assert parts == ["What changed in June 2025, and why", "Over the longer run", "What goes with wait",
                     "What is to be expected"]  # fmt: skip
    # South stepped up a year before the period: that happened; the month itself is within its usual range.
    assert model.summary.headline.startswith("Fare of South stepped up in June 2024")
    told = [model.summary.headline, *model.summary.bullets]
    assert any("is expected to come to" in text for text in told)
    assert any(text.startswith("Wait is") and "South" in text for text in told)
    assert len(told) == len(set(told))
    claims = [section.claim for section in model.sections]
    assert len(claims) == len(set(claims))
    assert model.summary.words <= 150


def test_its_figures_are_those_of_the_rows(whole: ga.Report) -> None:
    frame = crossings()
    month = frame["date"].dt.strftime("%Y-%m")
    now, year, before = (frame.loc[month == one, "fare"].sum() for one in ("2025-06", "2024-06", "2025-05"))
    table = next(section.table for section in whole.model.sections if section.id == "figures")
    assert table is not None
    row = table[table["Measure"] == "Fare"].iloc[0]
    for name, value in (("June 2025", now), ("June 2024", year), ("May 2025", before)):
        assert row[name] == f"{round(value, -1 if value < 10_000 else -2):,.0f}"
    assert row["Change from June 2024"].replace("\u2212", "-") == f"{100 * (now / year - 1):+.1f}%"[
        : -2 if abs(now / year - 1) >= 0.0995 else None
    ].rstrip(".") + ("%" if abs(now / year - 1) >= 0.0995 else "")
    found = json.loads(whole.json())
    kinds = [one["kind"] for one in found["findings"]]
    assert {"shift", "change", "forecast"} <= set(kinds)
    for section in whole.model.sections:
        if section.path:
            at = int(section.path.partition("[")[2].partition("]")[0])
            assert found["findings"][at]["headline"] == section.claim


def test_every_figure_of_its_table_has_its_check(whole: ga.Report) -> None:
    section = next(section for section in whole.model.sections if section.id == "figures")
    assert section.table is not None
    row = ga.read(crossings(), name="crossings.csv").sql(section.sql).iloc[0]
    assert len(section.expect) == 3 * len(section.table)
    for name, value in section.expect:
        assert float(row[name]) == pytest.approx(float(value))
    frame = crossings()
    june = frame.loc[frame["date"].dt.strftime("%Y-%m") == "2025-06", "wait_min"].mean()
    assert row["average wait, June 2025"] == pytest.approx(june)


def test_what_is_dropped_leaves_the_summary_and_parts_keep_their_names(whole: ga.Report) -> None:
    first = whole.model.sections[[section.part for section in whole.model.sections].index("Over the longer run")]
    kept = whole.drop(first.id)
    assert first.claim not in [kept.model.summary.headline, *kept.model.summary.bullets]
    parts = [section.part for section in kept.model.sections if section.part]
    assert ("Over the longer run" in parts) == any(section.level == 3 for section in whole.model.sections[4:6])
    without = whole.drop("forecast", "forecast-figures")
    assert not any("expected to come to" in text for text in without.model.summary.bullets)


@pytest.mark.parametrize("seed", range(6))
def test_of_noise_it_says_that_nothing_is_out_of_the_ordinary(seed: int) -> None:
    random = np.random.default_rng(seed)
    days = pd.date_range("2022-01-01", "2024-12-31")
    frame = pd.DataFrame({
        "date": days.repeat(3), "berth": np.tile(["A", "B", "C"], len(days)),
        "fee": random.gamma(40, 1, 3 * len(days)).round(2), "wait_min": random.gamma(4, 2, 3 * len(days)).round(1),
    })  # fmt: skip
    model = ga.report(ga.read(frame, name="berths")).model
    assert model.summary.headline.startswith(("Nothing is out of the ordinary in December 2024", "Fee was"))
    assert not any(section.id.startswith(("trend", "shift", "spike")) for section in model.sections)


def test_a_table_without_dates_has_a_report_too() -> None:
    frame = crossings().drop(columns="date")
    model = ga.report(ga.read(frame, name="late")).model
    assert "No column holds dates" in " ".join(model.caveats)


def test_the_command_publishes_a_table_and_a_first_brief_runs(tmp_path: Path) -> None:
    desk(tmp_path)
    source = tmp_path / "crossings.csv"
    done = run("publish", source, "--out", tmp_path / "page", "--format", "html", "--title", "June")
    assert done.returncode == 0, done.stderr
    assert done.stdout.splitlines()[0].startswith("Fare of South stepped up")
    assert (tmp_path / "page" / "report.html").exists()
    assert run("publish", source, "--as-of", "2025-01-31").returncode == 2
    assert run("publish", source, "--format", "exe").returncode == 2
    written = run("brief", source, "--out", tmp_path / "first.toml")
    assert written.returncode == 0, written.stderr
    text = (tmp_path / "first.toml").read_text("utf-8")
    assert text.startswith("#:schema ./golden-almanac-brief.schema.json\n")
    assert "avg(wait_min)" in text
    assert run("brief", source, "--out", tmp_path / "first.toml").returncode == 2
    edition = ga.publish_brief(tmp_path / "first.toml")
    assert edition.name == "2025-06-30"


def test_the_schema_that_is_shipped_is_that_of_the_models() -> None:
    root = Path(__file__).parents[2]
    assert (root / "docs" / "golden-almanac-brief.schema.json").read_text("utf-8") == brief_schema()
    assert json.loads(run("brief", "--schema").stdout)["properties"]["source"]


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ('titel = "x"', r"Line 2: The key of the brief.*'titel'.*title"),
        ('[[measure]]\nsql = "sum(fare)"\ntarget = "much"', r"Line 4: target in \[\[measure\]\] 1.*a number"),
        ('[[alert]]\nname = "x"', r"Line 2: \[\[alert\]\] 1.*when, unusual and kind"),
        ("[calendar]\nfiscal_start = 13", r"Line 3: fiscal_start in \[calendar\].*from 1 to 12"),
        ('audience = "king"', r"Line 2: audience in the brief.*one of board, manager, analyst"),
        ('[[section]]\nnote = "x"\nsize = 2', r"Line 4: size in \[\[section\]\] 1.*0.3 to 1"),
        ("by = [1]", r"Line 2: by in the brief.*text"),
    ],
)
def test_what_a_brief_may_not_say_is_named_with_its_line(text: str, told: str, tmp_path: Path) -> None:
    brief = tmp_path / "b.toml"
    brief.write_text(f'source = "crossings.csv"\n{text}\n', "utf-8")
    with pytest.raises(ga.RequestError, match=told):
        ga.read_brief(brief)


def test_measures_and_dimensions_of_a_brief_are_called_and_aimed_as_it_says(tmp_path: Path) -> None:
    brief = desk(
        tmp_path,
        'source = "crossings.csv"\nby = ["quay"]\n[[measure]]\nsql = "sum(fare)"\nname = "takings"\ntarget = 5000\n'
        '[[measure]]\nsql = "avg(wait_min)"\nunit = "min"\nbetter = "down"\n'
        '[[dimension]]\ncolumn = "quay"\nlabels = { South = "South Quay" }\n'
        '[[note]]\nfrom = 2024-06-03\nnote = "a second boat"\nwhere = { quay = "South" }\n',
    )
    report = ga.report(ga.read_brief(brief))
    assert report.model.summary.headline.startswith("Takings of South Quay stepped up")
    table = report.model.sections[0].table
    assert table is not None
    assert table["Target"].tolist() == ["5,000", "–"]
    assert "min" in table.iloc[1, 1]
    told = " ".join(text for section in report.model.sections for _, text in section.evidence)
    assert "a second boat" in told
