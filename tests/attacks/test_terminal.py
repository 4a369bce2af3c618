"""What a terminal is sent: no control sequence of the data, no line too wide, no figure cut, and an orderly end whatever
becomes of the streams."""

from __future__ import annotations

import json
import os
import re
import subprocess
import sys
from collections.abc import Sequence
from pathlib import Path

import pandas as pd
import pytest
from rich.cells import cell_len

import golden_almanac as ga

from .kit import LIBRARY_WORDS, attack, refused, sound

ESCAPES = [
    "\x1b[31mred",
    "\x1b]0;title\x07",
    "\x9b2J",
    "a\bb",
    "tab\there",
    "bell\x07",
    "\x7f",
    "\u202egnp",
    "\ufffe",
    "nul\x00nul",
    "\u2028x",
]


def hostile(folder: Path) -> Path:
    path = folder / "quays.csv"
    rows = []
    for month in range(36):
        for place, label in enumerate(ESCAPES):
            size = (place + 1) * 10 + month % 7 + (40 if place == 3 and month > 20 else 0)
            rows += [f'{2022 + month // 12}-{month % 12 + 1:02d}-{day:02d},"{label}",{size}' for day in (3, 14, 25)]
    # Line feeds and carriage returns as they stand.
    path.write_bytes(("date,qu\x1b[1may,fare\n" + "\n".join(rows) + "\n").encode())
    return path


COMMANDS: list[tuple[str, ...]] = [
    ("check",), ("check", "--questions"), ("scan",), ("scan", "--all"), ("scan", "--plan"), ("scan", "--json"),
    ("change", "-m", "fare"), ("change", "-m", "fare", "--json"), ("change", "--every-measure"), ("drivers", "--outcome", "fare"),
    ("check", "--sql", "SELECT * FROM source LIMIT 40"), ("check", "--sql", "SELECT * FROM source LIMIT 40", "--json"),
    ("check", "--json"), ("regress", "--outcome", "fare", "--factor", "qu\\x1b[1may"), ("compare", "-m", "fare", "-b", "qu\\x1b[1may"),
]  # fmt: skip


@pytest.mark.parametrize("command", COMMANDS, ids=" ".join)
def test_no_control_sequence_of_the_data_reaches_a_terminal(command: Sequence[str], tmp_path: Path) -> None:
    found = attack(command[0], hostile(tmp_path), *command[1:])
    assert found.returncode == 0, found.stderr
    sound(found)
    if "--json" in command:
        data = json.loads(found.stdout)
        told = json.dumps(data)
        assert "\\u001b[31mred" in told or "scan" in command or "change" in command


@pytest.mark.parametrize("text", ESCAPES)
def test_messages_show_what_they_were_given(text: str, tmp_path: Path) -> None:
    path = hostile(tmp_path)
    plain = text.replace("\0", "")
    for command in (
        ["scan", path, "-b", plain], ["scan", path, "-w", f"quay = '{plain}'"], ["scan", tmp_path / f"{plain}.csv"],
        ["scan", path, "-m", f"sum({plain})"], ["compare", path, "-m", plain, "-b", plain], ["scan", path, "--locale", plain],
        ["change", path, "--period", plain], ["scan", path, "-g", plain], ["check", path, "--answer", f"{plain}=x"],
        ["publish", tmp_path / plain], ["scan", path, "-k", plain], ["scan", path, "-o", f"{plain}.xyz"], [plain], ["scan", path, f"--{plain}"],
    ):  # fmt: skip
        found = attack(*command)
        assert found.returncode == 2, (command, found)
        sound(found)
        assert len(found.stderr.strip().splitlines()) == 1, found.stderr


def test_a_message_is_one_paragraph_whatever_came_in(tmp_path: Path) -> None:
    path = hostile(tmp_path)
    long = "x" * 100_000
    for command in (
        ["scan", path, "-b", long], ["scan", path, "-w", long], ["scan", path, "-m", long], ["scan", long], ["publish", long],
        ["change", path, "--period", long], ["scan", path, "-o", long], ["check", path, "--sql", long], ["check", path, "--answer", f"{long}=a"],
        ["scan", path, "--locale", long], ["scan", path, "--as-of", long], ["scan", path, "--zone", long], ["scan", path, "--call", long],
        ["drivers", path, "--outcome", long], ["drivers", path, "--score", long], ["scan", path, "--notes", long], ["check", path, "--apply", long],
        ["scan", path, "--memory", long], ["scan", path, "--floor", long], ["check", path, "--join", long],
    ):  # fmt: skip
        assert len(refused(*command)) <= 1_000


def wide(folder: Path) -> Path:
    path = folder / "wide.csv"
    rows = []
    for month in range(40):
        for route in ("Outer Bar by way of the long reef and back", "Mole"):
            for day in (2, 12, 22):
                amount = (1_234_567_890 + month * 11_000_000) * (1 if route == "Mole" else 3)
                rows.append(f"{2022 + month // 12}-{month % 12 + 1:02d}-{day:02d},{route},{amount},{month % 5}")
    path.write_text("date,a_very_long_heading_of_a_column,fare_eur,late\n" + "\n".join(rows) + "\n", "utf-8")
    return path


NARROW: list[tuple[str, ...]] = [
    ("check",), ("scan",), ("scan", "--all"), ("change", "-m", "fare_eur"), ("change", "--every-measure"),
    ("drivers", "--outcome", "fare_eur"), ("compare", "-m", "fare_eur", "-b", "a_very_long_heading_of_a_column"),
    ("regress", "--outcome", "fare_eur", "--factor", "late"), ("relate", "-x", "fare_eur", "-y", "late"),
    ("drivers", "--outcome", "late", "--model", "tree"), ("check", "--questions"),
    ("total", "-m", "fare_eur", "-b", "a_very_long_heading_of_a_column", "-g", "quarter"), ("rows", "-n", "5"),
    ("forecast", "-m", "fare_eur", "-b", "a_very_long_heading_of_a_column"),
    ("ask", "total fare by a very long heading of a column in 2023"), ("ask", "why did fare change?"),
]  # fmt: skip


@pytest.mark.parametrize(
    ("command", "colour"), [(one, False) for one in NARROW] + [(one, True) for one in NARROW[1::3]], ids=str
)
def test_forty_columns_are_enough(
    command: Sequence[str], colour: bool, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("COLUMNS", "40")
    monkeypatch.setenv("TTY_COMPATIBLE", "1")
    monkeypatch.setenv("FORCE_COLOR" if colour else "NO_COLOR", "1")
    path = wide(tmp_path)
    narrow = attack(command[0], path, *command[1:])
    assert narrow.returncode == 0, narrow.stderr
    bare = re.sub(r"\x1b\[[0-9;]*m", "", narrow.stdout)
    for line in bare.splitlines():
        assert cell_len(line) <= 40, line
    monkeypatch.setenv("COLUMNS", "100")
    whole = re.sub(r"\x1b\[[0-9;]*m", "", attack(command[0], path, *command[1:]).stdout)
    # The same figures at both widths: none is cut.
    assert figures(bare) == figures(whole)


def figures(text: str) -> set[str]:
    joined = re.sub(r"\s+", " ", text)
    return set(re.findall(r"[−+]?\d[\d,]*(?:\.\d+)?%?", joined))


def run(command: Sequence[object], **how: object) -> subprocess.CompletedProcess[bytes]:
    return subprocess.run([sys.executable, "-m", "golden_almanac", *map(str, command)], timeout=180, **how)  # type: ignore[call-overload, no-any-return]


@pytest.mark.parametrize("encoding", ["ascii", "cp1252"])
def test_a_terminal_that_lacks_letters_gets_what_it_can_show(encoding: str, tmp_path: Path) -> None:
    done = run(["scan", wide(tmp_path)], env={**os.environ, "PYTHONIOENCODING": encoding}, capture_output=True)
    assert done.returncode == 0, done.stderr
    text = done.stdout.decode(encoding)
    assert "fare" in text
    assert "�" not in text


def test_streams_that_are_closed_full_or_cut(tmp_path: Path) -> None:
    path = wide(tmp_path)
    program = f"{sys.executable} -m golden_almanac"

    def shell(line: str) -> subprocess.CompletedProcess[bytes]:
        return subprocess.run(["bash", "-c", line], capture_output=True, timeout=180)

    for line, status in (
        (f"{program} scan {path} >&-", 0),
        (f"{program} scan {path} 2>&-", 0),
        (f"{program} scan {path} >&- 2>&-", 0),
        (f"{program} scan nowhere.csv >&- 2>&-", 2),
        (f"{program} scan {path} > /dev/full", 2),
        (f"{program} scan {path} --json > /dev/full", 2),
        (f"{program} scan {path} 2> /dev/full", 0),
        (f"{program} scan {path} --all | head -c 1; exit ${{PIPESTATUS[0]}}", None),
        (f"{program} scan {path} --json | head -c 1; exit ${{PIPESTATUS[0]}}", None),
        (f"{program} --help > /dev/full", 2),
    ):
        done = shell(line)
        assert done.returncode in ((0, 141) if status is None else (status,)), (line, done)
        told = done.stderr.decode()
        assert not LIBRARY_WORDS.search(told), (line, told)
        assert "Exception" not in told
        assert len(told.strip().splitlines()) <= 1, (line, told)


def test_what_a_brief_says_is_text_on_its_page() -> None:
    frame = pd.DataFrame({"quay": ["a", "b"] * 40, "fare": range(80)})
    report = ga.scan(frame).report("\x1b]0;owned\x07").titled(subtitle="\u202eback", owner="\x9b2J")
    page = report.html().decode()
    assert not re.search(r"[\x00-\x08\x0b-\x1f\x7f-\x9f\u202a-\u202e]", page)
    assert "\\x1b]0;owned\\x07" in page
