"""Reports put together by hand and by brief: sections changed, pages a category, files kept, disks full."""

from __future__ import annotations

import errno
import os
import shutil
import sys
from pathlib import Path

import pandas as pd
import pytest

import golden_almanac as ga
from golden_almanac.charts.rendering import _may_fork
from golden_almanac.export.files import made_by_us, write_whole
from golden_almanac.text.numbers import format_amount

from .test_formats import READERS, _flat

EVERY = ("html", "pdf", "pptx", "docx", "xlsx", "md", "eml", "json", "csv", "png", "svg")


@pytest.fixture(scope="module")
def small(sailings: Path) -> ga.Scan:
    return ga.scan(
        sailings, measures=["sum(revenue)"], by=["region", "fare_class"], kinds=["trend", "ranking", "shift"]
    )


@pytest.fixture(scope="module")
def plain(small: ga.Scan) -> ga.Report:
    return small.report()


def test_title_owner_table_and_figure_stand_in_every_format(small: ga.Scan) -> None:
    frame = pd.DataFrame({"berth": ["North quay", "South quay"], "calls": [412.0, 388.0]})
    made = (
        ga.report(small, "Harbour notes", subtitle="for the board", owner="Reporting desk")
        .table("Calls by berth", frame, "Counted by hand.")
        .figure("Crew on duty", "48", "6 more than in May")
    )
    for kind, reader in READERS.items():
        text = _flat(reader(made.made(kind)))
        for wanted in ("for the board", "prepared by Reporting desk", "Calls by berth"):
            assert _flat(wanted) in text, (kind, wanted)
        if kind != "docx":
            assert _flat("6 more than in May") in text, kind
    page = made.html().decode()
    assert "North quay" in page
    assert "412" in page
    import io

    from docx import Document
    from openpyxl import load_workbook

    tables = Document(io.BytesIO(made.made("docx"))).tables
    assert [cell.text for cell in tables[-1].rows[1].cells] == ["North quay", "412"]
    book = load_workbook(io.BytesIO(made.made("xlsx")))
    assert book.worksheets[len(made.ids)].cell(6, 2).value == 412.0


def test_sections_are_replaced_resized_restyled_and_start_pages(plain: ga.Report) -> None:
    whole = plain
    first, second = whole.ids[:2]
    made = whole.replace(first, claim="Our own words.", detail="And why.").resize(first, 0.5).new_page(second)
    page = made.html().decode()
    assert "<h2>Our own words.</h2>" in page
    assert 'style="width:50%"' in page
    assert 'class="page ' in page
    drawn = whole.restyle(first, "bars", title="By hand", order="label", colours={"2022-09-01": "#123456"})
    chart = drawn.model.sections[0].chart
    assert chart is not None
    assert chart.kind == "bars"
    assert chart.title == "By hand"
    assert chart.data.iloc[:, 0].is_monotonic_increasing
    for ask, wrong in (
        (lambda: whole.resize(first, 3), "size"),
        (lambda: whole.restyle(first, "pie"), "kind"),
        (lambda: whole.restyle(first, hue="red"), "wish"),
        (lambda: whole.replace("nothing"), "one there is"),
    ):
        with pytest.raises(ga.RequestError, match=wrong):
            ask()


def test_an_overview_and_a_page_a_category_in_one_call(sailings: Path) -> None:
    import io

    from pypdf import PdfReader

    scan = ga.scan(sailings, measures=["sum(revenue)"], by=["region", "route"], kinds=["trend", "ranking"])
    report = scan.report(pages="region")
    parts = [section.part for section in report.model.sections if section.part]
    assert parts == ["Inner Sound", "North Skerries", "Outer Isles"] or set(parts) == {
        "Inner Sound",
        "North Skerries",
        "Outer Isles",
    }
    # Each page's figure is that of its own rows, added up by themselves.
    frame = pd.read_csv(sailings)
    month = frame[frame["date"].str[:7] == "2025-09"].groupby("region")["revenue"].sum()
    for section in report.model.sections:
        if section.part:
            told = format_amount(float(month[section.part]), None)
            assert told in f"{section.claim} {section.detail}", section.detail
    pages = PdfReader(io.BytesIO(report.made("pdf"))).pages
    opening = [page.extract_text().split("\n")[0] for page in pages]
    assert set(parts) <= set(opening)
    html = report.html().decode()
    assert html.count('<p class="name">') == 3
    assert "<h3>" in html
    with pytest.raises(ga.RequestError, match="The pages"):
        scan.report(pages="weather")


def test_files_of_others_are_not_written_over(plain: ga.Report, tmp_path: Path) -> None:
    report = plain
    written = report.publish(tmp_path / "out", formats=EVERY)
    # What we made may be made anew, in every format.
    assert all(made_by_us(path, path.read_bytes()) for path in written), [
        path for path in written if not made_by_us(path, path.read_bytes())
    ]
    assert set(report.publish(tmp_path / "out", formats=["html", "csv", "json"])) < set(written)
    for kind in ("html", "pdf", "xlsx", "md", "csv"):
        target = tmp_path / f"theirs.{kind}"
        # That a file names the program does not make it the program's.
        target.write_bytes(b"somebody's own work\n")
        about = tmp_path / f"about.{kind}"
        about.write_bytes(b"What I think of Golden Almanac\n")
        assert not made_by_us(about)
        with pytest.raises(ga.OutputError, match=r"did not make.*--replace"):
            report.write(target)
        assert target.read_bytes() == b"somebody's own work\n"
        report.write(target, replace=True)
        assert target.read_bytes() != b"somebody's own work\n"
    mine = tmp_path / "out" / "report.html"
    mine.write_bytes(b"my own page")
    with pytest.raises(ga.OutputError, match=r"report\.html"):
        report.publish(tmp_path / "out", formats=["html", "md"])
    assert (tmp_path / "out" / "report.md").stat().st_mtime <= mine.stat().st_mtime


@pytest.mark.parametrize("kind", EVERY[:9])
def test_a_full_disk_is_told_and_leaves_nothing(
    kind: str, plain: ga.Report, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    made = plain.made(kind)

    def full(handle: int) -> None:
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(ga.OutputError, match=r"No space left.*Make room"):
        write_whole(tmp_path / f"page.{kind}", made)
    assert list(tmp_path.iterdir()) == []


def test_pictures_made_together_are_the_same_bytes(
    plain: ga.Report, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    report = plain
    # Workers have a processor each, where no helper would be started.
    monkeypatch.setattr("golden_almanac.charts.rendering._may_fork", lambda: sys.platform == "linux")
    one = report.publish(tmp_path / "one", formats=["html", "docx", "png", "svg"])
    monkeypatch.setattr("golden_almanac.charts.rendering._may_fork", lambda: False)
    two = report.publish(tmp_path / "two", formats=["html", "docx", "png", "svg"])
    assert [path.read_bytes() for path in one] == [path.read_bytes() for path in two]
    monkeypatch.undo()
    assert isinstance(_may_fork(), bool)


def test_progress_is_told(plain: ga.Report, tmp_path: Path) -> None:
    told: list[str] = []
    plain.publish(tmp_path, formats=["html", "pdf"], progress=told.append)
    assert "making report.html" in told
    assert "making report.pdf" in told


BRIEF = """
title = "Monthly"
owner = "Reporting desk"
source = "{source}"
measures = ["sum(revenue)", "avg(on_time)"]
by = ["route", "region"]
length = "short"
text = "Revenue moved by {{{{ revenue.change_pct | percent }}}}."
formats = ["html", "md"]
out = "made"

[look.colours]
"Outer Bar" = "#2B98AD"

[[section]]
kind = "seasonality"
drop = true

[[section]]
compare = "delay_min"
by = "route"

[[section]]
draw = "bars"
title = "Outer Bar earns most"
sql = "SELECT route, sum(revenue) AS revenue FROM source GROUP BY 1"
highlight = ["Outer Bar"]
size = 0.7
first = true

[[section]]
show = "Crossings"
sql = "SELECT route, count(*) AS sailings FROM source GROUP BY 1 ORDER BY 1"
new_page = true

[[section]]
note = "Tern was in dry dock."
text = "Revenue of {{{{ revenue.period }}}} is {{{{ revenue.value | amount }}}}."
"""


def test_a_brief_is_published_as_it_says(sailings: Path, tmp_path: Path) -> None:
    brief = tmp_path / "monthly.toml"
    brief.write_text(BRIEF.format(source=sailings.as_posix()), encoding="utf-8")
    edition = ga.publish_brief(brief)
    assert edition.folder.parent == tmp_path / "made"
    names = [path.relative_to(edition.folder).as_posix() for path in edition.files]
    assert names[:3] == ["report.html", "report.md", "findings.json"]
    text = (edition.folder / "report.md").read_text(encoding="utf-8")
    heads = [line.removeprefix("## ") for line in text.splitlines() if line.startswith("## ")]
    assert heads[0] == "Outer Bar earns most"
    assert not any("peaks" in head for head in heads)
    assert "Crossings" in heads
    frame = pd.read_csv(sailings)
    month = frame["date"].str[:7]
    now, then = (frame.loc[month == m, "revenue"].sum() for m in ("2025-09", "2024-09"))
    assert f"Revenue moved by +{100 * (now / then - 1):.0f}%." in text
    assert f"| Harbour Hop | {(frame['route'] == 'Harbour Hop').sum():,} |" in text
    page = (edition.folder / "report.html").read_text(encoding="utf-8")
    assert "prepared by Reporting desk" in page
    assert "--category2" in page
    report = ga.report(ga.read_brief(brief))
    assert report.ids[0].startswith("chart-")


@pytest.mark.parametrize(
    ("change", "told"),
    [
        ('ownr = "x"', r"'ownr'.*owner"),
        ("measures = 3", "measures.*a list of texts"),
        ('[[section]]\ntitle = "x"', "one of id, kind"),
        ('[[section]]\ndraw = "bars"', "with sql"),
        ("[look]\ncolour = 3", "colours"),
        ("title = ", "not TOML"),
        ('out = "../elsewhere"', "outside the folder"),
        ('[[section]]\nkind = "weather"\ndrop = true', "kind of section"),
        ('[mail]\nhost = "localhost"', "no from"),
        ('source = "nowhere.csv"', "nowhere.csv"),
    ],
)
def test_a_wrong_brief_is_refused_in_one_sentence(change: str, told: str, sailings: Path, tmp_path: Path) -> None:
    brief = tmp_path / "b.toml"
    plain = {"source": f'source = "{sailings.as_posix()}"', "measures": 'measures = ["sum(revenue)"]'}
    key = change.split(" ")[0]
    lines = [line for name, line in plain.items() if name != key]
    opening, _, tables = change.partition("[")
    brief.write_text("\n".join([opening, *lines, ("[" + tables) if tables else ""]), encoding="utf-8")
    with pytest.raises(ga.AlmanacError, match=told):
        ga.publish_brief(brief)
    assert [path.name for path in tmp_path.iterdir()] == ["b.toml"]


def test_spaces_within_numbers_are_kept_in_every_format(small: ga.Scan) -> None:
    made = small.in_language("fr").report()
    for kind, reader in READERS.items():
        text = reader(made.made(kind)).replace("\u202f", "\u00a0").replace("\u00a0", "~").replace(" ", "~")
        assert "25~452~lignes" in text.replace("\n", "~"), kind


def test_standing_jobs_are_sections_of_a_brief(sailings: Path, tmp_path: Path) -> None:
    for name in ("ledger.csv", "own.csv", "operators.csv"):
        shutil.copy(sailings.parent / name, tmp_path / name)
    (tmp_path / "books.toml").write_text(
        'source = "ledger.csv"\ntime = "day"\nmeasures = ["sum(amount)"]\nby = ["port"]\ntop = 1\n'
        '[[section]]\nledger = "account"\nbase = ["4000 Fare revenue", "4100 Freight revenue"]\n'
        '[[section]]\ntable = "port"\ncolumns = ["2024-Q3", "2025-Q3"]\nmeasure = "sum(amount)"\n'
        '[[section]]\nfigures = "last complete month"\nmeasures = ["sum(amount)"]\n',
        encoding="utf-8",
    )
    made = ga.report(ga.read_brief(tmp_path / "books.toml"))
    assert {"ledger-accounts", "ledger-questions", "margin-bridge", "table", "key-figures"} <= set(made.ids)
    claims = {section.id: section.claim for section in made.model.sections}
    assert "6100 Insurance was" in claims["ledger-accounts"]
    assert "Q3 2024" in claims["table"]
    (tmp_path / "peers.toml").write_text(
        'source = "operators.csv"\ntop = 1\n[[section]]\npeers = "own.csv"\nlike = "revenue"\ncategory = "trade"\n',
        encoding="utf-8",
    )
    made = ga.report(ga.read_brief(tmp_path / "peers.toml"))
    assert "Maintenance as a share of revenue is 8.8%" in next(s.claim for s in made.model.sections if s.id == "peers")
