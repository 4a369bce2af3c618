"""Everything the guide and the examples show, run as it stands."""

from __future__ import annotations

import os
import re
import shlex
import shutil
import subprocess
import sys
from importlib import import_module
from pathlib import Path

import pandas as pd
import pytest

import golden_almanac as ga
from golden_almanac.cli.app import COMMANDS
from tests.commands import run

ROOT = Path(__file__).parents[2]
PAGES = [ROOT / "README.md", *sorted((ROOT / "docs").glob("*.md"))]


@pytest.fixture
def desk(tmp_path: Path, sailings: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A folder with all that the guide speaks of, a quarter of the demo's rows among it, as the working directory."""
    pd.read_csv(sailings, dtype=str).iloc[::4].to_csv(tmp_path / "sailings.csv", index=False)
    shutil.copy(tmp_path / "sailings.csv", tmp_path / "your-own.csv")
    for name in ("notes", "trips", "ledger", "own", "operators"):
        shutil.copy(sailings.parent / f"{name}.csv", tmp_path)
    shutil.copy(ROOT / "examples/monthly.toml", tmp_path)
    monkeypatch.chdir(tmp_path)
    return tmp_path


#: Columns of the demo that stay though a page does not name them: what a scan needs to have something to say.
CORE = {"date", "route", "region", "fare_class", "passengers", "revenue"}


def slim(path: Path, text: str) -> None:
    """The demo's table without the columns that a page does not name, in place: each would be scanned over and over."""
    rows = pd.read_csv(path, dtype=str)
    kept = [name for name in rows.columns if name in CORE or name.split("_")[0] in text]
    rows[kept].to_csv(path, index=False)


@pytest.mark.parametrize("page", PAGES, ids=lambda page: page.name)
def test_python_of_the_guide_runs(page: Path, desk: Path, sailings: Path) -> None:
    """Each piece by itself, one after the other."""
    text = page.read_text(encoding="utf-8")
    if ".figures[" in text:
        # What stands first is that of the whole table.
        shutil.copy(sailings, desk / "sailings.csv")
    else:
        slim(desk / "sailings.csv", f"{text} on_time channel vessel capacity fuel delay")
    pieces = re.findall(r"```python\n(.*?)```", text, re.DOTALL)
    for place, code in enumerate(pieces):
        exec(compile(code, f"{page.name}, piece {place}", "exec"), {"ga": ga, "__name__": "__main__"})


def commands(page: Path) -> list[str]:
    """The commands that a page shows, on the table of the demo."""
    text = page.read_text(encoding="utf-8").replace("your-own.csv", "sailings.csv")
    return re.findall(r"^    golden-almanac (.*)$", text, re.MULTILINE)


#: Where each command is shown first: there it is run, and not again where another page shows it too.
SHOWN: dict[str, Path] = {}
for shown in reversed(PAGES):
    SHOWN |= dict.fromkeys(commands(shown), shown)


@pytest.mark.parametrize("page", PAGES, ids=lambda page: page.name)
def test_commands_of_the_guide_run(page: Path, desk: Path, sailings: Path) -> None:
    lines = [line for line in commands(page) if SHOWN[line] == page or line.startswith("demo ")]
    slim(desk / "sailings.csv", "\n".join(lines) + (desk / "monthly.toml").read_text(encoding="utf-8"))
    for line in lines:
        if line == "demo --to ferries":
            # The whole of what it does is tested by itself; here its files are wanted.
            shutil.copytree(sailings.parent, desk / "ferries")
            continue
        done = run(*shlex.split(line))
        assert done.returncode == 0, (line, done.stderr)


def examples(command: str) -> list[str]:
    """The examples of a command's help that no page shows."""
    told = import_module(f"golden_almanac.cli.{command}_command").HELP
    return [line for line in re.findall(r"^ +golden-almanac (.*)$", told, re.MULTILINE) if line not in SHOWN]


#: The demo is run as a whole elsewhere, and so is the verification of an edition.
HELPED = [command for command in COMMANDS if command not in ("demo", "verify") and examples(command)]


@pytest.mark.parametrize("command", HELPED)
def test_examples_of_the_help_run(command: str, desk: Path, sailings: Path) -> None:
    lines = examples(command)
    (desk / "monthly.toml").unlink()
    slim(desk / "sailings.csv", "\n".join(lines) + " vessel")
    shutil.copy(sailings.parent / "harbour-office.xlsx", desk)
    shutil.copy(desk / "notes.csv", desk / "events.csv")
    (desk / "scenarios.toml").write_text('[[scenario]]\nname = "careful"\nstart = 1000\nrate = 2\n', encoding="utf-8")
    for line in lines:
        done = run(*shlex.split(line))
        assert done.returncode == 0, (line, done.stderr)


@pytest.mark.parametrize("page", PAGES, ids=lambda page: page.name)
def test_links_and_pictures_of_the_guide_exist(page: Path) -> None:
    for target in re.findall(r"\]\(([^)#]+)\)", page.read_text(encoding="utf-8")):
        assert (page.parent / target).exists(), target


@pytest.mark.parametrize("script", sorted((ROOT / "examples").glob("*.py")), ids=lambda script: script.name)
def test_examples_run(script: Path, desk: Path) -> None:
    text = script.read_text(encoding="utf-8")
    assert len(text.splitlines()) < 60
    slim(desk / "sailings.csv", text)
    done = subprocess.run(
        [sys.executable, script, desk / "sailings.csv", str(desk / "pages")],
        cwd=desk,
        capture_output=True,
        text=True,
        env={**os.environ, "PYTHONIOENCODING": "utf-8"},
    )
    assert done.returncode == 0, done.stderr
    assert done.stdout.strip()


def test_no_page_names_this_machine() -> None:
    listed = subprocess.run(["git", "ls-files"], cwd=ROOT, capture_output=True, text=True).stdout.split()
    for name in listed:
        path = ROOT / name
        if path.suffix in (".py", ".md", ".toml", ".jinja", "") and path.is_file():
            text = path.read_text(encoding="utf-8", errors="ignore")
            assert str(ROOT) not in text, name
