"""What the site needs beyond the Markdown: the README as its first page, and what pages link to outside `docs`."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

from mkdocs.structure.files import File, Files

ROOT = Path(__file__).parents[1]
#: Files outside `docs` that pages link to, and that the site therefore has.
BESIDE = ("examples", "CHANGELOG.md", "LICENSE")


def on_files(files: Files, config: Any) -> Files:
    """The README as index, and the examples, beside the pages."""
    index = (ROOT / "README.md").read_text(encoding="utf-8")
    files.append(File.generated(config, "index.md", content=re.sub(r"\]\(docs/", "](", index)))
    for name in BESIDE:
        place = ROOT / name
        for path in [place] if place.is_file() else sorted(place.rglob("*")):
            if path.is_file() and "__pycache__" not in path.parts:
                # As plain text, whatever it is: the site shows it and runs nothing.
                known = path.relative_to(ROOT).as_posix()
                files.append(File.generated(config, f"{known}.txt", content=path.read_text(encoding="utf-8")))
    return files


def on_page_markdown(markdown: str, page: Any, **_: Any) -> str:
    """Links that leave `docs` lead to what the site has in their place."""
    up = "" if page.file.src_uri == "index.md" else r"(?:\.\./)+"
    kept = "|".join(re.escape(name) for name in BESIDE)
    deep = "../" * page.file.src_uri.count("/")
    return re.sub(rf"\]\({up}((?:{kept})(?:/[^)#]*)?)\)", rf"]({deep}\1.txt)", markdown)
