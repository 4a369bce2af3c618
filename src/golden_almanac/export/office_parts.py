"""What formats share: a chart's data as a native chart would take it, plain text that XML can hold, packages whose
bytes are the same on every run."""

from __future__ import annotations

import io
import math
import zipfile
from collections.abc import Callable
from dataclasses import dataclass

from ..charts import Chart
from ..charts.marks import lit_rows
from ..text import dates

#: More categories or series than this make a native chart that nobody reads.
_MOST_CATEGORIES, _MOST_SERIES = 60, 6
_FIXED_TIME = (2000, 1, 1, 0, 0, 0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Native:
    """Data for a native chart: `kind` bars or line, the categories, each series with its figures (None for gaps),
    which bars are set off, and how figures are written."""

    kind: str
    categories: tuple[str, ...]
    series: tuple[tuple[str, tuple[float | None, ...]], ...]
    marked: tuple[bool, ...] = ()
    number_format: str = ""


def native(chart: Chart) -> Native | None:
    """The chart's data for a native chart, where bars or lines can show it as it is; None where only the picture
    can."""
    frame = chart.data
    kind = chart.kind or None
    numeric = [str(name) for name in frame.columns if frame[name].dtype.kind in "fi"]
    labels = [str(name) for name in frame.columns if str(name) not in numeric]
    if kind is None or not numeric or len(labels) != 1 or not 2 <= len(frame) <= _MOST_CATEGORIES:
        return None
    shown = numeric[:1] if kind == "bars" else numeric[:_MOST_SERIES]
    lit = lit_rows(chart.marks) if kind == "bars" else frozenset()
    return Native(
        kind=kind,
        number_format=chart.number_format,
        marked=tuple(row in lit for row in range(len(frame))) if lit else (),
        categories=tuple(_category(clean(str(value))) for value in frame[labels[0]]),
        series=tuple((clean(name), tuple(_figure(value) for value in frame[name])) for name in shown),
    )


def subtitle(chart: Chart) -> str:
    """The chart's subtitle for a native chart: without what is said of marks that only the picture has."""
    return chart.scope or chart.subtitle


def _category(text: str) -> str:
    """The first day of a month as the month: "Sep 2022"."""
    if len(text) == 10 and text[4] == text[7] == "-" and text.endswith("-01") and text[:4].isdigit():
        return dates.month_short(text)
    return text


def _figure(value: object) -> float | None:
    number = float(value)  # type: ignore[arg-type]
    return number if math.isfinite(number) else None


def clean(text: str, most: int = 4000) -> str:
    """Text that XML can hold: no control characters, no marks that turn the direction of writing, not endless."""
    kept = "".join(
        letter
        for letter in text
        # Spaces that keep a number and its unit together are letters too.
        if letter in "\n\t\u00a0\u202f"
        or (letter.isprintable() and not 0xD800 <= ord(letter) <= 0xDFFF and letter not in "\ufffe\uffff")
    )
    # A text that holds nothing else is given back as it is: it may know its numbers.
    return text if kept == text and len(text) <= most else kept if len(kept) <= most else kept[: most - 1] + "…"


def as_document(package: bytes) -> bytes:
    """An office package that may be a template, as a plain document or presentation: only its declared type differs."""

    def declared(name: str, data: bytes) -> bytes:
        if name != "[Content_Types].xml":
            return data
        data = data.replace(b"wordprocessingml.template.main", b"wordprocessingml.document.main")
        return data.replace(b"presentationml.template.main", b"presentationml.presentation.main")

    return _rewritten(package, declared)


def steady(package: bytes) -> bytes:
    """A zip package with fixed times, its members in the order they have; packages inside it too."""

    def fixed(name: str, data: bytes) -> bytes:
        data = steady(data) if name.endswith((".xlsx", ".docx", ".pptx")) else data
        return _undated(data) if name.endswith("core.xml") else data

    return _rewritten(package, fixed)


def _rewritten(package: bytes, change: Callable[[str, bytes], bytes]) -> bytes:
    """A zip package whose members are changed, each with its name, at one fixed time."""
    source = zipfile.ZipFile(io.BytesIO(package))
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as target:
        for name in source.namelist():
            info = zipfile.ZipInfo(name, _FIXED_TIME)
            info.compress_type = zipfile.ZIP_DEFLATED
            info.external_attr = 0o600 << 16
            target.writestr(info, change(name, source.read(name)))
    return buffer.getvalue()


def _undated(xml: bytes) -> bytes:
    import re

    return re.sub(rb"\d{4}-\d\d-\d\dT\d\d:\d\d:\d\dZ", b"2000-01-01T00:00:00Z", xml)
