"""Every format read back by another reader: the same sentences, figures and order; nothing in a label is ever
markup."""

from __future__ import annotations

import asyncio
import email
import email.policy
import io
import re
import shutil
import subprocess
import threading
from pathlib import Path

import numpy as np
import pytest

import golden_almanac as ga
from golden_almanac.text.languages import Quantity, pieces_of
from tests.analysis.detectors.tables import planted

from .test_publish import HOSTILE

FORMATS = ("html", "pdf", "pptx", "docx", "xlsx", "md", "eml")


@pytest.fixture(scope="module")
def report(demo_scan: ga.Scan) -> ga.Report:
    return demo_scan.report(title="What matters")


@pytest.fixture(scope="module")
def files(report: ga.Report) -> dict[str, bytes]:
    return {kind: report.made(kind) for kind in FORMATS}


def _flat(text: str) -> str:
    return re.sub(r"[^\w%.−+-]", "", text)


def _pdf(content: bytes) -> str:
    from pypdf import PdfReader

    return "\n".join(page.extract_text() for page in PdfReader(io.BytesIO(content)).pages)


def _pptx(content: bytes) -> str:
    from pptx import Presentation

    return "\n".join(
        shape.text_frame.text
        for slide in Presentation(io.BytesIO(content)).slides
        for shape in slide.shapes
        if shape.has_text_frame
    )


def _docx(content: bytes) -> str:
    from docx import Document

    return "\n".join(paragraph.text for paragraph in Document(io.BytesIO(content)).paragraphs)


def _xlsx(content: bytes) -> str:
    from openpyxl import load_workbook

    book = load_workbook(io.BytesIO(content), data_only=True)
    return "\n".join(
        str(cell.value) for row in book.worksheets[0].iter_rows() for cell in row if cell.value is not None
    )


def _eml(content: bytes) -> str:
    message = email.message_from_bytes(content, policy=email.policy.default)
    plain = message.get_body(("plain",))
    assert plain is not None
    return str(plain.get_content())


READERS = {
    "pdf": _pdf,
    "pptx": _pptx,
    "docx": _docx,
    "xlsx": _xlsx,
    "md": lambda content: content.decode().replace("\\", ""),
    "eml": _eml,
}


@pytest.mark.parametrize("kind", sorted(READERS))
def test_every_format_says_the_same_in_the_same_order(kind: str, files: dict[str, bytes], demo_scan: ga.Scan) -> None:
    text = _flat(READERS[kind](files[kind]))
    summary = demo_scan.summary()
    wanted = [summary.headline, *summary.bullets]
    for sentence in wanted:
        assert _flat(sentence) in text, sentence
    places = [text.rfind(_flat(one.headline)) for one in demo_scan.findings[:8]]
    assert all(place >= 0 for place in places)
    if kind not in ("pdf", "eml"):
        assert places == sorted(places)


@pytest.mark.parametrize("kind", FORMATS)
def test_the_same_bytes_on_every_run(kind: str, report: ga.Report, files: dict[str, bytes]) -> None:
    assert report.made(kind) == files[kind]


def test_native_charts_hold_the_data_drawn(files: dict[str, bytes], report: ga.Report) -> None:
    from openpyxl import load_workbook
    from pptx import Presentation

    first = report.model.sections[0].chart
    assert first is not None
    charts = [s.chart for slide in Presentation(io.BytesIO(files["pptx"])).slides for s in slide.shapes if s.has_chart]
    assert len(charts) >= 6
    assert list(charts[0].plots[0].series[0].values) == pytest.approx(first.data["Revenue"].tolist())
    book = load_workbook(io.BytesIO(files["xlsx"]))
    sheet = book.worksheets[1]
    assert [sheet.cell(row, 2).value for row in range(6, 6 + len(first.data))] == pytest.approx(
        first.data["Revenue"].tolist()
    )
    assert len(sheet._charts) == 1
    assert book["Evidence"].cell(2, 3).value.startswith("WITH") or book["Evidence"].cell(2, 3).value.startswith(
        "SELECT"
    )
    assert str(sheet["A3"].value).startswith("=")


def test_slides_say_nothing_of_marks_they_do_not_have(files: dict[str, bytes]) -> None:
    from pptx import Presentation

    slide = Presentation(io.BytesIO(files["pptx"])).slides[1]
    texts = " ".join(shape.text_frame.text for shape in slide.shapes if shape.has_text_frame)
    assert "dashed: fitted line" in texts
    assert "hollow" not in texts
    chart = next(shape.chart for shape in slide.shapes if shape.has_chart)
    fitted = next(series for series in chart.plots[0].series if series.name == "fitted")
    assert fitted.format.line.dash_style is not None
    assert "SELECT" in slide.notes_slide.notes_text_frame.text


def test_the_pdf_is_tagged_and_titled(files: dict[str, bytes]) -> None:
    from pypdf import PdfReader

    made = PdfReader(io.BytesIO(files["pdf"]))
    assert made.metadata is not None
    assert made.metadata.title == "What matters"
    assert made.trailer["/Root"]["/MarkInfo"]["/Marked"]
    assert made.trailer["/Root"]["/Lang"] == "en"
    titles = [one for part in made.outline for one in (part if isinstance(part, list) else [part])]
    assert len(titles) >= 11


def test_pictures_have_words(files: dict[str, bytes]) -> None:
    from docx import Document

    shapes = Document(io.BytesIO(files["docx"])).inline_shapes
    assert len(shapes) == 12
    assert all(len(shape._inline.docPr.get("descr")) > 30 for shape in shapes)
    message = email.message_from_bytes(files["eml"], policy=email.policy.default)
    page = message.get_body(("html",)).get_content()
    ids = {part["Content-ID"] for part in message.walk() if part["Content-ID"]}
    assert {f"<{name}>" for name in re.findall(r"cid:(\w+)", page)} == ids
    assert [part.get_filename() for part in message.iter_attachments()][-1] == "report.html"


@pytest.mark.skipif(shutil.which("soffice") is None, reason="LibreOffice is not here; .ci/run installs it")
def test_a_corrected_cell_moves_the_sentence(files: dict[str, bytes], report: ga.Report, tmp_path: Path) -> None:
    from openpyxl import load_workbook

    (tmp_path / "given.xlsx").write_bytes(files["xlsx"])
    book = load_workbook(io.BytesIO(files["xlsx"]))
    sheet = book.worksheets[1]
    # The last month, and one of the last twelve that the first claim sets against the first twelve.
    book["Key figures"]["B38"] = 1_500_000
    sheet["B40"] = 99_999_999
    months = [float(sheet[f"B{row}"].value) for row in range(6, 43)]
    rise = 100 * (sum(months[-12:]) / sum(months[:12]) - 1)
    weekdays = book.worksheets[3]
    weekdays["B9"] = 77
    book.save(tmp_path / "corrected.xlsx")
    command = [
        "soffice",
        f"-env:UserInstallation=file://{tmp_path}/office",
        "--headless",
        "--convert-to",
        "xlsx:Calc MS Excel 2007 XML",
        "--outdir",
        str(tmp_path / "out"),
        str(tmp_path / "corrected.xlsx"),
        str(tmp_path / "given.xlsx"),
    ]
    subprocess.run(command, check=True, capture_output=True, timeout=180)
    # Reckoned anew from cells that nobody touched, every sentence is the one that was written.
    same = load_workbook(tmp_path / "out" / "given.xlsx", data_only=True)
    told = report.model
    for section, sheet in zip(told.sections, same.worksheets[1:], strict=False):
        assert sheet["A1"].value == section.claim
    assert same["Summary"]["A2"].value == told.summary.headline
    shown = {cell.value for row in same["Summary"].iter_rows() for cell in row}
    assert {f"{key.value} · {key.change}" for key in told.keys} <= shown
    again = load_workbook(tmp_path / "out" / "corrected.xlsx", data_only=True)
    assert "highest 99,999,999" in again.worksheets[1]["A3"].value
    shown = [cell.value for row in again["Summary"].iter_rows() for cell in row if isinstance(cell.value, str)]
    assert any("highest 99,999,999" in text for text in shown)
    assert any(text.startswith("Revenue was 1.50 million in September 2025, 22% above") for text in shown)
    assert f"Revenue rose {rise:,.0f}% from September 2022 to September 2025." in shown
    # Saturdays lead no longer: the sentence that says so is gone, and what the cells say stands in its place.
    assert "Saturdays" not in again.worksheets[3]["A1"].value
    assert again.worksheets[3]["A1"].value.startswith("Largest: Thursdays with 77")


def test_a_sentence_is_live_in_all_its_numbers_or_in_none(files: dict[str, bytes], report: ga.Report) -> None:
    from openpyxl import load_workbook

    live = 0
    for section, sheet in zip(
        report.model.sections, load_workbook(io.BytesIO(files["xlsx"])).worksheets[1:], strict=False
    ):
        cell = sheet["A1"].value
        numbers = [piece for piece in pieces_of(section.claim) if isinstance(piece, Quantity)]
        if not str(cell).startswith("="):
            assert cell == section.claim
            continue
        live += 1
        # What is shown as long as the claim holds; behind it stands what the cells say otherwise.
        held = re.split(r',"(?:From|Largest: )', cell)[0]
        assert held.count("FIXED(") == len(numbers)
        assert not re.search(r"\d", re.sub(r"(?:19|20)\d\d", "", "".join(re.findall(r'"([^"]*)"', held))))
    assert live >= 6


def _ours(formula: str) -> bool:
    """Whether a formula, its texts and sheets' names taken out, holds nothing but cells, sums and our few functions."""
    bare = re.sub(r"'[^']*'!", "", re.sub(r'"(?:[^"]|"")*"', "", formula))
    words = set(re.findall(r"[A-Za-z_]{3,}", bare))
    return words <= {"AND", "ABS", "AVERAGE", "FIXED", "INDEX", "LOOKUP", "MATCH", "MAX", "MIN", "ROUND", "SUM"} and (
        re.fullmatch(r"[=&(),:$A-Z0-9<>+*/.!-]*", bare) is not None
    )


@pytest.mark.parametrize("kind", FORMATS)
def test_hostile_labels_are_text_in_every_format(kind: str, tmp_path: Path) -> None:
    frame = planted()
    shops = sorted(frame["shop"].unique())
    odd = [*HOSTILE[:4], "ctrl\x07\x0b", "x" * 10_000]
    frame["shop"] = frame["shop"].map(dict(zip(shops, odd[: len(shops)], strict=True)))
    frame["area"] = np.where(frame["area"] == "North", HOSTILE[7], HOSTILE[6])
    report = ga.scan(frame, kinds=["trend", "shift", "ranking"]).report(title="#eval <i>{{ title }}</i> = \\ *x*")
    content = report.made(kind)
    if kind == "xlsx":
        from openpyxl import load_workbook

        for sheet in load_workbook(io.BytesIO(content)).worksheets:
            for row in sheet.iter_rows():
                for cell in row:
                    assert cell.data_type != "f" or _ours(cell.value), cell.value
    if kind == "pdf":
        assert "<script>" in _pdf(content)
    target = report.write(tmp_path / f"page.{kind}")
    assert target.read_bytes() == content


def test_a_mail_is_sent_by_a_real_server(report: ga.Report) -> None:
    taken: list[bytes] = []
    ready = threading.Event()
    port: list[int] = []

    async def serve() -> None:
        async def talk(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
            writer.write(b"220 here\r\n")
            while line := await reader.readline():
                word = line.strip().upper()[:4]
                if word == b"DATA":
                    writer.write(b"354 go on\r\n")
                    taken.append(await reader.readuntil(b"\r\n.\r\n"))
                writer.write(b"221 bye\r\n" if word == b"QUIT" else b"250 ok\r\n")
                await writer.drain()
                if word == b"QUIT":
                    writer.close()
                    done.set()
                    return

        done = asyncio.Event()
        server = await asyncio.start_server(talk, "127.0.0.1", 0, limit=2**24)
        port.append(server.sockets[0].getsockname()[1])
        ready.set()
        await asyncio.wait_for(done.wait(), 30)
        server.close()

    thread = threading.Thread(target=lambda: asyncio.run(serve()), daemon=True)
    thread.start()
    assert ready.wait(10)
    report.send(host="127.0.0.1", port=port[0], sender="office@example.org", to=["boss@example.org"])
    thread.join(20)
    message = email.message_from_bytes(taken[0], policy=email.policy.default)
    assert message["To"] == "boss@example.org"
    assert "Revenue rose 24%" in message["Subject"]
    with pytest.raises(ga.RequestError, match="such as office"):
        report.send(host="127.0.0.1", sender="office", to="boss@example.org")
    with pytest.raises(ga.OutputError, match="was not taken"):
        report.send(host="127.0.0.1", port=1, sender="a@example.org", to="b@example.org")


def test_sections_are_dropped_moved_added_and_written(demo_scan: ga.Scan, sailings: Path) -> None:
    whole = demo_scan.report()
    kept = whole.drop(*whole.ids[4:]).first(whole.ids[2])
    assert kept.ids == (whole.ids[2], whole.ids[0], whole.ids[1], whole.ids[3])
    own = kept.note("The dry dock is over.", "Tern is back since May.", before=kept.ids[1])
    more = own.add(ga.compare(sailings, "delay_min", "region")).add(ga.relate(sailings, "passengers", "revenue"))
    assert more.ids == (kept.ids[0], "note-1", *kept.ids[1:], "comparison", "relation")
    assert more.add(ga.relate(sailings, "capacity", "revenue")).ids[-1] == "relation-2"
    for kind, reader in READERS.items():
        text = _flat(reader(more.made(kind)))
        assert _flat("The dry dock is over.") in text, kind
    page = more.html().decode()
    assert "Tern is back since May." in page
    assert page.count("How to check") == 6
    assert len(whole.ids) == 12
    with pytest.raises(ga.RequestError, match="one there is"):
        whole.drop("nothing")
