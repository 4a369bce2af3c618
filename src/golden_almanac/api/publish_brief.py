"""`ga.read_brief` and `ga.publish_brief`: a report as a brief asks for it."""

from __future__ import annotations

import os
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

from ..charts.palette import Palette, sharing
from ..export.files import check_folder
from ..export.formats import FORMATS
from ..reports import brief as briefs
from ..reports.brief import WISHES, Brief
from ..support.errors import OutputError, RequestError, rather
from ..tables import Calendar, Table
from ..tables.io.reading import files
from ..text.languages import speaking, voice_of
from .compare import compare
from .draw import draw
from .explain_change import explain_change
from .find_drivers import find_drivers
from .forecast import forecast
from .read import read
from .report import Report
from .scan import Scan, ScanRequest

#: Keys of a brief that ask of the scan.
_SCANNED = ("measures", "by", "time", "grain", "where", "focus", "ignore", "better", "notes")
#: What a brief that names no formats publishes.
_FORMATS = ("html", "json")


def read_brief(path: str | os.PathLike[str]) -> Brief:
    """A brief from its TOML file.

    Parameters
    ----------
    path
        The file; paths in it are relative to its folder.

    Returns
    -------
    Brief
        What to read, measure, compare and publish; a key that is missing has its default.

    Raises
    ------
    SourceError
        The file cannot be read.
    RequestError
        An unknown key (the nearest ones are named), or a value of another kind.
    """
    return briefs.read(Path(path))


def brief_report(brief: Brief | str | os.PathLike[str], progress: Callable[[str], None] = lambda _: None) -> Report:
    """The report that a brief asks for. Raises AlmanacError where its source or its request cannot be used."""
    own = brief if isinstance(brief, Brief) else read_brief(brief)
    colours = own.get("look", {}).get("colours")
    with speaking(voice_of(own.get("locale"), own.get("names"))), sharing(Palette(colours)):
        table = _table(own, progress)
        found = _scan(own, table, progress)
        made = found.report(own.get("title"), progress, switch=own.get("switch"), pages=own.get("pages"))
        made = made.titled(subtitle=own.get("subtitle"), owner=own.get("owner"))
        if "length" in own.said:
            made = made.summed(found.summary(own.get("length")))
        if "text" in own.said:
            made = made.opening(found.fill(own.get("text")))
        if "top" in own.said:
            made = made.drop(*made.ids[int(own.get("top")) :])
        for section in own.sections:
            made = _section(made, section, own, table, found)
    return made


def publish_brief(
    brief: Brief | str | os.PathLike[str],
    *,
    out: str | os.PathLike[str] | None = None,
    replace: bool = False,
    progress: Callable[[str], None] = lambda _: None,
) -> list[Path]:
    """Publish what a brief asks for, in every format that it names, and mail it where it says so.

    Parameters
    ----------
    brief
        A `Brief`, or the path of one.
    out
        A folder in place of the brief's.
    replace
        Write over files that this program did not make.
    progress
        Called with a line of text: what is being done, how far it is, how long it will take.

    Returns
    -------
    list of Path
        The files written.

    Raises
    ------
    AlmanacError
        One of its subclasses; nothing is written then.
    """
    own = brief if isinstance(brief, Brief) else read_brief(brief)
    folder = own.folder / own.get("out", "out") if out is None else Path(out)
    if out is None and not folder.resolve().is_relative_to(own.folder.resolve()):
        raise OutputError(str(folder), "it lies outside the folder of the brief", "Name it with --out.")
    _check_formats(own)
    check_folder(folder)
    made = brief_report(own, progress)
    written = made.publish(folder, own.get("formats", _FORMATS), replace=replace, progress=progress)
    if "mail" in own.said:
        _mail(made, own.get("mail"))
    return written


def _check_formats(brief: Brief) -> None:
    for name in brief.get("formats", ()):
        if name not in FORMATS:
            raise RequestError("The format", name, "one of " + ", ".join(FORMATS))


def _source(brief: Brief) -> Path:
    """The source, relative to the brief; a pattern may not lead out of the brief's folder, where what it would find is
    anybody's guess. Raises RequestError."""
    source, home = brief.source(), brief.folder.resolve()
    if any(mark in str(brief.get("source")) for mark in "*?["):
        inside = all(path.resolve().is_relative_to(home) for path in files(source) or ())
        if not inside or ".." in Path(str(brief.get("source"))).parts:
            raise RequestError(
                "The source", str(brief.get("source")), "a pattern that stays in the folder of the brief"
            )
    return source


def _table(brief: Brief, progress: Callable[[str], None]) -> Table:
    said = brief.get("calendar", {})
    calendar = Calendar(**said) if said else None
    options = {key: brief.get(key) for key in ("sheet", "table") if key in brief.said}
    return read(
        _source(brief),
        calendar=calendar,
        progress=progress,
        private=brief.get("private"),
        natures=brief.get("natures"),
        rows=brief.get("rows"),
        rates=None if brief.get("rates") is None else brief.folder / brief.get("rates"),
        minimum_group=brief.get("minimum_group", 0),
        **options,
    )


def _scan(brief: Brief, table: Table, progress: Callable[[str], None]) -> Scan:
    """The scan as the brief asks for it: whatever of it is the scan's to know."""
    asked = {name: brief.get(name) for name in _SCANNED if name in brief.said}
    if "notes" in asked:
        asked["notes"] = brief.folder / asked["notes"]
    scan: Scan = ScanRequest.from_mapping(table, asked).run(progress)
    return scan


def _section(made: Report, section: Mapping[str, Any], brief: Brief, table: Table, scan: Scan) -> Report:
    """One section of the brief: a section that is there changed, or a new one."""
    about = briefs.subject(section)
    before = set(made.ids)
    if about in ("id", "kind"):
        ids = _ids(made, about, str(section[about]))
    else:
        made = _new(made, about, section, brief, table, scan)
        ids = [name for name in made.ids if name not in before]
    if section.get("drop"):
        return made.drop(*ids)
    for name in ids:
        made = _changed(made, name, section, scan, fresh=about not in ("id", "kind"))
    return made.first(*ids) if section.get("first") else made


def _ids(report: Report, about: str, wanted: str) -> list[str]:
    if about == "id":
        if wanted not in report.ids:
            raise RequestError(
                "The section", wanted, f"one there is; {rather(wanted, report.ids, 'sections').rstrip('.')}"
            )
        return [wanted]
    ids = [name for name in report.ids if name.split("-")[0] == wanted]
    if not ids:
        kinds = sorted({name.split("-")[0] for name in report.ids})
        raise RequestError("The kind of section", wanted, f"one of {', '.join(kinds)}")
    return ids


def _new(report: Report, about: str, section: Mapping[str, Any], brief: Brief, table: Table, scan: Scan) -> Report:
    what, where = str(section[about]), brief.get("where")
    kept = table.filter(where) if where else table
    if about == "note":
        return report.note(scan.fill(what))
    if about == "change":
        period = section.get("period", brief.get("period"))
        baseline = section.get("baseline", brief.get("baseline"))
        return report.add(explain_change(kept, what, period=period, baseline=baseline))
    if about == "drivers":
        return report.add(find_drivers(kept, what))
    if about == "forecast":
        outlook = forecast(
            kept,
            what,
            int(section.get("periods", 6)),
            by=section.get("by"),
            grain=brief.get("grain"),
            target=section.get("target"),
        )
        page = outlook.report()
        alone = page.drop(*(name for name in page.ids if name != "forecast"))
        told = outlook.summary()
        return report.add(alone.replace("forecast", claim=told.headline, detail=told.text))
    if about == "compare":
        if "by" not in section:
            raise RequestError("The section compare", what, 'with by = "COLUMN"')
        return report.add(compare(kept, what, section["by"]))
    frame = kept.sql(str(section["sql"]))
    if about == "show":
        return report.table(scan.fill(what), frame)
    wishes = {key: section[key] for key in (*WISHES, "by") if key in section}
    chart = draw(frame, what, title=scan.fill(str(section.get("title", what))), **wishes)
    return report.chart(chart)


def _changed(made: Report, name: str, section: Mapping[str, Any], scan: Scan, *, fresh: bool) -> Report:
    if "title" in section:
        made = made.replace(name, claim=scan.fill(str(section["title"])))
    if "text" in section:
        made = made.replace(name, detail=scan.fill(str(section["text"])))
    wishes = {key: section[key] for key in WISHES if key in section}
    if not fresh and ("chart" in section or wishes):
        made = made.restyle(name, section.get("chart"), **wishes)
    if "size" in section:
        made = made.resize(name, float(section["size"]))
    return made.new_page(name) if section.get("new_page") else made


def _mail(report: Report, said: Mapping[str, Any]) -> None:
    report.send(host=said["host"], port=int(said.get("port", 25)), sender=said["from"], to=said["to"])
