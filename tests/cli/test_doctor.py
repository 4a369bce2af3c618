"""What is said of an installation, and of a fault of the program itself: where it happened, and nothing of the data."""

from __future__ import annotations

import json
import sys
import tomllib
from importlib.metadata import PackageNotFoundError
from pathlib import Path

import pytest
from packaging.requirements import Requirement
from packaging.utils import canonicalize_name

from golden_almanac.api import installation as rooms
from golden_almanac.cli import app
from golden_almanac.cli.fault_report import text_of
from tests.commands import in_a_process, run

ROOT = Path(__file__).parents[2]


def test_every_package_that_is_needed_is_looked_at() -> None:
    done = run("doctor", "--json")
    assert done.returncode == 0, done.stdout
    parts = {one["name"]: one for one in json.loads(done.stdout)["parts"]}
    wanted = tomllib.loads((ROOT / "pyproject.toml").read_text("utf-8"))["project"]["dependencies"]
    names = {canonicalize_name(Requirement(text).name) for text in wanted}
    assert names <= {canonicalize_name(name) for name in parts}
    assert {"[sql]", "[spark]", "fonts", "machine", "room", "folder"} <= set(parts)
    shown = run("doctor").stdout
    assert "All that is needed is there." in shown
    assert len(shown.splitlines()) < 20


def test_what_is_missing_or_does_not_fit_is_named_with_what_to_do(monkeypatch: pytest.MonkeyPatch) -> None:
    plain = rooms.version

    def known(name: str) -> str:
        if name == "duckdb":
            raise PackageNotFoundError(name)
        return "0.1" if name == "pandas" else plain(name)

    monkeypatch.setattr(rooms, "version", known)
    monkeypatch.setattr(rooms, "find_spec", lambda name: None)
    monkeypatch.setattr("shutil.disk_usage", lambda folder: type("Usage", (), {"free": 10_000_000})())
    done = run("doctor")
    assert done.returncode == 1
    lines = {line.split()[1]: line for line in done.stdout.splitlines() if line[:1] in ("!", "·")}
    assert "not installed" in lines["duckdb"]
    assert "pip install 'duckdb" in lines["duckdb"]
    assert "0.1, not" in lines["pandas"]
    assert "pip install 'golden-almanac[sql]'" in lines["[sql]"]
    assert "Make room" in lines["room"]
    assert "duckdb, pandas, room" in done.stdout.splitlines()[-1]


def test_a_report_of_a_fault_holds_nothing_of_the_data(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.delenv("GOLDEN_ALMANAC_TRACE", raising=False)
    monkeypatch.setenv("TMPDIR", str(tmp_path))
    monkeypatch.setattr("tempfile.tempdir", None)
    monkeypatch.setattr(
        sys, "argv", ["golden-almanac", "scan", "Vermilion.csv", "--where=name = 'Vermilion'", "-m", "Vermilion"]
    )

    def broken(label: str) -> None:
        try:
            raise KeyError(label)
        except KeyError as problem:
            raise ValueError(f"{label} has 4,711 rows") from problem

    try:
        broken("Vermilion")
    except ValueError as problem:
        told = app._told(problem)
        text = text_of(problem)
    (report,) = tmp_path.iterdir()
    assert str(report) in told
    assert report.read_text("utf-8") == text
    for secret in ("Vermilion", "4,711", str(ROOT), str(Path.home())):
        assert secret not in text
        assert secret not in told or secret == str(tmp_path)
    assert "ValueError\n" in text
    assert "KeyError\n" in text
    assert "in broken" in text
    assert "golden-almanac … … --where -m …" in text
    # Where nothing can be written, it is said how to see it.
    monkeypatch.setattr("tempfile.mkstemp", lambda **_: (_ for _ in ()).throw(OSError(28, "full")))
    assert "GOLDEN_ALMANAC_TRACE=1" in app._told(ValueError("Vermilion"))


def test_a_shell_is_told_commands_and_options() -> None:
    asked = {"_GOLDEN_ALMANAC_COMPLETE": "complete_bash"}
    assert in_a_process(COMP_WORDS="golden-almanac led", COMP_CWORD="1", **asked).stdout.split() == ["ledger"]
    found = in_a_process(COMP_WORDS="golden-almanac scan --mea", COMP_CWORD="2", **asked).stdout.split()
    assert "--measure" in found
