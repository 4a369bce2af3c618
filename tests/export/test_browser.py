"""The page in a real browser: values on hover and keys, labels lit everywhere, tables sorted, nothing asked from
outside."""

from __future__ import annotations

import csv
import shutil
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pandas as pd
import pytest

import golden_almanac as ga

CHROMIUM = shutil.which("chromium") or shutil.which("chromium-browser")
pytestmark = pytest.mark.skipif(CHROMIUM is None, reason="Chromium is not here; .ci/run installs it")
QUIET = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


@pytest.fixture(scope="module")
def browser() -> Iterator[Any]:
    from playwright.sync_api import sync_playwright

    with sync_playwright() as play:
        made = play.chromium.launch(executable_path=CHROMIUM, args=QUIET)
        yield made
        made.close()


@pytest.fixture(scope="module")
def opened(
    browser: Any, demo_scan: ga.Scan, tmp_path_factory: pytest.TempPathFactory
) -> Iterator[tuple[Any, list[str]]]:
    path = demo_scan.report().write(tmp_path_factory.mktemp("page") / "page.html")
    amiss: list[str] = []
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    page.on("console", lambda message: amiss.append(message.text) if message.type in ("error", "warning") else None)
    page.on("pageerror", lambda error: amiss.append(str(error)))
    local = ("file:", "data:", "blob:")
    page.on("request", lambda asked: None if asked.url.startswith(local) else amiss.append(asked.url))
    page.goto(path.as_uri())
    yield page, amiss
    page.close()


def test_hover_tells_the_value_that_the_data_have(opened: tuple[Any, list[str]], demo_scan: ga.Scan) -> None:
    page, amiss = opened
    mark = page.locator("section").first.locator("circle.mark").nth(3)
    mark.scroll_into_view_if_needed()
    mark.hover()
    data = demo_scan.report().model.sections[0].chart.data
    shown = page.locator("#tip").inner_text()
    assert shown.startswith(f"Revenue, {data['period'][3]}: ")
    assert float(shown.rsplit(" ", 1)[1].replace(",", "").replace("M", "e6")) == pytest.approx(
        data["Revenue"][3], rel=1e-3
    )
    assert amiss == []


def test_keys_walk_the_marks_and_a_click_lights_the_label_everywhere(opened: tuple[Any, list[str]]) -> None:
    page, amiss = opened
    page.locator("figure.chart svg[tabindex]").first.focus()
    page.keyboard.press("ArrowRight")
    first = page.locator("#tip").inner_text()
    page.keyboard.press("ArrowRight")
    assert page.locator("#tip").inner_text() != first
    page.keyboard.press("Enter")
    lit = page.locator(".mark.lit")
    assert lit.count() > 1
    assert len({lit.nth(place).get_attribute("data-label") for place in range(0, lit.count(), 7)}) == 1
    page.keyboard.press("Enter")
    assert page.locator(".mark.lit").count() == 0
    assert amiss == []


def test_tables_sort_and_files_are_given(opened: tuple[Any, list[str]], tmp_path: Path) -> None:
    page, amiss = opened
    section = page.locator("section").first
    section.locator("summary").first.click()
    section.locator("th button").nth(1).click()
    values = [
        float(cell) for cell in section.locator("td:nth-child(2)").evaluate_all("all => all.map(c => c.dataset.value)")
    ]
    assert values == sorted(values)
    with page.expect_download() as given:
        section.locator(".take button", has_text="CSV").click()
    given.value.save_as(tmp_path / "figures.csv")
    rows = list(csv.reader((tmp_path / "figures.csv").open(encoding="utf-8")))
    assert rows[0][:2] == ["period", "Revenue"]
    assert float(rows[1][1]) == values[0]
    with page.expect_download() as given:
        section.locator(".take button", has_text="PNG").click()
    given.value.save_as(tmp_path / "chart.png")
    assert (tmp_path / "chart.png").read_bytes().startswith(b"\x89PNG")
    assert amiss == []


def test_a_phone_has_no_sideways_scroll_and_print_gives_pages(opened: tuple[Any, list[str]]) -> None:
    page, amiss = opened
    page.set_viewport_size({"width": 390, "height": 800})
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    page.set_viewport_size({"width": 1280, "height": 800})
    from io import BytesIO

    from pypdf import PdfReader

    printed = PdfReader(BytesIO(page.pdf(format="A4")))
    assert 4 <= len(printed.pages) <= 16
    assert amiss == []


def test_headings_texts_and_contrast(opened: tuple[Any, list[str]]) -> None:
    page, _ = opened
    assert page.locator("h1").count() == 1
    assert page.locator("svg[role=img]:not([aria-label])").count() == 0
    assert page.locator("button:not([aria-label])").evaluate_all("all => all.every(one => one.textContent.trim())")
    for scheme in ("light", "dark"):
        page.emulate_media(color_scheme=scheme)
        pairs = page.evaluate(
            """() => { const style = getComputedStyle(document.documentElement);
            return ["--ink", "--quiet", "--accent"].map(name => [style.getPropertyValue(name).trim(),
            style.getPropertyValue("--paper").trim()]); }"""
        )
        from golden_almanac.charts.palette import contrast

        assert all(contrast(one, other) >= (4.5 if place < 2 else 3) for place, (one, other) in enumerate(pairs))
    page.emulate_media(color_scheme="light")


def test_the_switch_changes_sentence_and_chart_together(browser: Any, tmp_path: Path) -> None:
    from tests.analysis.detectors.tables import planted

    scan = ga.scan(planted(), kinds=["trend", "shift", "seasonality"])
    report = scan.report(switch="area")
    assert len(report.views) >= 2
    (label,), model = report.views[0]
    assert label is not None
    path = report.write(tmp_path / "page.html")
    assert path.stat().st_size < 3_000_000
    page = browser.new_page()
    amiss: list[str] = []
    page.on("pageerror", lambda error: amiss.append(str(error)))
    page.goto(path.as_uri())
    assert page.locator("h1:visible").inner_text() == report.model.summary.headline
    picked = "[data-switch=slice] select"
    page.select_option(picked, label=label)
    assert page.locator("h1:visible").inner_text() == model.summary.headline
    assert page.locator("section:visible").count() == len(model.sections)
    assert page.locator("section:visible h2").all_inner_texts() == [section.claim for section in model.sections]
    page.select_option(picked, label="All")
    assert page.locator("h1:visible").inner_text() == report.model.summary.headline
    assert amiss == []
    page.close()
    with pytest.raises(ga.RequestError, match="broken down by"):
        scan.report(switch="nothing")


def test_two_switches_and_two_slices_beside_each_other(browser: Any, sailings: Path, tmp_path: Path) -> None:
    scan = ga.scan(sailings, measures=["sum(revenue)"], by=["region", "channel"], kinds=["trend", "seasonality"])
    report = scan.report(switch=["region", "channel"])
    models = dict(report.views)
    assert len({labels for labels in models if None not in labels}) == 9
    page = browser.new_page(viewport={"width": 1400, "height": 900})
    amiss: list[str] = []
    page.on("pageerror", lambda error: amiss.append(str(error)))
    address = report.write(tmp_path / "page.html").as_uri()
    page.goto(address)
    region, channel = page.locator("[data-switch=slice] select").all()
    beside = page.locator("[data-switch=beside] select").all()
    region.select_option(label="Outer Isles")
    channel.select_option(label="Web")
    assert page.locator("h1:visible").all_inner_texts() == [models["Outer Isles", "Web"].summary.headline]
    beside[0].select_option(label="North Skerries")
    told = [models["Outer Isles", "Web"], models["North Skerries", None]]
    assert page.locator("h1:visible").all_inner_texts() == [one.summary.headline for one in told]
    left, right = (one.bounding_box() for one in page.locator("h1:visible").all())
    assert left["y"] == right["y"]
    assert right["x"] > left["x"] + 400
    # The filter for the slice stands in the edition line: its rows were scanned by themselves.
    assert "'Web'" in page.locator(".edition:visible").first.inner_text()
    # A link to a finding of a slice opens the page at that slice.
    place = page.locator("section:visible").first.get_attribute("id")
    other = browser.new_page()
    other.goto(f"{address}#{place}")
    assert other.locator("h1:visible").inner_text() == models["Outer Isles", "Web"].summary.headline
    other.close()
    page.close()
    assert amiss == []
    with pytest.raises(ga.RequestError, match="one column, or two"):
        scan.report(switch=["region", "channel", "region"])


def test_all_findings_are_searched_sorted_and_reached(opened: tuple[Any, list[str]], demo_scan: ga.Scan) -> None:
    page, amiss = opened
    page.locator(".every summary").click()
    rows = page.locator(".every tbody tr:visible")
    assert rows.count() == len(demo_scan.findings)
    page.locator(".every input").fill("AGENTS trend")
    wanted = [one.headline for one in demo_scan.findings if one.kind == "trend" and "Agents" in one.headline]
    assert [text.split("\t")[0].strip() for text in rows.all_inner_texts()] == wanted
    page.locator(".every input").fill("")
    page.locator(".every th button").last.click()
    scores = [float(text) for text in page.locator(".every tbody td:last-child").all_inner_texts()]
    assert scores == sorted(scores)
    link = page.locator(".every tbody a").first
    target = str(link.get_attribute("href"))[1:]
    assert page.locator(f"section[id='{target}'] :is(h2, h3)").inner_text() == link.inner_text()
    assert amiss == []


def test_one_section_is_printed_alone(opened: tuple[Any, list[str]]) -> None:
    page, amiss = opened
    page.evaluate("window.print = () => {}")
    page.locator("section .take button").nth(3).click()
    page.emulate_media(media="print")
    assert page.locator("section:visible").count() == 1
    assert page.locator("h1:visible").count() == 0
    page.evaluate("dispatchEvent(new Event('afterprint'))")
    assert page.locator("section:visible").count() > 1
    page.emulate_media(media="screen")
    assert amiss == []


def test_an_accessibility_checker_finds_nothing(browser: Any, demo_scan: ga.Scan, tmp_path: Path) -> None:
    from axe_playwright_python.sync_playwright import Axe

    whole_report = demo_scan.report()
    frame = pd.DataFrame({"berth": ["North", "South"], "calls": [412.0, 388.0]})
    path = whole_report.drop(*whole_report.ids[4:]).table("Calls by berth", frame).write(tmp_path / "page.html")
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    page.goto(path.as_uri())
    # The checker's own script is put in from outside, which the page's policy forbids: it is run in a copy without.
    html = page.content()
    whole = html[: html.index("<meta http-equiv")] + html[html.index(">", html.index("<meta http-equiv")) + 1 :]
    copy = browser.new_page(viewport={"width": 1280, "height": 800})
    for scheme in ("light", "dark"):
        copy.emulate_media(color_scheme=scheme)
        copy.set_content(whole.replace("<details>", "<details open>"))
        # What the dark page has of its own is its colours.
        rules = (
            ["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa", "best-practice"] if scheme == "light" else ["color-contrast"]
        )
        found = Axe().run(copy, options={"runOnly": rules})
        told = [
            (one["id"], one["help"], [node["html"][:160] for node in one["nodes"][:3]])
            for one in found.response["violations"]
        ]
        assert told == [], (scheme, told)
    copy.close()
    page.close()
