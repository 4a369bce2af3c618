"""Verification: all agrees of what was published; whatever is changed afterwards, in any format, is found and named."""

from __future__ import annotations

import io
import json
import re
import shutil
import zipfile
from functools import cache
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

import golden_almanac as ga
from golden_almanac.export.read_back import numbers_in, text_in

from ..commands import run
from .ferry_log import BRIEF, crossings, desk

pytestmark = pytest.mark.long
OFFICE = ("report.xlsx", "report.pptx", "report.docx")
FORMATS = '"html", "md", "xlsx", "pptx", "docx", "pdf", "eml", "csv", "svg"'


@pytest.fixture(scope="module")
def published(tmp_path_factory: pytest.TempPathFactory) -> ga.Edition:
    brief = desk(tmp_path_factory.mktemp("verified"), BRIEF.replace('"html"', FORMATS))
    ga.publish_brief(brief, as_of="2025-05-31")
    return ga.publish_brief(brief)


def test_every_figure_of_every_file_agrees(published: ga.Edition) -> None:
    found = ga.verify(published)
    assert found.agrees, found.differences
    assert not found.notes
    frame = found.to_frame()
    assert frame["agrees"].all()
    files = {path.relative_to(published.folder).as_posix() for path in published.files}
    # No file without its figures compared, but pictures and the words that people may change.
    unread = {"words.md", "brief.toml", "repairs.json", *(name for name in files if name.startswith("charts/"))}
    assert files - set(frame["file"]) <= unread
    assert (frame["way"] == "sql").sum() > 60
    # Cells of charts by a grouping of their own: each month of each series that is no fitted line.
    cells = frame[frame["file"].str.match("cells/[0-9]") & (frame["way"] != "made again")]

    assert cells["file"].nunique() >= 4
    assert len(cells) > 100
    # Each number that a page says is one of those compared.
    page = text_in("report.html", (published.folder / "report.html").read_bytes())
    assert (frame["file"] == "report.html").sum() == sum(len(numbers_in(line)) for line in page)


def _other(content: bytes, old: bytes, new: bytes) -> bytes:
    """An office file with one text replaced in whatever part has it."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(content)) as parts, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        for one in parts.infolist():
            made.writestr(one, parts.read(one.filename).replace(old, new))
    return out.getvalue()


def test_a_figure_changed_in_any_format_is_named(published: ga.Edition, tmp_path: Path) -> None:
    root = tmp_path / "desk"
    shutil.copytree(published.folder.parent.parent, root)
    folder = root / "editions" / published.name
    frame = crossings()
    value = f"{frame.loc[frame['date'].dt.strftime('%Y-%m') == '2025-06', 'fare'].sum():.0f}"
    told = f"{int(value):,}"[:-2]  # the digits that three figures keep
    plain, wrong = told.encode(), (told[:-1] + str((int(told[-1]) + 1) % 10)).encode()
    for name in ("report.html", "report.md", "findings.json", "findings.csv"):
        path = folder / name
        content = path.read_bytes()
        old = plain if plain in content else re.search(rb"\+\d+%", content)[0]  # type: ignore[index]
        path.write_bytes(content.replace(old, wrong if old == plain else b"+99%"))
    for name in ("report.docx", "report.pptx", "report.xlsx"):
        path = folder / name
        before = path.read_bytes()
        after = _other(before, plain, wrong)
        assert text_in(name, after) != text_in(name, before), name
        path.write_bytes(after)
    mail = folder / "report.eml"
    mail.write_bytes(mail.read_bytes().replace(plain, wrong))
    # A PDF of another report, as a person would export it with one sentence changed.
    again = ga.report(ga.read_brief(root / "monthly.toml"))
    first = again.model.sections[1]
    (folder / "report.pdf").write_bytes(
        again.replace(first.id, claim=first.claim.replace(told, wrong.decode())).made("pdf")
    )
    cell = next((folder / "cells").glob("*figures.csv"), None) or next((folder / "cells").glob("01-*.csv"), None)
    cell = cell or sorted((folder / "cells").glob("*.csv"))[0]
    cell.write_text(cell.read_text("utf-8").replace("1", "2", 1), "utf-8")
    picture = next((folder / "charts").glob("*.svg"))
    picture.write_bytes(picture.read_bytes() + b"<!-- 3 -->")
    (folder / "stray.txt").write_text("42", "utf-8")
    done = run("verify", folder, "--json")
    assert done.returncode == 1
    found = json.loads(done.stdout)
    named = "\n".join(found["differences"])
    for path in published.files:
        name = path.relative_to(published.folder).as_posix()
        if name.startswith(("report.", "findings.")):
            assert name in named, name
    assert cell.name in named
    assert "stray.txt was not published" in named
    assert wrong.decode() in named


def test_a_brief_that_keeps_some_rows_is_verified_of_those(tmp_path: Path) -> None:
    text = BRIEF.replace('measures = ["sum(fare)", "avg(wait_min)"]\n', "where = \"quay = 'South'\"\n")
    text += '[[measure]]\nsql = "sum(fare)"\nname = "takings"\n'
    text += '[[alert]]\nname = "Little"\nwhen = "sum(fare) < 1000000"\n'
    edition = ga.publish_brief(desk(tmp_path, text))
    found = ga.verify(edition)
    assert found.agrees, found.differences
    frame = crossings()
    month = (frame["date"].dt.strftime("%Y-%m") == "2025-06") & (frame["quay"] == "South")
    value = frame.loc[month, "fare"].sum()
    assert edition.alerts == (f"Alert: Little: Fare {round(value, -1):,.0f} (June 2025, sum(fare) < 1000000).",)
    words = (edition.folder / "words.md").read_text("utf-8")
    assert "Takings are expected" in words or "Takings is expected" in words
    assert "Fare is expected" not in words


def test_a_source_changed_since_is_told_with_the_figures_it_changes(tmp_path: Path) -> None:
    brief = desk(tmp_path)
    edition = ga.publish_brief(brief)
    frame = crossings()
    frame.loc[frame["date"] == "2025-06-15", "fare"] += 5000
    frame.to_csv(tmp_path / "crossings.csv", index=False)
    found = ga.verify(edition)
    assert not found.agrees
    assert "other values in its rows" in found.notes[0]
    assert any("findings.json" in text for text in found.differences)
    assert any("cells/totals.csv, sum(fare) 2025-06-01" in text for text in found.differences)


def test_what_cannot_be_verified_is_said_in_a_sentence(published: ga.Edition, tmp_path: Path) -> None:
    (tmp_path / "empty").mkdir()
    with pytest.raises(ga.SourceError, match=r"no edition.*Name a folder that publish made"):
        ga.verify(tmp_path / "empty")
    shutil.copytree(published.folder.parent.parent, tmp_path / "desk")
    folder = tmp_path / "desk" / "editions" / published.name
    (folder / "report.docx").write_bytes(b"nothing")
    (folder / "report.md").unlink()
    (folder / "brief.toml").write_text((folder / "brief.toml").read_text("utf-8") + "\n# mine\n", "utf-8")
    told = "\n".join(ga.verify(folder).differences)
    assert "report.docx: it can no longer be read" in told
    assert "report.md is gone" in told
    assert "brief.toml is not the brief that was used" in told
    (folder / "edition.json").write_text('{"format": "golden-almanac/edition/1"}', "utf-8")
    with pytest.raises(ga.SourceError, match="no record of an edition"):
        ga.verify(folder)


@settings(max_examples=150, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(data=st.data())
def test_no_changed_number_goes_unseen(published: ga.Edition, data: st.DataObject) -> None:
    """Any digit of any number that a page, a text or findings say: read back, it is not what was published."""
    name = data.draw(st.sampled_from(["report.html", "report.md", "findings.json", "report.eml", *OFFICE]))
    whole = (published.folder / name).read_bytes()
    lines = _read(published.folder / name)
    content = _parts(whole) if name in OFFICE else whole.decode("utf-8")
    line = data.draw(st.sampled_from([one for one in lines if len(one) > 20 and numbers_in(one) and one in content]))
    number = data.draw(st.sampled_from(numbers_in(line)))
    place = data.draw(st.sampled_from([at for at, letter in enumerate(number) if letter.isdigit()]))
    digit = data.draw(st.sampled_from([one for one in "0123456789" if one != number[place]]))
    other = line.replace(number, number[:place] + digit + number[place + 1 :], 1)
    if name in OFFICE:
        changed = _other(whole, line.encode("utf-8"), other.encode("utf-8"))
    else:
        changed = content.replace(line, other, 1).encode("utf-8")
    assert text_in(name, changed) != lines


@pytest.fixture(scope="module")
def as_pdf(published: ga.Edition) -> tuple[ga.Report, list[str]]:
    """The report of the brief, and what its PDF says."""
    report = ga.report(ga.read_brief(published.folder.parent.parent / "monthly.toml"))
    return report, text_in("report.pdf", report.made("pdf"))


@settings(max_examples=8, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(data=st.data())
def test_no_number_changed_in_a_pdf_goes_unseen(as_pdf: tuple[ga.Report, list[str]], data: st.DataObject) -> None:
    """A PDF of the same report in which one digit of one sentence is another."""
    report, lines = as_pdf
    section = data.draw(st.sampled_from([one for one in report.model.sections if numbers_in(one.claim)]))
    number = data.draw(st.sampled_from(numbers_in(section.claim)))
    place = data.draw(st.sampled_from([at for at, letter in enumerate(number) if letter.isdigit()]))
    digit = data.draw(st.sampled_from([one for one in "123456789" if one != number[place]]))
    claim = section.claim.replace(number, number[:place] + digit + number[place + 1 :], 1)
    assert text_in("report.pdf", report.replace(section.id, claim=claim).made("pdf")) != lines


@cache
def _read(path: Path) -> list[str]:
    """What a file says, read once."""
    return text_in(path.name, path.read_bytes())


def _parts(content: bytes) -> str:
    """All parts of an office file, one behind the other, as text."""
    with zipfile.ZipFile(io.BytesIO(content)) as parts:
        return "\n".join(parts.read(name).decode("utf-8", "replace") for name in parts.namelist())
