"""Languages, briefs and files from the command line."""

from __future__ import annotations

from pathlib import Path

import pandas as pd
import pytest

import golden_almanac as ga

from .test_command_line import refused, run


@pytest.fixture(scope="module")
def short(sailings: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The sailings of two regions, of a few columns."""
    frame = pd.read_csv(sailings)[["date", "region", "route", "revenue", "crew_rota"]]
    target = tmp_path_factory.mktemp("short") / "sailings.csv"
    frame[frame["region"] != "Outer Isles"].to_csv(target, index=False)
    return target


def test_findings_in_another_language(short: Path) -> None:
    done = run("scan", short, "--locale", "de", "--call", "revenue=Erlös, m, Erlöse, des Erlöses")
    assert done.returncode == 0, done.stderr
    assert "lag im September 2025 bei " in done.stdout
    assert "Der Erlös " in done.stdout
    assert "„crew rota“" in done.stdout or "Die Daten enden" in done.stdout or "Der Erlös" in done.stdout
    data = run("change", short, "-m", "revenue", "--locale", "fr", "--json").stdout
    assert "Le chiffre d’affaires était de" in data
    # Keys of the format are no words: they stay.
    assert '"headline"' in data
    assert "one of en, de, es, fr" in refused("scan", short, "--locale", "tlh")


def test_a_file_of_others_is_kept_unless_said(short: Path, tmp_path: Path) -> None:
    target = tmp_path / "page.html"
    target.write_text("my own page", encoding="utf-8")
    told = refused("scan", short, "-o", target)
    assert "did not make" in told
    assert "--replace" in told
    assert target.read_text(encoding="utf-8") == "my own page"
    assert run("scan", short, "-o", target, "--replace").returncode == 0
    # Now it is ours, and may be made anew.
    assert run("scan", short, "-o", target).returncode == 0
    assert "Golden Almanac" in target.read_text(encoding="utf-8")


def test_pages_and_a_picture_of_the_page(short: Path, tmp_path: Path) -> None:
    done = run("scan", short, "--pages", "region", "-o", tmp_path / "p.html", "-o", tmp_path / "p.png")
    assert done.returncode == 0, done.stderr
    page = (tmp_path / "p.html").read_text(encoding="utf-8")
    assert page.count('<p class="name">') == 2
    assert (tmp_path / "p.png").read_bytes()[:8] == b"\x89PNG\r\n\x1a\n"
    assert "The pages" in refused("scan", short, "--pages", "weather", "-o", tmp_path / "q.html")
    assert not (tmp_path / "q.html").exists()


def test_a_brief_is_published(short: Path, tmp_path: Path) -> None:
    brief = tmp_path / "weekly.toml"
    brief.write_text(
        f'source = "{short.as_posix()}"\nmeasures = ["sum(revenue)"]\n'
        'locale = "es"\nformats = ["md", "pdf"]\nout = "w"\n',
        encoding="utf-8",
    )
    done = run("publish", brief)
    assert done.returncode == 0, done.stderr
    made = [Path(line) for line in done.stdout.splitlines()[1:]]
    assert [path.name for path in made][:3] == ["report.pdf", "report.md", "findings.json"]
    assert "Los ingresos fueron de" in made[1].read_text(encoding="utf-8")
    assert run("publish", brief, "--out", tmp_path / "elsewhere").returncode == 0
    brief.write_text("mesures = []\n", encoding="utf-8")
    told = refused("publish", brief)
    assert "'mesures'" in told
    assert "measures" in told
    assert "no such file" in refused("publish", tmp_path / "nothing.toml")


def test_a_folder_is_not_called_as_a_page_would_be(tmp_path: Path) -> None:
    frame = pd.DataFrame({"day": pd.date_range("2024-01-01", periods=200), "fare": range(200)})
    report = ga.total(frame, ["sum(fare)"], grain="month").report()
    with pytest.raises(ga.OutputError, match=r"publish makes a folder.*Use write for one"):
        report.publish(tmp_path / "page.html")
    assert not (tmp_path / "page.html").exists()
    report.write(tmp_path / "page.html")
    assert (tmp_path / "page.html").is_file()
