"""What is published: whole, safe, self-contained, and the same figures in every format."""

from __future__ import annotations

import base64
import csv
import hashlib
import io
import json
import re
from html.parser import HTMLParser
from pathlib import Path

import numpy as np
import pandas as pd
import pytest

import golden_almanac as ga
from tests.analysis.detectors.tables import planted


class Page(HTMLParser):
    """Text, tags and links of a page."""

    def __init__(self, page: bytes) -> None:
        super().__init__()
        self.tags: list[tuple[str, dict[str, str | None]]] = []
        self.text: list[str] = []
        self.feed(page.decode("utf-8"))

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        self.tags.append((tag, dict(attrs)))

    def handle_data(self, data: str) -> None:
        self.text.append(data)


@pytest.fixture(scope="module")
def page(demo_scan: ga.Scan) -> Page:
    return Page(demo_scan.report().html())


def test_the_page_says_what_the_scan_says(page: Page, demo_scan: ga.Scan) -> None:
    text = " ".join(" ".join(page.text).split())
    summary = demo_scan.summary()
    assert summary.headline in text
    for sentence in summary.bullets:
        assert sentence in text
    for one in demo_scan.findings[:12]:
        assert one.headline in text
    for one in demo_scan.findings[10:]:
        assert one.headline in text


def test_the_page_asks_for_nothing(page: Page, demo_scan: ga.Scan) -> None:
    raw = demo_scan.report().html().decode()
    assert not [tag for tag, _ in page.tags if tag in ("link", "iframe", "img", "object", "form", "base")]
    scripts = re.findall(r"<script>(.*?)</script>", raw, re.DOTALL)
    named = base64.b64encode(hashlib.sha256(scripts[0].encode()).digest()).decode()
    assert len(scripts) == 1
    assert f"script-src 'sha256-{named}'" in raw
    for tag, attributes in page.tags:
        for name in ("src", "href", "action"):
            assert (attributes.get(name) or "#").startswith("#"), (tag, attributes)
        assert not any(name.startswith("on") for name in attributes)
    assert "default-src 'none'" in raw
    outside = [url for url in re.findall(r"https?://[^\s\"'<)]+", raw) if "w3.org" not in url and "purl.org" not in url]
    assert outside == []
    assert len(raw) < 3_000_000


def test_the_page_can_be_read_without_seeing_it(page: Page) -> None:
    headings = [int(tag[1]) for tag, _ in page.tags if re.fullmatch("h[1-6]", tag)]
    assert headings[0] == 1
    assert headings.count(1) == 1
    assert max(headings) == 2
    charts = [attributes for tag, attributes in page.tags if tag == "svg" and attributes.get("role") == "img"]
    assert len(charts) == 12
    assert all(len(attributes.get("aria-label") or "") > 30 for attributes in charts)
    assert dict(page.tags)["html"]["lang"] == "en"


def test_ids_on_the_page_are_unique(page: Page) -> None:
    ids = [attributes["id"] for _, attributes in page.tags if attributes.get("id")]
    assert len(ids) == len(set(ids))


def test_json_follows_the_format(demo_scan: ga.Scan) -> None:
    data = json.loads(demo_scan.report().json(), parse_constant=lambda name: pytest.fail(f"{name} in JSON"))
    assert data["format"] == "golden-almanac/findings/1"
    assert data["table"] == {
        "rows": demo_scan.result.survey.table.rows,
        "columns": 18,
        "time": "date",
        "grain": "month",
        "first": "2022-09-01",
        "last": "2025-10-19",
        "partial_last_period": True,
    }
    keys = [
        "id",
        "kind",
        "measure",
        "by",
        "where",
        "sql",
        "period",
        "baseline",
        "direction",
        "good",
        "small",
        "figures",
        "test",
        "score",
        "headline",
        "detail",
        "check",
        "notes",
        "related",
    ]
    wanted = {
        "trend": {"slope_per_period", "change_pct", "level", "start", "end"},
        "shift": {"date", "before", "after", "change_pct"},
        "seasonality": {"cycle", "peak", "trough", "strength", "profile"},
        "ranking": {"order", "values", "shares", "lead_pct"},
        "difference": {"value", "rest", "gap", "gap_pct", "n"},
        "spike": {"date", "value", "expected", "deviations"},
        "gap": {"what", "since", "until"},
        "concentration": {"top", "share", "herfindahl"},
        "relationship": {"columns", "r", "low", "high", "slope", "r_adjusted"},
        "distribution": {"shape", "quartiles", "skew"},
        "mix": {"whole", "parts"},
        "divergence": {"value", "expected", "since"},
        "outlier": {"row", "value", "expected_low", "expected_high", "key", "fault"},
    }
    for one in data["findings"]:
        assert list(one) == keys
        assert wanted[one["kind"]] <= set(one["figures"])
        assert set(one["score"]) == {"total", "strength", "reach", "confidence"}
        assert 0 <= one["test"]["q"] <= 0.05
    assert set(data["summary"]) == {"headline", "text", "bullets"}


def test_the_checks_in_the_json_run_elsewhere(demo_scan: ga.Scan, sailings: Path) -> None:
    """The SQL of the file, run by hand in a plain engine over the plain file, gives the figures."""
    import duckdb

    data = json.loads(demo_scan.report().json())
    connection = duckdb.connect()
    connection.execute(
        "CREATE TABLE source AS SELECT * REPLACE (cancelled = 'yes' AS cancelled, on_time = 'yes' AS on_time) "
        f"FROM read_csv('{sailings}', header=true, delim=',', all_varchar=false)"
    )
    for one in data["findings"] + data["folded"]:
        row = connection.sql(one["check"]["sql"]).df().iloc[0]
        for name, value in one["check"]["expect"].items():
            assert float(row[name]) == pytest.approx(value, rel=1e-9, abs=1e-9), one["headline"]


def test_csv(demo_scan: ga.Scan) -> None:
    rows = list(csv.DictReader(io.StringIO(demo_scan.report().csv().decode("utf-8"))))
    assert [row["headline"] for row in rows] == [one.headline for one in demo_scan.findings]


def test_publish_writes_everything(demo_scan: ga.Scan, tmp_path: Path) -> None:
    written = demo_scan.report().publish(tmp_path / "out", formats=["html", "json", "csv", "png", "svg"])
    names = sorted(str(path.relative_to(tmp_path / "out")) for path in written)
    assert {"report.html", "findings.json", "findings.csv"} <= set(names)
    assert sum(name.endswith(".png") for name in names) == sum(name.endswith(".svg") for name in names) == 12
    assert sorted(str(p.relative_to(tmp_path / "out")) for p in (tmp_path / "out").rglob("*") if p.is_file()) == names


def test_unknown_formats_and_unwritable_folders(demo_scan: ga.Scan, tmp_path: Path) -> None:
    with pytest.raises(ga.RequestError, match="cannot be 'docm'"):
        demo_scan.report().publish(tmp_path, formats=["docm"])
    (tmp_path / "file").write_text("x")
    with pytest.raises(ga.OutputError, match="cannot be written"):
        demo_scan.report().write(tmp_path / "file" / "page.html")
    assert (tmp_path / "file").read_text() == "x"


HOSTILE = [
    "<script>alert(1)</script>",
    "{{ 7 * 7 }}",
    "=cmd()",
    "+1",
    "@x",
    "a\"b'c",
    "–\u202e right",
    "</svg><img src=x onerror=1>",
]


def test_hostile_labels_are_text_everywhere() -> None:
    frame = planted()
    shops = sorted(frame["shop"].unique())
    frame["shop"] = frame["shop"].map(dict(zip(shops, HOSTILE[:4], strict=True)))
    frame["area"] = np.where(frame["area"] == "North", HOSTILE[7], HOSTILE[6])
    frame = frame.rename(columns={"amount": "am<b>ount"})
    scan = ga.scan(frame)
    assert scan.findings
    report = scan.report(title="<i>title</i>")
    page = Page(report.html())
    assert not [tag for tag, _ in page.tags if tag in ("img", "i", "b")]
    assert [tag for tag, _ in page.tags].count("script") == 1  # the page's own
    assert "49" not in [text.strip() for text in page.text]
    assert any("<script>alert(1)</script>" in text for text in page.text)
    for row in csv.reader(io.StringIO(report.csv().decode())):
        assert not [cell for cell in row if cell[:1] in ("=", "+", "@")]
    assert all(one.check().agrees for one in (*scan.findings, *scan.folded))


def test_a_frame_to_page_without_dates() -> None:
    rng = np.random.default_rng(5)
    frame = pd.DataFrame({"team": rng.choice(list("abcd"), 900)})
    frame["score"] = rng.normal(50, 9, 900) + 6 * (frame["team"] == "c")
    scan = ga.scan(frame)
    assert [f.where.label for f in scan.findings] == ["c"]
    assert "No column holds dates" in scan.report().html().decode()
