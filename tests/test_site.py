"""The pages of reference say what the code says, and every page has its place on the site."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from site_build.reference import HERE, PAGES

import golden_almanac as ga
from golden_almanac.cli.app import app

ROOT = Path(__file__).parents[1]


@pytest.mark.parametrize("name", ["names.md", "brief.md"])
def test_reference_is_that_of_the_code(name: str) -> None:
    """`python -m site_build.reference` writes it anew. Of commands the words are the library's that parses them."""
    assert (HERE / name).read_text(encoding="utf-8") == PAGES[name]()


def test_every_name_and_command_is_there() -> None:
    names, commands = ((HERE / name).read_text(encoding="utf-8") for name in ("names.md", "commands.md"))
    for name in ga.__all__:
        assert f"### {name}\n" in names or name == "__version__", name
    for command in app.registered_commands:
        assert f"## {command.name}\n" in commands, command.name


def test_every_page_has_its_place() -> None:
    listed = re.findall(r"- (\S+\.md)$", (ROOT / "mkdocs.yml").read_text(encoding="utf-8"), re.MULTILINE)
    pages = {path.relative_to(ROOT / "docs").as_posix() for path in (ROOT / "docs").rglob("*.md")}
    assert set(listed) == pages | {"index.md"}
    assert len(listed) == len(set(listed))
