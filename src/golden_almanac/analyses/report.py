"""`ga.report`: a result as pages and files."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..core.errors import RequestError, rather
from ..publish.files import write_whole
from ..reports import Report as Model
from ..reports import Section
from ..words.languages import Voice
from .voices import in_voice

if TYPE_CHECKING:
    import pandas as pd

#: Formats that can be published, by name.
FORMATS = ("html", "pdf", "pptx", "docx", "xlsx", "md", "eml", "json", "csv", "png", "svg")
#: Formats that are one file, with the name it has in a folder.
_FILES = {
    "html": "report.html",
    "pdf": "report.pdf",
    "pptx": "report.pptx",
    "docx": "report.docx",
    "xlsx": "report.xlsx",
    "eml": "report.eml",
    "json": "findings.json",
    "csv": "findings.csv",
}


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class Report:
    """A report made from a scan or another result; `model` is what every format is made from. `views` are the same of
    slices along `by`, between which the reader of the page can switch."""

    model: Model
    data: Callable[[], dict[str, Any]]
    frame: Callable[[], pd.DataFrame]
    views: tuple[tuple[str, Model], ...] = ()
    by: str = ""

    @property
    def voice(self) -> Voice:
        """The language that the report was made in."""
        return self.model.voice

    @property
    def ids(self) -> tuple[str, ...]:
        """The ids of the sections, in their order."""
        return tuple(section.id for section in self.model.sections)

    def drop(self, *ids: str) -> Report:
        """A copy without these sections. Raises RequestError for an id that is not there."""
        self._known(ids)
        return self._with(tuple(section for section in self.model.sections if section.id not in ids))

    def first(self, *ids: str) -> Report:
        """A copy that opens with these sections, in this order. Raises RequestError for an id that is not there."""
        self._known(ids)
        by_id = {section.id: section for section in self.model.sections}
        return self._with((*(by_id[name] for name in ids), *(s for s in self.model.sections if s.id not in ids)))

    def add(self, other: Any) -> Report:
        """A copy with the sections of another result (a scan, change, comparison, drivers …) or report at its end."""
        more = other if isinstance(other, Report) else other.report()
        taken = set(self.ids)
        sections = []
        for section in more.model.sections:
            name, number = section.id, 2
            while name in taken:
                name, number = f"{section.id}-{number}", number + 1
            taken.add(name)
            sections.append(replace(section, id=name))
        caveats = tuple(dict.fromkeys((*self.model.caveats, *more.model.caveats)))
        return replace(self, model=replace(self._with((*self.model.sections, *sections)).model, caveats=caveats))

    def note(self, claim: str, text: str = "", *, before: str | None = None) -> Report:
        """A copy with a section of your own words, at the end or before another section.

        Raises RequestError for an id that is not there.
        """
        number = 1 + sum(name.startswith("note-") for name in self.ids)
        own = Section(id=f"note-{number}", claim=claim, detail=text, chart=None, evidence=(), sql="", expect=())
        if before is None:
            return self._with((*self.model.sections, own))
        self._known((before,))
        place = self.ids.index(before)
        return self._with((*self.model.sections[:place], own, *self.model.sections[place:]))

    def _with(self, sections: tuple[Section, ...]) -> Report:
        return replace(self, model=replace(self.model, sections=sections))

    def _known(self, ids: Sequence[str]) -> None:
        for name in ids:
            if name not in self.ids:
                raise RequestError(
                    "The section", name, f"one there is; {rather(name, self.ids, 'sections').rstrip('.')}"
                )

    @in_voice
    def html(self) -> bytes:
        """The report as one self-contained page."""
        from ..publish.html import render

        return render(self.model, self.views, self.by)

    @in_voice
    def made(self, kind: str) -> bytes:
        """The report in one format: html, pdf, pptx, docx, xlsx, md, eml, json or csv. Raises RequestError,
        OutputError."""
        if kind == "json":
            return self.json()
        if kind == "csv":
            return self.csv()
        if kind == "html":
            return self.html()
        homes = {
            "html": "html",
            "pdf": "pdf",
            "pptx": "slides",
            "docx": "document",
            "xlsx": "workbook",
            "md": "markdown",
            "eml": "mail",
        }
        if kind not in homes:
            raise RequestError("The format", kind, "one of " + ", ".join((*homes, "json", "csv")))
        render = import_module(f"..publish.{homes[kind]}", __package__).render
        content: bytes = render(self.model)
        return content

    @in_voice
    def send(self, *, host: str, port: int = 25, sender: str, to: Sequence[str] | str) -> None:
        """Send the report as a mail through an SMTP server: summary and charts inline, the page attached.

        Raises RequestError for addresses that are none, OutputError where the server does not take it.
        """
        from ..publish.mail import send

        send(self.model, host=host, port=port, sender=sender, to=[to] if isinstance(to, str) else list(to))

    def json(self) -> bytes:
        from ..publish.data import to_json

        return to_json(self.data())

    def csv(self) -> bytes:
        from ..publish.data import to_csv

        return to_csv(self.frame())

    @in_voice
    def publish(
        self, folder: str | os.PathLike[str], formats: Sequence[str] = ("html", "json", "png", "svg")
    ) -> list[Path]:
        """Write the report into a folder: report.html (.pdf, .pptx, .docx, .xlsx, .md, .eml), findings.json,
        findings.csv,
        charts/*.png and *.svg.

        Everything is made before anything is written. Raises RequestError or OutputError.
        """
        for name in formats:
            if name not in FORMATS:
                raise RequestError("The format", name, "one of " + ", ".join(FORMATS))
        root = Path(folder)
        made = [(root / name, self.made(kind)) for kind, name in _FILES.items() if kind in formats]
        if "md" in formats:
            from ..publish import markdown

            pictures = {
                section.id: f"charts/{place:02d}-{_file_name(section.id)}.png"
                for place, section in enumerate(self.model.sections, start=1)
                if section.chart is not None and "png" in formats
            }
            made.append((root / "report.md", markdown.render(self.model, pictures)))
        for place, section in enumerate(self.model.sections, start=1):
            if section.chart is None:
                continue
            stem = root / "charts" / f"{place:02d}-{_file_name(section.id)}"
            if "png" in formats:
                made.append((stem.with_name(stem.name + ".png"), section.chart.png()))
            if "svg" in formats:
                made.append((stem.with_name(stem.name + ".svg"), section.chart.svg().encode("utf-8")))
        for path, content in made:
            write_whole(path, content)
        return [path for path, _ in made]

    @in_voice
    def write(self, path: str | os.PathLike[str]) -> Path:
        """Write one file, its format told by its ending: .html, .pdf, .pptx, .docx, .xlsx, .md, .eml, .json or .csv.

        Raises RequestError for another ending, OutputError where it cannot be written.
        """
        target = Path(path)
        kind = target.suffix.lower().removeprefix(".")
        if kind not in (*_FILES, "md"):
            raise RequestError("The ending of the output", target.suffix, f"one of .{', .'.join((*_FILES, 'md'))}")
        write_whole(target, self.made(kind))
        return target

    @in_voice
    def _repr_html_(self) -> str:
        return self.html().decode("utf-8")

    def __repr__(self) -> str:
        return f"Report {self.model.title!r}: {len(self.model.sections)} sections\n{self.model.summary}"


def report(result: Any, title: str | None = None) -> Report:
    """A report of a `Scan` or a `Change`."""
    made: Report = result.report(title)
    return made


def _file_name(text: str) -> str:
    return "".join(letter if letter.isalnum() or letter in "-_" else "-" for letter in text)[:60]
