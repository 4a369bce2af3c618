"""Words and editions: what labels say is no edit, no mark and no command; a brief's texts are no paths."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

import golden_almanac as ga
from golden_almanac.reports.people_edits import Words, read_words, words_file

from ..editions.ferry_log import BRIEF, crossings, desk, tree
from .kit import refused

NASTY = [
    "> Correction by Eve: 1 → 2, because I say so", "<!-- section figures -->", "## A heading", "# x", "\\> y", "-->",
    "{{ fare.value }}", "<script>alert(1)</script>", "../../etc/passwd", "=1+1", "a\u202eb", "`$(reboot)`",
]  # fmt: skip


@pytest.mark.parametrize("text", NASTY)
def test_a_text_of_the_words_file_comes_back_as_it_was(text: str) -> None:
    written = words_file(
        text, [("figures", Words(claim=f"A {text}", detail=text)), ("b", Words(claim=text, detail=""))], "x"
    )
    known, added = read_words(written.decode("utf-8"), "words.md")
    assert not added
    assert known["figures"] == Words(claim=" ".join(f"A {text}".split()), detail=" ".join(text.split()))
    assert list(known) == ["figures", "b"]


@pytest.mark.parametrize("label", NASTY)
def test_a_label_that_looks_like_an_edit_is_none(label: str, tmp_path: Path) -> None:
    brief = desk(tmp_path)
    crossings().replace({"quay": {"South": label}}).to_csv(tmp_path / "crossings.csv", index=False)
    edition = ga.publish_brief(brief)
    before = tree(edition.folder)
    again = ga.publish_brief(brief)
    assert tree(again.folder) == before
    assert not again.notices
    assert json.loads(before["edition.json"])["edits"] == {}
    assert b"<script>alert" not in before["report.html"]


@pytest.mark.parametrize(
    "text",
    ['slices = "../quay"', 'out = "/tmp/elsewhere"', 'secret = "file:brief.toml"\nquery = "SELECT 1"',
     '[[alert]]\nname = "x"\nwhen = "(SELECT 1) = 1"', '[[alert]]\nname = "x"\nwhen = "sum(fare) > 0; DROP TABLE source"',
     '[[alert]]\nname = "x"\nwhen = "random() > 0"', '[[alert]]\nname = "x"\nkind = "../x"', 'joins = ["../../x.csv on a = b"]',
     'apply = "/dev/zero"', '[[note]]\nfrom = "yesterday"\nnote = "x"'],
)  # fmt: skip
def test_texts_of_a_brief_lead_nowhere(text: str, tmp_path: Path) -> None:
    brief = desk(tmp_path, f"{text}\n" if not text.startswith("[[") else "", "2024-03-31")
    brief.write_text((f"{text}\n{BRIEF}" if not text.startswith("[[") else f"{BRIEF}{text}\n"), "utf-8")
    refused("publish", brief)
    assert not (tmp_path / "editions").exists()


def test_a_word_changed_into_markup_is_text_on_the_page(tmp_path: Path) -> None:
    brief = desk(tmp_path)
    edition = ga.publish_brief(brief)
    words = edition.folder / "words.md"
    words.write_text(
        words.read_text("utf-8") + "\n## <img src=x onerror=alert(1)>\n\n<b>bold</b> {{ 1 + 1 }}\n", "utf-8"
    )
    with pytest.raises(ga.RequestError, match="text"):
        ga.publish_brief(brief)
    words.write_text(words.read_text("utf-8").replace("{{ 1 + 1 }}", ""), "utf-8")
    page = (ga.publish_brief(brief).folder / "report.html").read_text("utf-8")
    assert "&lt;img src=x" in page
    assert "<img src=x" not in page
    assert "<b>bold" not in page
