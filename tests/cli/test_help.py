"""The help of every command: what is asked for most on one screen, the rest named there and spelled out on request."""

from __future__ import annotations

from pathlib import Path

import pytest

from golden_almanac.cli.app import COMMANDS
from tests.commands import run

#: Lines of a screen.
SCREEN = 50


@pytest.mark.parametrize("command", COMMANDS)
def test_the_help_of_a_command_fits_a_screen(command: str) -> None:
    told = run(command, "--help").stdout
    assert len(told.splitlines()) <= SCREEN
    assert "Examples:" in told


@pytest.mark.parametrize("command", ["scan", "change", "check"])
def test_rare_options_are_named_first_and_told_on_request(command: str) -> None:
    short, whole = run(command, "--help").stdout, run(command, "--help-all").stdout
    assert "More, with --help-all" in short
    assert "More, with --help-all" not in whole
    for option in ("--sheet", "--holidays", "--private", "--memory", "--locale"):
        assert option in short.replace("-\n", "-").replace(" ", "")
        # Told with what it is for, on a line of its own.
        assert [line for line in whole.splitlines() if line.strip().startswith(f"{option} ")]
        assert not [line for line in short.splitlines() if line.strip().startswith(f"{option} ")]


def test_quiet_and_verbose(shop: Path, tmp_path: Path) -> None:
    target = tmp_path / "page.html"
    told = run("total", shop, "-m", "sum(units)", "-b", "item", "-o", target)
    assert "wrote" in told.stderr
    quiet = run("total", shop, "-m", "sum(units)", "-b", "item", "-o", target, "--quiet")
    assert (quiet.returncode, quiet.stderr, quiet.stdout) == (0, "", told.stdout)
    assert "sold" in run("total", shop, "-m", "sum(sold2)", "--quiet").stderr
    steps = run("scan", shop, "--verbose").stderr.splitlines()
    assert sum(line[2:3] == ":" and line[5:6] == ":" for line in steps) >= 2
    assert run("total", shop, "-m", "sum(units)", "--quiet", "--verbose").returncode == 2
    # The same of a table that is published.
    done = run("publish", shop, "--format", "md", "--out", tmp_path / "out", "--quiet")
    assert (done.returncode, done.stdout, done.stderr) == (0, "", "")
    assert "making report.md" in run("publish", shop, "--format", "md", "--out", tmp_path / "out", "-v").stderr
    # One call leaves nothing behind for the next.
    assert "wrote" in run("total", shop, "-m", "sum(units)", "-b", "item", "-o", target).stderr
