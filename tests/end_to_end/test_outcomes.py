"""Drivers, comparisons, regressions and relations from the command line."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from .test_command_line import refused, run

COMMANDS = {
    "drivers": ("--outcome", "delay_min", "--factor", "route", "--factor", "vessel"),
    "compare": ("-m", "delay_min", "-b", "route"),
    "regress": ("--outcome", "fuel_cost", "--factor", "capacity"),
    "relate": ("-x", "passengers", "-y", "revenue"),
}


@pytest.mark.parametrize("command", sorted(COMMANDS))
def test_commands_print_write_and_give_json(command: str, sailings: Path, tmp_path: Path) -> None:
    page = tmp_path / "page.html"
    done = run(command, sailings, *COMMANDS[command], "-o", page)
    assert done.returncode == 0, done.stderr
    assert all(len(line.rstrip()) <= 100 for line in done.stdout.splitlines())
    text = page.read_text(encoding="utf-8")
    assert "<svg" in text
    assert "http://www.w3.org" in text
    made = json.loads(run(command, sailings, *COMMANDS[command], "--json").stdout)
    assert {"format", "table", "request", "readiness", "caveats", "summary"} <= set(made)
    assert made["table"]["rows"] > 20_000
    # The screen opens with the headline, however it is broken into lines.
    assert " ".join(done.stdout.split()).startswith(" ".join(made["summary"]["headline"].split()))


def test_a_model_is_kept_and_scores_new_rows(sailings: Path, tmp_path: Path) -> None:
    kept, scores = tmp_path / "late.json", tmp_path / "scores.csv"
    asked = ("--outcome", "on_time", "--factor", "route", "--factor", "vessel", "--model", "tree", "--keep-model", kept)
    done = run("drivers", sailings, *asked)
    assert done.returncode == 0, done.stderr
    assert "Rules" in done.stdout
    assert run("drivers", sailings, "--score", kept, "-o", scores).returncode == 0
    assert scores.read_text().splitlines()[0] == "row,prediction,start,route,vessel"


def test_questions_run_as_they_stand(sailings: Path) -> None:
    made = json.loads(run("check", sailings, "--questions", "--json").stdout)
    first = made["questions"][1]
    assert first["command"].startswith("golden-almanac compare sailings.csv -m ")
    words = first["command"].split()
    assert run(words[1], sailings, *words[3:]).returncode == 0


@pytest.mark.parametrize(
    ("arguments", "message"),
    [
        (("drivers", "--outcome", "delay"), "Did you mean 'delay_min'"),
        (("drivers",), "named with --outcome"),
        (("drivers", "--outcome", "channel"), "--event"),
        (("drivers", "--outcome", "delay_min", "--toward", "up"), "one of both, higher, lower"),
        (("drivers", "--outcome", "delay_min", "-w", "delay_min = 4"), "in every row"),
        (("compare", "-m", "delay_min", "-b", "passengers"), "too many for groups"),
        (("compare", "-m", "delay_min", "-b", "route", "--paired", "sailing_id"), "a column with two labels"),
        (("regress", "--outcome", "revenue", "--factor", "date"), "holds date"),
        (("relate", "-x", "route", "-y", "revenue"), "not numbers"),
    ],
)
def test_what_cannot_be_done_is_one_sentence(arguments: tuple, message: str, sailings: Path) -> None:
    assert message in refused(arguments[0], sailings, *arguments[1:])
