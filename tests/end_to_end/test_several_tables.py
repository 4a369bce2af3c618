"""Several tables, answers and logs at the command line."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from golden_almanac.demo import harbour_workbook
from tests.commands import run


@pytest.fixture(scope="module")
def book(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("harbour") / "harbour-office.xlsx"
    path.write_bytes(harbour_workbook.workbook())
    return path


def test_links_and_a_join(book: Path) -> None:
    done = run("check", book, "--links")
    assert "4 tables, 1 key between them" in done.stdout
    assert "Moorings leads to Vessels on Vessel = Name" in done.stdout
    data = json.loads(run("check", book, "--links", "--json").stdout)
    assert data["links"][0]["on"] == {"Vessel": "Name"}
    joined = run("check", book, "--join", "Vessels", "--sql", "SELECT count(Built) AS n FROM source", "--json")
    assert json.loads(joined.stdout)["rows"] == [{"n": 241}]
    scanned = run("scan", book, "--join", "Vessels on Vessel = Name", "-b", "Register", "--json")
    assert json.loads(scanned.stdout)["request"]["by"] == ["Register"]


def test_answers_a_log_and_the_rows_set_aside(book: Path, tmp_path: Path) -> None:
    answers = ["--answer", "labels alike/Quay=merge", "--answer", "repeated rows=take out"]
    log, aside, first, again = (tmp_path / name for name in ("log.json", "aside.csv", "a.csv", "b.csv"))
    done = run("check", book, *answers, "--repairs", log, "--aside", aside, "--fix", first)
    assert done.returncode == 0, done.stderr
    assert "6 repairs were made" in done.stdout
    assert aside.read_text().splitlines()[1].startswith("102,,repeats an earlier row")
    assert run("check", book, "--apply", log, "--fix", again).returncode == 0
    assert first.read_bytes() == again.read_bytes()


@pytest.mark.parametrize(
    ("options", "words"),
    [
        (["--answer", "labels alike/Quay"], "a key and a choice"),
        (["--answer", "labels alike/Quay=perhaps"], "one of 'merge', 'keep apart'"),
        (["--join", "Vesels on Vessel = Name"], "there is no such file"),
        (["--join", "Tonnage"], "No key that leads from"),
        (["--zone", "Europe/Atlantis"], "The time zone"),
        (["--fiscal-start", "0"], "1 to 12"),
        (["--apply", "none.json"], "no such file"),
        (["--repairs", "log.txt"], "log.txt"),
    ],
)
def test_wrong_options_are_one_sentence(book: Path, options: list[str], words: str) -> None:
    done = run("check", book, *options)
    assert done.returncode == 2
    assert words in done.stderr
    assert "Traceback" not in done.stderr
    assert done.stdout == ""
