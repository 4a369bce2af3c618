"""The pages of reference say what the code says, and every page has its place on the site."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from site_build.kinds import kind_pages
from site_build.reference import HERE, KINDS, PAGES

import golden_almanac as ga
from golden_almanac.cli.app import COMMANDS

ROOT = Path(__file__).parents[1]


@pytest.mark.parametrize("name", ["names.md", "brief.md"])
def test_reference_is_that_of_the_code(name: str) -> None:
    """`python -m site_build.reference` writes it anew. Of commands the words are the library's that parses them."""
    assert (HERE / name).read_text(encoding="utf-8") == PAGES[name]()


def test_every_kind_has_a_page_that_says_what_it_cannot_see(demo_scan: ga.Scan) -> None:
    pages = kind_pages()
    assert {path.name for path in KINDS.glob("*.md")} == set(pages)
    told = [finding.headline for finding in (*demo_scan.findings, *demo_scan.folded)]
    for name, text in pages.items():
        assert (KINDS / name).read_text(encoding="utf-8") == text
        assert "## What it cannot see" in text
        assert "## Its figures" in text
        # What stands as an example is what the demo gives.
        for example in re.findall(r"^> (.+)$", text, re.MULTILINE):
            assert name == "change.md" or example in told, example


def test_every_name_and_command_is_there() -> None:
    names, commands = ((HERE / name).read_text(encoding="utf-8") for name in ("names.md", "commands.md"))
    for name in ga.__all__:
        assert f"### {name}\n" in names or name == "__version__", name
    for command in COMMANDS:
        assert f"## {command}\n" in commands, command


def test_every_page_has_its_place() -> None:
    listed = re.findall(r"- (\S+\.md)$", (ROOT / "mkdocs.yml").read_text(encoding="utf-8"), re.MULTILINE)
    pages = {path.relative_to(ROOT / "docs").as_posix() for path in (ROOT / "docs").rglob("*.md")}
    assert set(listed) == pages | {"index.md"}
    assert len(listed) == len(set(listed))
