"""Editions: the same bytes for the same source, an earlier one again, what changed between two, what people edit."""

from __future__ import annotations

import json
import sqlite3
from pathlib import Path

import pandas as pd
import pytest

import golden_almanac as ga

from ..commands import run
from .ferry_log import BRIEF, crossings, desk, tree


@pytest.fixture(scope="module")
def two(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, ga.Edition, ga.Edition]:
    """A brief, and its editions of May and June."""
    brief = desk(tmp_path_factory.mktemp("two") / "desk")
    return brief, ga.publish_brief(brief, as_of="2025-05-31"), ga.publish_brief(brief)


def test_an_edition_holds_all_that_it_was_made_of(two: tuple[Path, ga.Edition, ga.Edition]) -> None:
    brief, _, june = two
    names = set(tree(june.folder))
    assert {"report.html", "findings.json", "words.md", "brief.toml", "repairs.json", "edition.json"} <= names
    assert (june.folder / "brief.toml").read_text("utf-8") == BRIEF
    assert june.name == "2025-06-30"
    record = json.loads((june.folder / "edition.json").read_text("utf-8"))
    assert record["previous"] == "2025-05-31"
    assert record["source"]["rows"] == len(crossings())
    totals = pd.read_csv(june.folder / "cells" / "totals.csv")
    frame = crossings()
    month = frame.groupby(frame["date"].dt.strftime("%Y-%m-01"))["fare"].sum()
    told = totals[totals["measure"] == "sum(fare)"].set_index("start")["value"]
    assert told.to_dict() == pytest.approx(month.to_dict())
    listed = ga.editions(brief)
    assert listed["edition"].tolist() == ["2025-05-31", "2025-06-30"]
    assert listed["headline"].iloc[-1] == june.headline
    with sqlite3.connect(june.folder.parent / "editions.sqlite") as index:
        assert index.execute("SELECT edition FROM editions ORDER BY 1").fetchall() == [("2025-05-31",), ("2025-06-30",)]


def test_the_same_source_and_brief_give_the_same_bytes(two: tuple[Path, ga.Edition, ga.Edition]) -> None:
    brief, may, june = two
    before = tree(june.folder), tree(may.folder)
    ga.publish_brief(brief)
    ga.publish_brief(brief, as_of="2025-05-31")
    assert (tree(june.folder), tree(may.folder)) == before


def test_an_earlier_edition_is_what_it_would_have_been_on_its_day(
    two: tuple[Path, ga.Edition, ga.Edition], tmp_path: Path
) -> None:
    _, may, _ = two
    then = ga.publish_brief(desk(tmp_path / "desk", last="2025-05-31"))
    assert tree(then.folder) == tree(may.folder)


def test_another_brief_for_the_same_day_makes_a_second_edition(tmp_path: Path) -> None:
    brief = desk(tmp_path)
    first = ga.publish_brief(brief)
    kept = tree(first.folder)
    brief.write_text(BRIEF.replace("Crossings, monthly", "Crossings of the month"), encoding="utf-8")
    second = ga.publish_brief(brief)
    assert second.name == "2025-06-30-2"
    assert tree(first.folder) == kept
    assert ga.editions(brief)["edition"].tolist() == ["2025-06-30", "2025-06-30-2"]


def test_what_the_source_restated_and_what_goes_on_is_told(tmp_path: Path) -> None:
    brief = desk(tmp_path, last="2025-04-30")
    frame = crossings("2025-04-30")
    was = frame.loc[frame["date"].dt.strftime("%Y-%m") == "2025-02", "fare"].sum()
    ga.publish_brief(brief)
    desk(tmp_path, last="2025-05-31")
    ga.publish_brief(brief)
    frame = crossings()
    late = (frame["date"].dt.strftime("%Y-%m") == "2025-02") & (frame["quay"] == "North")
    frame.loc[late, "fare"] = (frame.loc[late, "fare"] * 1.5).round(2)
    now = frame.loc[frame["date"].dt.strftime("%Y-%m") == "2025-02", "fare"].sum()
    frame.to_csv(tmp_path / "crossings.csv", index=False)
    edition = ga.publish_brief(brief)
    text = (edition.folder / "words.md").read_text("utf-8")
    assert f"Fare in February 2025 was {was:,.0f} in the last edition and is {now:,.0f} now." in text
    assert "Going on for 3 editions" in text
    record = json.loads((edition.folder / "edition.json").read_text("utf-8"))
    assert max(one["editions"] for one in record["told"].values()) == 3


def _written(edition: ga.Edition, change: dict[str, str]) -> Path:
    words = edition.folder / "words.md"
    text = words.read_text("utf-8")
    for old, new in change.items():
        assert old in text, text
        text = text.replace(old, new, 1)
    words.write_text(text, "utf-8")
    return words


def _claim(edition: ga.Edition, key: str) -> str:
    lines = (edition.folder / "words.md").read_text("utf-8").splitlines()
    return lines[lines.index(f"<!-- section {key} -->") + 1]


def test_what_people_change_is_kept_and_marked_when_its_facts_change(tmp_path: Path) -> None:
    brief = desk(tmp_path, BRIEF.replace('"html"', '"md"'), last="2025-05-31")
    may = ga.publish_brief(brief)
    headline = _claim(may, "series")
    _written(may, {
        headline: "## Fares of {{ fare.period }} came to {{ fare.value | amount }}, of which 12 by bank.\n"
        "> Ana: the bank was closed on the 3rd.",
        "<!-- Golden Almanac -->": "## What the harbour master says\n\nThe quay is full.\n\n<!-- Golden Almanac -->",
    })  # fmt: skip
    again = ga.publish_brief(brief, as_of="2025-05-31")
    desk(tmp_path, BRIEF.replace('"html"', '"md"'))
    june = ga.publish_brief(brief)
    for edition, month in ((again, "2025-05"), (june, "2025-06")):
        text = (edition.folder / "report.md").read_text("utf-8")
        frame = crossings()
        value = frame.loc[frame["date"].dt.strftime("%Y-%m") == month, "fare"].sum()
        name = pd.Period(month).strftime("%B %Y")
        assert f"Fares of {name} came to {value:,.0f}"[:-3] in text
        assert "of which 12 by bank" in text
        assert "Remark of Ana: the bank was closed on the 3rd." in text
        assert "What the harbour master says" in text
        assert ("To be reviewed" in text) == (month == "2025-06")
    assert any("To be reviewed" in text for text in june.notices)
    assert ga.verify(june).agrees


def test_a_words_file_that_is_gone_is_written_again(tmp_path: Path) -> None:
    brief = desk(tmp_path)
    edition = ga.publish_brief(brief)
    before = tree(edition.folder)
    (edition.folder / "words.md").unlink()
    ga.publish_brief(brief)
    assert tree(edition.folder) == before


def test_a_section_taken_out_stays_out_and_leaves_the_summary(tmp_path: Path) -> None:
    brief = desk(tmp_path, last="2025-05-31")
    may = ga.publish_brief(brief)
    text = (may.folder / "words.md").read_text("utf-8")
    place = text.index("<!-- section trend:") if "<!-- section trend:" in text else text.index("<!-- section shift:")
    end = text.index("<!-- ", place + 5)
    told = text[place:end].splitlines()[1].removeprefix("## ")
    (may.folder / "words.md").write_text(text[:place] + text[end:], "utf-8")
    again = ga.publish_brief(brief, as_of="2025-05-31")
    page = (again.folder / "report.html").read_text("utf-8")
    assert told not in page.replace("&#39;", "'")
    desk(tmp_path)
    june = ga.publish_brief(brief)
    key = text[place:].splitlines()[0]
    assert key not in (june.folder / "words.md").read_text("utf-8")


def test_a_correction_says_who_and_why_or_is_refused(tmp_path: Path) -> None:
    brief = desk(tmp_path)
    edition = ga.publish_brief(brief)
    claim = _claim(edition, "series")
    figure = next(word for word in claim.split() if word[0].isdigit())
    words = _written(edition, {claim: f"{claim}\n> Correction by Ana: {figure} → 1,234"})
    before = tree(edition.folder)
    with pytest.raises(ga.SourceError, match=r"line \d+ does not say who, what and why"):
        ga.publish_brief(brief)
    assert tree(edition.folder) == before
    words.write_text(words.read_text("utf-8").replace("→ 1,234", "→ 1,234, because a ticket came late"), "utf-8")
    again = ga.publish_brief(brief)
    page = (again.folder / "report.html").read_text("utf-8")
    assert f"Corrected by Ana: 1,234 in place of {figure} (a ticket came late)." in page


def test_a_source_that_lost_a_column_or_changed_its_type_is_refused_until_accepted(tmp_path: Path) -> None:
    brief = desk(tmp_path, BRIEF.replace('by = ["quay"]\n', ""), last="2025-05-31")
    ga.publish_brief(brief)
    crossings().drop(columns="quay").to_csv(tmp_path / "crossings.csv", index=False)
    with pytest.raises(ga.SourceError, match=r"2025-05-31.*lost the column 'quay'.*--accept"):
        ga.publish_brief(brief)
    assert ga.editions(brief)["edition"].tolist() == ["2025-05-31"]
    assert ga.publish_brief(brief, accept=True).name == "2025-06-30"


def test_an_edition_that_was_tampered_with_is_no_measure_for_the_next(tmp_path: Path) -> None:
    brief = desk(tmp_path, last="2025-05-31")
    may = ga.publish_brief(brief)
    (may.folder / "findings.json").write_text("{}", "utf-8")
    desk(tmp_path)
    with pytest.raises(ga.SourceError, match=r"findings.json.*not as it was published.*verify"):
        ga.publish_brief(brief)


def test_alerts_end_with_status_one_and_a_line(tmp_path: Path) -> None:
    alerts = (
        '[[alert]]\nname = "Fares under a thousand"\nwhen = "sum(fare) < 1000"\n'
        '[[alert]]\nname = "Late by more than a minute"\nwhen = "avg(wait_min) > 1"\n'
        '[[alert]]\nname = "A step"\nkind = "shift"\nmeasure = "sum(fare)"\nwhere = { quay = "South" }\n'
        '[[alert]]\nname = "Out of the ordinary"\nunusual = "sum(fare)"\n'
    )
    brief = desk(tmp_path, BRIEF + alerts, step=0.4)
    done = run("publish", brief, "--quiet")
    assert done.returncode == 1
    lines = done.stdout.splitlines()
    frame = crossings(step=0.4)
    wait = frame.loc[frame["date"].dt.strftime("%Y-%m") == "2025-06", "wait_min"].mean()
    # The figure, not the condition alone.
    told = f"Alert: Late by more than a minute: Average wait {wait:.2f} min (June 2025, avg(wait_min) > 1)."
    assert lines[0] == told
    assert not any("under a thousand" in line for line in lines)
    assert any(line.startswith("Alert: Out of the ordinary: Fare was") for line in lines)
    edition = next((tmp_path / "editions").glob("2025-*"))
    assert "Late by more than a minute" in (edition / "report.html").read_text("utf-8")
    brief.write_text(BRIEF + '[[alert]]\nname = "x"\nwhen = "sum(fares) > 1"\n', encoding="utf-8")
    refused = run("publish", brief)
    assert refused.returncode == 2
    assert "fares" in refused.stderr


def test_mail_goes_out_only_when_an_alert_fires_that_asks_for_it(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    sent: list[str] = []
    monkeypatch.setattr(ga.Report, "send", lambda self, **_: sent.append(self.model.title))
    mail = '[mail]\nhost = "localhost"\nfrom = "a@example.org"\nto = ["b@example.org"]\n'
    alert = '[[alert]]\nname = "{}"\nwhen = "sum(fare) {} 0"\nmail = {}\n'
    for quiet, loud, expected in (("true", "false", 0), ("false", "true", 1)):
        text = BRIEF + mail + alert.format("Never", "<", quiet) + alert.format("Always", ">", loud)
        assert ga.publish_brief(desk(tmp_path / quiet, text)).alerts
        assert len(sent) == expected
    ga.publish_brief(desk(tmp_path / "plain", BRIEF + mail))
    assert len(sent) == 2


def test_a_run_is_logged_as_lines_of_json(tmp_path: Path) -> None:
    brief = desk(tmp_path)
    for _ in range(2):
        done = run("publish", brief, "--log", tmp_path / "runs.jsonl", "-v")
        assert done.returncode == 0, done.stderr
    assert "published 2025-06-30 in" in done.stderr
    lines = [json.loads(line) for line in (tmp_path / "runs.jsonl").read_text("utf-8").splitlines()]
    ends = [line for line in lines if "edition" in line]
    assert [line["edition"] for line in ends] == ["2025-06-30", "2025-06-30"]
    assert ends[0]["rows"] == len(crossings())
    assert ends[0]["bytes"] == ends[1]["bytes"] > 10_000
    assert run("publish", brief, "--log", tmp_path / "no" / "where").returncode == 2


def test_slices_have_a_report_each(tmp_path: Path) -> None:
    brief = desk(tmp_path, 'slices = "quay"\n' + BRIEF)
    names = tree(ga.publish_brief(brief).folder)
    assert "slices/01-North/report.html" in names
    assert b"North" not in names["slices/02-South/report.html"]


def test_what_a_private_column_is_called_stands_nowhere_in_an_edition(tmp_path: Path) -> None:
    brief = desk(tmp_path, 'private = [\n  "Skipper",\n]\n' + BRIEF)
    frame = crossings()
    frame["skipper"] = "Zebulon Ames"
    frame.to_csv(tmp_path / "crossings.csv", index=False)
    edition = ga.publish_brief(brief)
    for name, content in tree(edition.folder).items():
        assert b"skipper" not in content.lower(), name
        assert b"Zebulon" not in content, name
    assert ga.verify(edition).agrees


def test_two_runs_at_once_make_one_whole_edition(tmp_path: Path) -> None:
    import subprocess
    import sys

    brief = desk(tmp_path)
    runs = [
        subprocess.Popen([sys.executable, "-m", "golden_almanac", "publish", str(brief)], stderr=subprocess.PIPE)
        for _ in range(2)
    ]
    assert [one.wait() for one in runs] == [0, 0]
    assert ga.editions(brief)["edition"].tolist() == ["2025-06-30"]
    assert not [path.name for path in (tmp_path / "editions").iterdir() if path.name.startswith(".")]
