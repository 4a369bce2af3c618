"""Labels are text wherever they stand: no formula in a cell, no mark of ours in a drawing or a page."""

from __future__ import annotations

import csv
import io
import re
import zipfile
from pathlib import Path

import numpy as np
import openpyxl
import pandas as pd
import pytest

import golden_almanac as ga
from golden_almanac.export.data_files import cell_text, frame_bytes

from .kit import attack, done, texts

FORMULAS = [
    "=1+1",
    "+1+cmd|' /C calc'!A0",
    "-2+3",
    "@SUM(A1)",
    "\t=1",
    "\r=1",
    " =1+1",
    "＝1+1",
    '=HYPERLINK("http://x","y")',
]
MARKS = ["var(--accent)", "url(#clip)", "#A86A00", 'x" id="a', "/*fonts*/", "<!--fonts-->", "<script>alert(1)</script>",
         "</text></svg><script>", "{{ report }}", "${HOME}", "--category2", "<!-- x -->", "]]>", "&lt;b&gt;"]  # fmt: skip


def table(labels: list[str], column: str = "route") -> pd.DataFrame:
    rng = np.random.default_rng(5)
    days = pd.date_range("2022-01-01", "2024-12-31", freq="2D")
    frame = pd.DataFrame({"date": days.repeat(len(labels)), column: labels * len(days)})
    size = np.array([3.0**-place for place in range(len(labels))])
    frame["fare"] = np.tile(100 * (1 + size), len(days)) * rng.normal(1, 0.05, len(frame))
    return frame


@pytest.fixture(scope="module")
def published(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("formulas")
    scan = ga.scan(table([*FORMULAS[:4], *MARKS[:6], "Outer Bar"], "=cmd"), measures=["sum(fare)"])
    scan.report(title="=1+1").publish(
        folder, formats=["html", "pptx", "docx", "xlsx", "csv", "svg", "eml", "md", "json"]
    )
    return folder


def is_formula(cell: str) -> bool:
    """Whether a cell of a file would be a formula; numbers that are none of the data's texts are not."""
    return cell_text(cell) != cell and not re.fullmatch(r"-?[0-9.]+(?:e[+-]?[0-9]+)?", cell)


def formulas_in(data: bytes) -> list[str]:
    book = openpyxl.load_workbook(io.BytesIO(data))
    return [str(cell.value) for sheet in book for row in sheet.iter_rows() for cell in row if cell.data_type == "f"]


def test_no_label_is_a_formula_in_a_workbook_within_slides(published: Path) -> None:
    count = 0
    with zipfile.ZipFile(published / "report.pptx") as pack:
        for name in pack.namelist():
            if name.endswith(".xlsx"):
                count += 1
                assert formulas_in(pack.read(name)) == []
    assert count


def test_formulas_of_the_workbook_are_ours(published: Path) -> None:
    for formula in formulas_in((published / "report.xlsx").read_bytes()):
        # Text of the data stands in quotes; outside them are our functions and cells only.
        bare = re.sub(r'"(?:[^"]|"")*"', "", formula)
        assert not re.search(r"cmd|HYPERLINK|SUM\(A1\)|\|", bare), formula


def test_no_cell_of_a_csv_is_a_formula(published: Path) -> None:
    for row in csv.reader((published / "findings.csv").read_text("utf-8").splitlines()):
        assert not any(map(is_formula, row)), row


@pytest.mark.parametrize("head", FORMULAS[::4])
def test_one_rule_for_every_csv(head: str, tmp_path: Path) -> None:
    """All of them as labels, some as the name of the column."""
    frame = table([*FORMULAS, "plain"], head)
    path = tmp_path / "t.parquet"
    frame.to_parquet(path)
    done("check", path, "--fix", tmp_path / "fixed.csv")
    done("drivers", path, "--outcome", "fare", "--keep-model", tmp_path / "m.json")
    done("drivers", path, "--score", tmp_path / "m.json", "-o", tmp_path / "scored.csv")
    done("scan", path, "-o", tmp_path / "found.csv")
    for name in ("fixed.csv", "scored.csv", "found.csv"):
        for row in csv.reader(io.StringIO((tmp_path / name).read_text("utf-8"))):
            assert not any(map(is_formula, row)), (name, row)


@pytest.mark.parametrize("text", FORMULAS)
def test_one_rule_for_every_cell(text: str) -> None:
    assert frame_bytes(pd.DataFrame({text: [text]})).count(b"'") >= 2


def test_numbers_with_signs_stay_numbers() -> None:
    assert frame_bytes(pd.DataFrame({"a": [-1.5, 2.0], "b": ["-3", "+4.5%"]})) == b"a,b\n-1.5,'-3\n2.0,'+4.5%\n"


def test_text_that_looks_like_our_marks_stays_text(tmp_path: Path) -> None:
    report = ga.scan(table(MARKS), measures=["sum(fare)"]).report(title="<script>alert(2)</script> /*fonts*/")
    page = report.html().decode("utf-8")
    body = page[page.index("<body") :]
    for label in MARKS[:5]:
        from markupsafe import escape

        assert str(escape(label)) in body or label in body, label
    assert "alert(1)</script>" not in page.replace("&lt;/script&gt;", "")
    assert page.count("@font-face") <= 8
    assert len(page) < 3_000_000
    # Ids of clips stay whole: each reference of a chart finds its own.
    for name in re.findall(r' (?:clip-path|fill|stroke)="url\(#([^)]+)\)"', body):
        assert f'id="{name}"' in body
    scripts = re.findall(r"<script[^>]*>", page)
    assert len(scripts) == 1


def test_every_format_takes_the_labels_as_text(published: Path) -> None:
    for place, text in texts(published):
        assert "<script>alert" not in text or place.endswith((".json", ".md", ".csv")), place
    assert attack("check", published / "findings.csv").returncode == 0
