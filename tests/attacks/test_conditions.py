"""Every command under every condition that a machine can be in: streams, encodings, homes, dates, terminals."""

from __future__ import annotations

import json
import os
import re
import subprocess
import sys
from pathlib import Path

import pytest
from rich.cells import cell_len

from .kit import LIBRARY_WORDS

COMMANDS = [
    ["check", "t.csv"], ["check", "t.csv", "--json"], ["check", "t.csv", "--questions"], ["check", "t.csv", "--sql", "SELECT * FROM source LIMIT 5"],
    ["check", "t.csv", "--fix", "out/f.csv", "--aside", "out/a.csv", "--repairs", "out/r.json", "--replace"],
    ["scan", "t.csv", "-o", "out/s.html", "-o", "out/s.pdf", "--replace"], ["scan", "t.csv", "--json"], ["scan", "--kinds"],
    ["change", "t.csv", "-m", "fare", "-o", "out/c.pptx", "--replace"], ["change", "t.csv", "--every-measure", "--json"],
    ["drivers", "t.csv", "--outcome", "late"], ["compare", "t.csv", "-m", "late", "-b", "quay"], ["relate", "t.csv", "-x", "fare", "-y", "late"],
    ["regress", "t.csv", "--outcome", "fare", "--factor", "late"], ["publish", "b.toml", "--replace"], ["demo", "--help"], ["--version"], ["--help"],
    ["ask", "t.csv", "average fare by quay"], ["total", "t.csv", "-m", "fare", "-b", "quay", "--json"], ["rows", "t.csv", "-n", "3"],
    ["scan", "nowhere.csv"], ["scan", "t.csv", "--nothing"], ["nothing"],
]  # fmt: skip
#: Those that write nothing to standard output when all is well, or that are refused.
REFUSED = COMMANDS[-3:]

#: What turns letters bold or dim, and takes no room.
LOOKS = re.compile(r"\x1b\[[0-9;]*m")

#: Condition, and what the environment is under it. "stdout=…" and "stderr=…" say what the streams are.
CONDITIONS: dict[str, dict[str, str]] = {
    "ascii, and no date": {"PYTHONIOENCODING": "ascii", "SOURCE_DATE_EPOCH": "yesterday"},
    "latin-1, and the home is a file": {"PYTHONIOENCODING": "latin-1", "HOME": "/dev/null"},
    "bare locale, and no home": {
        "LANG": "C",
        "LC_ALL": "C",
        "PYTHONUTF8": "0",
        "PYTHONCOERCECLOCALE": "0",
        "HOME": "/nowhere/at/all",
        "XDG_CONFIG_HOME": "/nowhere",
        "XDG_CACHE_HOME": "/nowhere",
        "MPLCONFIGDIR": "",
    },
    "stdout full": {"STDOUT": "/dev/full"},
    "stdout closed": {"STDOUT": "closed"},
    "stderr full": {"STDERR": "/dev/full"},
    "stderr closed": {"STDERR": "closed"},
    "narrow": {"COLUMNS": "40", "TTY_COMPATIBLE": "1", "NO_COLOR": "1", "TERM": "xterm"},
    "one column, and a date that is none": {
        "COLUMNS": "1",
        "TTY_COMPATIBLE": "1",
        "NO_COLOR": "1",
        "SOURCE_DATE_EPOCH": "99999999999999999999",
    },
}

#: One process runs all commands, each with streams of its own, and writes down how each ended.
DRIVER = """
import json, os, sys
from golden_almanac.cli import main
encoding = os.environ.get("PYTHONIOENCODING") or sys.__stdout__.encoding
kept, told = os.dup(2), []
for number, command in enumerate(json.load(open("commands.json"))):
    for name, fd in (("STDOUT", 1), ("STDERR", 2)):
        where = os.environ.get(name, f"{number}.{fd}")
        if where == "closed":
            setattr(sys, name.lower(), None)
            continue
        handle = os.open(where, os.O_WRONLY | os.O_CREAT, 0o644)
        os.dup2(handle, fd)
        setattr(sys, name.lower(), open(fd, "w", encoding=encoding, closefd=False))
    sys.argv = ["golden-almanac", *command]
    try:
        main()
        status = "no status"
    except SystemExit as end:
        status = end.code
    except BaseException as problem:
        status = f"{type(problem).__name__}: {problem}"
    told.append(status)
    for stream in (sys.stdout, sys.stderr):
        try:
            stream.flush()
        except (OSError, ValueError, AttributeError):
            pass
json.dump(told, open("told.json", "w"))
os._exit(0)
"""


@pytest.mark.parametrize("condition", CONDITIONS)
def test_every_command_under_every_condition(condition: str, tmp_path: Path) -> None:
    rows = [
        f"{2022 + m // 12}-{m % 12 + 1:02d}-{d:02d},{'Möle Ness'.split()[d % 2]},{m * 3 + d + (50 if d % 2 else 0)},{(m * d) % 7}"
        for m in range(30) for d in (2, 5, 9, 12, 17, 24)
    ]  # fmt: skip
    (tmp_path / "t.csv").write_text("date,quay,fare,late\n" + "\n".join(rows) + "\n", "utf-8")
    (tmp_path / "b.toml").write_text('source = "t.csv"\nformats = ["html", "json", "png"]\n', "utf-8")
    # What streams and widths are is nothing to files: those are written where the machine itself is another.
    commands = [one for one in COMMANDS if "STD" not in str(CONDITIONS[condition]) or "-o" not in one]
    (tmp_path / "commands.json").write_text(json.dumps(commands), "utf-8")
    environment = {
        key: value for key, value in os.environ.items() if key not in ("COLUMNS", "GOLDEN_ALMANAC_TRACE", "FORCE_COLOR")
    }
    ended = subprocess.run(
        [sys.executable, "-c", DRIVER],
        cwd=tmp_path,
        env={**environment, **CONDITIONS[condition]},
        timeout=300,
        capture_output=True,
    )
    assert ended.returncode == 0, ended.stderr
    told = json.loads((tmp_path / "told.json").read_text("utf-8"))
    lost = condition == "stdout full"
    for number, (command, status) in enumerate(zip(commands, told, strict=True)):
        if command in REFUSED:
            assert status == 2, (command, status)
        else:
            assert status in ((2,) if lost else (0,)), (command, status, read(tmp_path, number))
        for text in read(tmp_path, number):
            assert not LIBRARY_WORDS.search(text), (command, text)
            assert "Warning" not in text, (command, text)
            assert "A fault of this program" not in text, (command, text)
    if condition == "narrow":
        for number in range(len(commands)):
            if (
                "--json" not in commands[number]
                and "--help" not in commands[number]
                and "--sql" not in commands[number]
            ):
                assert all(
                    cell_len(LOOKS.sub("", line)) <= 40
                    for line in read(tmp_path, number)[0].splitlines()
                    if commands[number][0] != "publish" and "--kinds" not in commands[number]
                )


def read(folder: Path, number: int) -> list[str]:
    """What a command wrote to both streams, where that can be read."""
    return [
        path.read_bytes().decode("utf-8", "replace") if (path := folder / f"{number}.{stream}").exists() else ""
        for stream in (1, 2)
    ]
