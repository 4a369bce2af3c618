"""The formats that a report is published in: a declaration each, and the file of this room that makes it.

A new format is its file, with a function from what it takes to bytes, and a line here; `--out`, briefs, folders and the
pictures made beforehand read it. Nothing is loaded until a format is asked for.
"""

from __future__ import annotations

from dataclasses import dataclass
from importlib import import_module
from typing import Any, Literal

#: A picture of a chart that a format needs: how it is made, and what its method takes (see `charts.rendering`).
Picture = tuple[str, tuple[tuple[str, bool], ...]]
#: Shapes over the marks, that a pointer finds.
OVERLAY: Picture = ("overlay", ())
_PAGE: Picture = ("svg", (("text", True), ("title", False), ("dark", False)))


@dataclass(frozen=True, slots=True, kw_only=True)
class Format:
    """One format.

    name: as in a brief, and the ending of the file
    module, function: what makes it, in this room
    takes: the report's pages ("model"), these with the views that a reader switches between ("views"), the result as
    JSON ("data") or its frame ("frame")
    file: its name in a published folder; None where a folder holds a picture of each chart instead
    alone: whether it may be one file by itself
    needs: the pictures of each chart that it shows
    """

    name: str
    module: str
    function: str = "render"
    takes: Literal["model", "views", "data", "frame"] = "model"
    file: str | None
    alone: bool = True
    needs: tuple[Picture, ...] = ()

    def make(self, *given: Any) -> bytes:
        """The bytes of the format, from what it takes."""
        content: bytes = getattr(import_module(f".{self.module}", __package__), self.function)(*given)
        return content


FORMATS: dict[str, Format] = {
    one.name: one
    for one in (
        Format(name="html", module="html_page", takes="views", file="report.html", needs=(OVERLAY, _PAGE)),
        Format(
            name="pdf",
            module="pdf",
            file="report.pdf",
            needs=(("svg", (("text", False), ("title", False), ("dark", False))),),
        ),
        Format(name="pptx", module="slides", file="report.pptx"),
        Format(
            name="docx",
            module="word_document",
            file="report.docx",
            needs=(("png", (("title", False), ("dark", False))),),
        ),
        Format(name="xlsx", module="workbook", file="report.xlsx"),
        Format(name="md", module="markdown", file="report.md"),
        Format(
            name="eml",
            module="mail",
            file="report.eml",
            needs=(OVERLAY, _PAGE, ("png", (("title", True), ("dark", False)))),
        ),
        Format(name="json", module="data_files", function="to_json", takes="data", file="findings.json"),
        Format(name="csv", module="data_files", function="to_csv", takes="frame", file="findings.csv"),
        # As one file the whole page as a picture; in a folder each chart.
        Format(
            name="png",
            module="pdf",
            function="picture",
            file=None,
            needs=(("png", (("title", True), ("dark", False))),),
        ),
        Format(
            name="svg",
            module="pdf",
            file=None,
            alone=False,
            needs=(("svg", (("text", False), ("title", True), ("dark", False))),),
        ),
    )
}


def endings() -> tuple[str, ...]:
    """The endings of files that a report can be written to by itself."""
    return tuple(f".{name}" for name, one in FORMATS.items() if one.alone)
