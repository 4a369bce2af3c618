"""Suggested commands: whatever stands in a label or a heading, a shell takes each argument for one word."""

from __future__ import annotations

import json
import os
import re
import shlex
import subprocess
from pathlib import Path

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga
from golden_almanac.support.printable import visible
from golden_almanac.support.shell import option, suggested

from .kit import attack, done

NASTY = ["$(touch pwned)", "`touch pwned`", "'; touch pwned; '", '" && touch pwned "', "a\nb", "\x1b[201~touch pwned\n",
         "!touch", "-x", "--help", "\\", "~", "*", "a b", "", "ümläut", "\u202egnp.exe"]  # fmt: skip


def words(command: str) -> list[str]:
    """The words that a real shell makes of a command line."""
    made = subprocess.run(
        ["sh", "-c", f"for word in {command}; do printf '%s\\0' \"$word\"; done"], capture_output=True, check=True
    )
    return made.stdout.decode("utf-8").split("\0")[:-1]


@pytest.mark.parametrize("text", NASTY)
def test_every_argument_is_one_word_to_a_shell(text: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(tmp_path)
    command = suggested("change", "x.csv", "-w", text)
    shown = visible(text)
    assert words(command) == shlex.split(command) == ["golden-almanac", "change", "x.csv", "-w", shown]
    assert words(option("--answer", text)) == ["--answer", shown]
    assert not re.search(r"[\x00-\x08\x0b-\x1f\x7f]", command)
    assert os.listdir(tmp_path) == []


@pytest.mark.parametrize("source", ["-rf.csv", "--help", "a b.csv", "$(touch pwned).csv", "a\nb.csv", "\x1b.csv"])
def test_a_source_is_no_option_and_one_word(source: str) -> None:
    found = words(suggested("check", source))
    assert found[:2] == ["golden-almanac", "check"]
    assert len(found) == 3
    assert not found[2].startswith("-")


def hostile(label: str, column: str = "route") -> pd.DataFrame:
    """Sixty months in which one route, with a nasty name, falls away from the others, and one row is a slip."""
    rng = np.random.default_rng(3)
    days = pd.date_range("2020-01-01", "2024-12-31", freq="3D")
    frame = pd.DataFrame({"date": days.repeat(4), column: [label, "Outer Bar", "Skerry", "Mole"] * len(days)})
    frame["sum of fares"] = rng.normal(100, 8, len(frame)).round(2)
    frame.loc[(frame[column] == label) & (frame["date"] > "2023-06-01"), "sum of fares"] *= 0.55
    frame.loc[777, "sum of fares"] = 98765.4
    return frame


@pytest.mark.parametrize(
    ("label", "column"),
    [
        ("$(touch pwned)", "route"),
        ("`touch pwned`", "the route"),
        ("'; touch pwned; '", 'say "x"'),
        ("a\x1b[31mb", "r"),
    ],
)
def test_suggestions_of_a_hostile_table_run_as_they_stand(
    label: str, column: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(tmp_path)
    path = tmp_path / "fares.csv"
    hostile(label, column).to_csv(path, index=False)
    scan = ga.scan(path)
    suggestions = scan.suggestions(10)
    assert any("-w" in one.next_look for one in suggestions)
    for one in suggestions:
        program, *arguments = words(one.next_look)
        assert program == "golden-almanac"
        assert attack(*arguments).returncode == 0, one.next_look
    told = json.loads(done("check", path, "--questions", "--json"))["questions"]
    for question in told:
        assert words(question["command"])[0] == "golden-almanac"
    assert sorted(os.listdir(tmp_path)) == ["fares.csv"]


def test_the_answer_to_a_question_is_quoted(tmp_path: Path) -> None:
    path = tmp_path / "days.csv"
    path.write_text(
        "$(touch pwned),fare\n" + "".join(f"0{i % 9 + 1}/0{i % 8 + 1}/2024,{i}\n" for i in range(40)), "utf-8"
    )
    found = json.loads(done("check", path, "--json"))
    options = [one["question"]["option"] for one in found["readiness"] if one["question"]]
    assert options
    for text in options:
        first, second, *rest = words(text)
        assert (first, rest) == ("--answer", [])
        assert attack("check", path, first, second).returncode == 0
