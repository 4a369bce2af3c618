"""The page on the house is true: every file and name on its walk is there, every room is on it."""

from __future__ import annotations

import ast
import re
from pathlib import Path

ROOT = Path(__file__).parent.parent
PACKAGE = ROOT / "src" / "golden_almanac"
PAGE = (ROOT / "docs" / "contributing" / "architecture.md").read_text("utf-8")


def test_every_hop_of_the_walk_is_there() -> None:
    hops = re.findall(r"`([\w/]+\.py):(\w+)`", PAGE)
    assert len(hops) > 20
    for file, name in hops:
        tree = ast.parse((PACKAGE / file).read_text("utf-8"))
        defined = {node.name for node in tree.body if isinstance(node, ast.FunctionDef | ast.ClassDef)}
        assert name in defined, (file, name)


def test_every_room_is_on_the_page_and_every_folder_of_it_there() -> None:
    rooms = {path.parent.name for path in PACKAGE.glob("*/__init__.py")} - {"demo"}
    assert rooms == set(re.findall(r"^\| `(\w+)/` \|", PAGE, re.MULTILINE))
    for room, rest in re.findall(r"^\| `(\w+)/` \|(.*)$", PAGE, re.MULTILINE):
        for folder in re.findall(r"`(\w+)/`", rest):
            assert (PACKAGE / room / folder).is_dir(), (room, folder)


def test_links_of_the_pages_for_contributors_exist() -> None:
    for page in (ROOT / "docs" / "contributing").glob("*.md"):
        for target in re.findall(r"\]\(([^)#]+)\)", page.read_text("utf-8")):
            assert (page.parent / target).exists(), (page.name, target)
