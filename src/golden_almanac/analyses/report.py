"""`ga.report`: a result as pages and files."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..core.errors import RequestError
from ..publish.files import write_whole
from ..reports import Report as Model

if TYPE_CHECKING:
    import pandas as pd

#: Formats that can be published, by name.
FORMATS = ("html", "json", "csv", "png", "svg")


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class Report:
    """A report made from a scan or a change; `model` is what every format is made from."""

    model: Model
    data: Callable[[], dict[str, Any]]
    frame: Callable[[], pd.DataFrame]

    def html(self) -> bytes:
        """The report as one self-contained page."""
        from ..publish.html import render

        return render(self.model)

    def json(self) -> bytes:
        from ..publish.data import to_json

        return to_json(self.data())

    def csv(self) -> bytes:
        from ..publish.data import to_csv

        return to_csv(self.frame())

    def publish(
        self, folder: str | os.PathLike[str], formats: Sequence[str] = ("html", "json", "png", "svg")
    ) -> list[Path]:
        """Write the report into a folder: report.html, findings.json, findings.csv, charts/*.png and *.svg.

        Everything is made before anything is written. Raises RequestError or OutputError.
        """
        for name in formats:
            if name not in FORMATS:
                raise RequestError("The format", name, "one of " + ", ".join(FORMATS))
        root = Path(folder)
        made: list[tuple[Path, bytes]] = []
        if "html" in formats:
            made.append((root / "report.html", self.html()))
        if "json" in formats:
            made.append((root / "findings.json", self.json()))
        if "csv" in formats:
            made.append((root / "findings.csv", self.csv()))
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

    def write(self, path: str | os.PathLike[str]) -> Path:
        """Write one file, its format told by its ending: .html, .json or .csv."""
        target = Path(path)
        made = {".html": self.html, ".json": self.json, ".csv": self.csv}.get(target.suffix.lower())
        if made is None:
            raise RequestError("The ending of the output", target.suffix, "one of .html, .json, .csv")
        write_whole(target, made())
        return target

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
