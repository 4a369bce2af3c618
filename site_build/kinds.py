"""A page for each kind of finding, put together from its declaration, the table in `docs/scan.md`, and what is written
by hand in `kinds.toml`: what it says, when, how each figure is made, the test, what it cannot see, an example."""

from __future__ import annotations

import re
import tomllib
from functools import cache
from pathlib import Path

from golden_almanac.analysis.detectors import kinds

ROOT = Path(__file__).parents[1]


def kind_pages() -> dict[str, str]:
    """The pages, by their file's name."""
    by_hand = tomllib.loads((ROOT / "site_build" / "kinds.toml").read_text(encoding="utf-8"))
    return {f"{name}.md": _page(name, by_hand.get(name, {})) for name in sorted(kinds())}


def _page(name: str, by_hand: dict[str, str]) -> str:
    kind = kinds()[name]
    claimed, made, tested = _table().get(name, ("", "", ""))
    needs = ["a column of dates"] if kind.needs_time else []
    needs += [f"at least {kind.least_periods} periods"] if kind.least_periods else []
    lines = [f"# {name.capitalize()}", "", f"{_sentence(str(kind.what))}", ""]
    if "example" in by_hand:
        lines += [f"> {by_hand['example']}", "", "So it reads of the demo's sailings.", ""]
    if claimed:
        lines += ["## What is claimed", "", _sentence(claimed), ""]
    lines += [
        "## When",
        "",
        f"Asked of every table with {' and '.join(needs)}." if needs else "Asked of every table.",
        "",
    ]
    if kind.floor is not None:
        lines += [f"Not told below its floor, given in {kind.floor.unit}: `--floor {name}=SIZE` sets another.", ""]
    if made:
        lines += [
            "## How the figure is made",
            "",
            _sentence(made),
            "",
            "## How it is tested",
            "",
            _sentence(tested),
            "",
        ]
    if "cannot_see" in by_hand:
        lines += ["## What it cannot see", "", by_hand["cannot_see"], ""]
    lines += ["## Its figures", ""]
    lines += [f"- `{figure}`: {meaning}" for figure, meaning in kind.figures.items()]
    return "\n".join(lines) + "\n"


def _sentence(text: str) -> str:
    told = text.strip()
    return f"{told[0].upper()}{told[1:]}{'' if told.endswith('.') else '.'}"


@cache
def _table() -> dict[str, tuple[str, str, str]]:
    """What is claimed, how the figure is made and how it is tested, by kind, as the guide has it."""
    text = (ROOT / "docs" / "scan.md").read_text(encoding="utf-8")
    rows = re.findall(r"^\| ([a-z]+) \| (.+?) \| (.+?) \| (.+?) \|$", text, re.MULTILINE)
    return {name: (claimed, made, tested) for name, claimed, made, tested in rows}
