"""The command line as its users meet it."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import pytest

import golden_almanac as ga
from golden_almanac.api.scan import finding_kinds
from tests.commands import in_a_process, run


def refused(*arguments: object) -> str:
    done = run(*arguments)
    assert done.returncode == 2, done.stderr
    assert done.stdout == ""
    assert "Traceback" not in done.stderr
    assert "Error:" not in done.stderr.replace("Error: No such option", "")
    assert len(done.stderr.strip().splitlines()) == 1
    return done.stderr


def test_scan_shows_summary_and_findings(sailings: Path) -> None:
    done = in_a_process("scan", sailings)
    assert done.returncode == 0
    lines = done.stdout.splitlines()
    assert lines[0] == "Revenue rose 24% from September 2022 to September 2025."
    assert lines[1].startswith("It was 1.37 million in September 2025, ")
    assert all(len(line) <= 100 for line in lines)
    assert "Gannet Line stepped up" in done.stdout
    assert "tests" in done.stderr
    assert "\x1b" not in done.stdout


def test_scan_as_json(sailings: Path) -> None:
    done = run("scan", sailings, "--json", "-m", "sum(revenue)", "-b", "route")
    data = json.loads(done.stdout)
    assert data["request"]["measures"] == ["sum(revenue)"]
    assert {one["by"] for one in data["findings"]} <= {"route", None}


def test_where_narrows_and_is_in_the_checks(sailings: Path) -> None:
    data = json.loads(run("scan", sailings, "--json", "-w", "region = 'Outer Isles'", "-m", "revenue").stdout)
    assert data["table"]["rows"] > 20000
    assert data["findings"]
    assert all("\"region\" = 'Outer Isles'" in one["check"]["sql"] for one in data["findings"])


def test_several_changes_are_one_story(sailings: Path, tmp_path: Path) -> None:
    asked = ("-m", "revenue", "-m", "avg(cancelled)", "--period", "2025-Q1", "-o", tmp_path / "story.html")
    done = run("change", sailings, *asked)
    assert done.returncode == 0, done.stderr
    assert done.stdout.startswith("Revenue was 2.22 million in the first quarter of 2025, 5.7% above")
    assert "Cancelled rate rose by" in done.stdout.replace("\n", " ")
    assert all(len(line) <= 100 for line in done.stdout.splitlines())
    assert "Shearwater" in (tmp_path / "story.html").read_text("utf-8")
    asked = ("-m", "revenue", "--baseline", "previous", "--baseline", "year-ago", "--json")
    data = json.loads(run("change", sailings, *asked).stdout)
    assert [one["baseline"]["start"] for one in data["explanations"]] == ["2025-08-01", "2024-09-01"]
    assert data["explanations"][0]["verdict"] == "season"


def test_bad_requests_of_a_change(sailings: Path) -> None:
    assert "equals sign" in refused("change", sailings, "-m", "revenue", "--identity", "revenue")
    assert "does not" in refused("change", sailings, "-m", "revenue", "--identity", "revenue = passengers * capacity")
    assert "holds no day" in refused("change", sailings, "--period", "last 0 days")
    assert "no such file" in refused("change", sailings, "--notes", "nowhere.csv")


def test_change(sailings: Path) -> None:
    done = run(
        "change",
        sailings,
        "-m",
        "avg(on_time)",
        "--period",
        "2025-01/2025-09",
        "--baseline",
        "2023-01/2023-09",
        "-b",
        "route",
    )
    assert done.returncode == 0
    assert "is mix" in done.stdout
    data = json.loads(run("change", sailings, "-m", "revenue", "--period", "2025-Q3", "--json").stdout)
    assert data["findings"][0]["where"] == {}
    whole = data["findings"][0]["figures"]["change"]
    for dimension in data["explanation"]["dimensions"]:
        assert sum(part["change"] for part in dimension["contributions"]) == pytest.approx(whole, rel=1e-9)
    assert sum(part["change"] for part in data["explanation"]["factors"]) == pytest.approx(whole, rel=1e-9)


def test_outputs(sailings: Path, tmp_path: Path) -> None:
    targets = ("-o", tmp_path / "p.html", "-o", tmp_path / "f.json", "-o", tmp_path / "f.csv")
    done = run("scan", sailings, "-m", "revenue", "-b", "route", *targets)
    assert done.returncode == 0
    assert sorted(path.name for path in tmp_path.iterdir()) == ["f.csv", "f.json", "p.html"]
    assert run("change", sailings, "-o", tmp_path / "c.html").returncode == 0


@pytest.mark.long
def test_two_runs_of_the_demo_give_the_same_bytes_and_say_where_to_look(tmp_path: Path) -> None:
    first, second = tmp_path / "one", tmp_path / "two"
    for folder, seed, zone in ((first, "1", "UTC"), (second, "99", "Asia/Kolkata")):
        done = in_a_process("demo", "--to", folder, PYTHONHASHSEED=seed, TZ=zone)
        assert done.returncode == 0
        pages = [f"{page}.html" for page in ("report", "cohorts", "figures", "ledger", "peers", "table")]
        for name in (*pages, "findings.json", "sailings.csv", "stories.toml"):
            assert name in done.stdout
            assert (folder / name).is_file()
        assert "Done in" in done.stdout
    files = sorted(path.relative_to(first) for path in first.rglob("*") if path.is_file())
    assert files == sorted(path.relative_to(second) for path in second.rglob("*") if path.is_file())
    assert len(files) >= 20
    for name in files:
        assert (first / name).read_bytes() == (second / name).read_bytes(), name


@pytest.mark.parametrize("command", ["scan", "change"])
def test_bad_files(command: str, tmp_path: Path) -> None:
    def file(name: str, text: str) -> Path:
        path = tmp_path / name
        path.write_text(text, encoding="utf-8")
        return path

    assert "no such file" in refused(command, tmp_path / "none.csv")
    assert "the file is empty" in refused(command, file("empty.csv", ""))
    assert "a folder" in refused(command, tmp_path)
    assert "single row" in refused(command, file("one.csv", "a,b\nx,1\n"))
    assert "no rows" in refused(command, file("head.csv", "a,b\n"))


def test_no_date_is_no_error_for_a_scan(tmp_path: Path) -> None:
    path = tmp_path / "teams.csv"
    path.write_text("team,score\n" + "".join(f"{'abc'[i % 3]},{(i * 37) % 50}\n" for i in range(300)), encoding="utf-8")
    done = run("scan", path)
    assert done.returncode == 0
    assert "No column holds dates" in done.stdout
    assert "no column of dates" in refused("change", path)


@pytest.mark.parametrize(
    ("options", "words"),
    [
        (["-m", "sum(revnue)"], "Did you mean 'revenue'"),
        (["-m", "sum(revenue"], "not SQL that can be read"),
        (["-m", "sum((SELECT 1))"], "a query"),
        (["-m", "revenue; DROP TABLE x"], "more than one expression"),
        (["-b", "rout"], "'route'"),
        (["-w", "revenue >"], "not SQL that can be read"),
        (["-w", "random() > 0.5"], "the function"),
        (["-t", "route"], "holds text"),
        (["-g", "fortnight"], "one of day, week"),
        (["-k", "magic"], "one of"),
        (["-o", "x.xyz"], "names no format"),
        (["-o", "noending"], "no ending"),
        (["-w", "route = 'Nowhere'"], "no row meets"),
    ],
)
def test_bad_requests(sailings: Path, tmp_path: Path, options: list[str], words: str) -> None:
    assert words in refused("scan", sailings, *options)


def test_the_source_is_never_overwritten(sailings: Path) -> None:
    before = sailings.read_bytes()
    assert "source itself" in refused("scan", sailings, "-o", sailings)
    assert sailings.read_bytes() == before


def test_nothing_is_left_of_a_failed_run(sailings: Path, tmp_path: Path) -> None:
    refused("scan", sailings, "-m", "sum(nothing)", "-o", tmp_path / "page.html")
    assert list(tmp_path.iterdir()) == []


def test_help_and_version() -> None:
    done = in_a_process("--help")
    assert done.returncode == 0
    for command in ("demo", "scan", "change"):
        assert command in done.stdout
        assert "golden-almanac " + command in run(command, "--help").stdout
    assert run("--version").stdout.startswith("golden-almanac ")
    assert run("scan").returncode == 2


def test_kinds_are_listed_without_a_source() -> None:
    done = run("scan", "--kinds")
    assert done.returncode == 0
    assert [line.split()[0] for line in done.stdout.splitlines() if line[0] != " "] == list(finding_kinds())
    assert "not told below 5 percent over the leg (--floor trend=…)" in done.stdout


def test_a_closed_pipe_is_no_failure(sailings: Path) -> None:
    shell = f"'{sys.executable}' -m golden_almanac scan '{sailings}' --json | head -c 10"
    done = subprocess.run(["sh", "-c", shell], capture_output=True, text=True, timeout=120)
    assert "Traceback" not in done.stderr


def test_check(tmp_path: Path) -> None:
    ga.write_demo(tmp_path)
    book = tmp_path / "harbour-office.xlsx"
    done = run("check", book, "--sheet", "Quay dues", "--fix", tmp_path / "dues.csv")
    assert done.returncode == 0
    assert "4 rows are totals" in done.stdout
    data = json.loads(run("check", tmp_path / "dues.csv", "--json").stdout)
    assert data["table"]["rows"] == 27
    assert data["readiness"] == []
    answer = run("check", tmp_path / "dues.csv", "--sql", "SELECT count(*) AS n FROM source", "--json")
    assert json.loads(answer.stdout)["rows"] == [{"n": 27}]
    assert "no sheet named" in refused("check", book, "--sheet", "Nowhere")
    assert run("scan", book, "--sheet", "Quay dues").returncode == 0
    assert "source itself" in refused("check", tmp_path / "dues.csv", "--fix", tmp_path / "dues.csv")


def test_a_source_alone_says_what_it_holds_and_what_to_try(shop: Path, sailings: Path) -> None:
    done = run(shop)
    assert done.returncode == 0, done.stderr
    assert "shop.csv: 6 rows and 5 columns" in done.stdout
    assert "Figures: price, units" in done.stdout
    tried = [line.split() for line in done.stdout.splitlines() if line.startswith("  golden-almanac")]
    assert len(tried) == 3
    for words in tried[:1]:
        assert run(*words[1:]).returncode == 0
    # What is neither a command nor a file is told as before.
    assert "No such command" in run("nothing.csv").stderr
