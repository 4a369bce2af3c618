"""The report that a brief asks for: its table, what is worked out of it, its sections, its alerts."""

from __future__ import annotations

import os
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np

from ..analysis.change import Explanation
from ..analysis.scan_pipeline import timeline_for
from ..charts.palette import Palette, sharing
from ..findings import Finding, Note
from ..reports import brief as briefs
from ..reports.brief import WISHES, Brief
from ..reports.brief_model import IN_WORDS
from ..sql.expressions import quote_name
from ..support.errors import PeriodError, RequestError, rather
from ..tables import Calendar, Table
from ..tables.io.database_servers import Server, is_address
from ..tables.io.reading import files
from ..tables.io.regular_files import text_of
from ..text.languages import speaking, voice_of
from .compare import compare
from .draw import draw
from .explain_change import explain_change
from .find_drivers import find_drivers
from .forecast import forecast
from .growth import growth
from .read import read
from .read_notes import as_notes, note_of
from .regress import regress
from .relate import relate
from .report import Report
from .scan import Scan, ScanRequest, finding_kinds
from .slice_pages import pages_of, slices_of
from .table_report import PeriodReview, PeriodReviewRequest
from .total import total

#: Keys of a brief that ask of what is worked out.
_ASKED = ("by", "time", "grain", "where", "focus", "ignore")
#: Bytes of a secret at most.
_MOST_SECRET = 10_000
#: The length of the summary by whom it is for.
_LENGTHS = {"board": "short", "manager": "standard", "analyst": "long"}


@dataclass(frozen=True, slots=True, kw_only=True)
class BriefReport:
    """What a brief's source gave: the `table` as of a day, what was `found` in it, and the `report`."""

    table: Table
    found: PeriodReview | Scan
    report: Report

    @property
    def scan(self) -> Scan:
        return self.found.found if isinstance(self.found, PeriodReview) else self.found


def explained_in(made: BriefReport) -> list[tuple[Finding, Explanation]]:
    """The changes of the period that are told by themselves, the leading one first."""
    if isinstance(made.found, PeriodReview):
        return [(change.findings[0], change.explanation) for change in made.found.changes]
    return []


def brief_report(
    brief: Brief,
    progress: Callable[[str], None] = lambda _: None,
    *,
    as_of: str | None = None,
    table: Table | None = None,
    familiar: Sequence[str] = (),
) -> BriefReport:
    """The report that a brief asks for, of its source or a `table`; `as_of` leaves out what came later, `familiar` are
    the findings that the reader knows already. Raises AlmanacError where its source or request cannot be used."""
    with speaking(brief_voice(brief)), sharing(Palette(brief.get("look", {}).get("colours"))):
        own = brief_table(brief, progress, as_of=as_of) if table is None else table
        found = _found(brief, own, familiar, progress)
        scan = found.found if isinstance(found, PeriodReview) else found
        made = _pages(brief, found, scan, progress)
        for section in brief.sections:
            made = _section(made, section, brief, own, scan)
        return BriefReport(table=own, found=found, report=made)


def brief_voice(brief: Brief) -> Any:
    """The language of a brief, with what columns and labels are called."""
    names = dict(brief.get("names", {}))
    for one in brief.get("dimension", ()):
        if "name" in one:
            names[one["column"]] = one["name"]
        names |= one.get("labels", {})
    return voice_of(brief.get("locale"), names or None)


def brief_table(brief: Brief, progress: Callable[[str], None], *, as_of: str | None = None) -> Table:
    """The table that a brief reads, as of a day where one is given."""
    said = brief.get("calendar", {})
    options = {key: brief.get(key) for key in ("sheet", "table", "query") if key in brief.said}
    source: Any = _source(brief)
    made = read(
        source,
        calendar=Calendar(**said) if said else None,
        progress=progress,
        private=brief.get("private"),
        natures=brief.get("natures"),
        rows=brief.get("rows"),
        rates=None if brief.get("rates") is None else brief.folder / brief.get("rates"),
        minimum_group=brief.get("minimum_group", 0),
        answers=brief.get("answers"),
        repairs=None if brief.get("apply") is None else brief.folder / brief.get("apply"),
        joins=[_beside(brief, one) for one in brief.get("joins", ())],
        **options,
    )
    made = _with_units(brief, made)
    return made if as_of is None else table_as_of(made, as_of, brief.get("time"))


def table_as_of(table: Table, day: str, time: str | None = None) -> Table:
    """The table as it was on a day: without the rows of later ones. Raises PeriodError where that leaves none."""
    line = timeline_for(table, time)
    if line is None:
        raise PeriodError(f"{table.name} has no dates, so there is no edition as of {day}. Name the column of dates.")
    try:
        last = np.datetime64(day, "D")
    except ValueError:
        raise PeriodError(f"{day!r} is no day. Write it as 2025-09-30.") from None
    if last >= line.last_day:
        return table
    if last < line.first_day:
        raise PeriodError(f"There are no rows up to {day}: the data begin on {line.first_day}. Choose a later day.")
    column = quote_name(line.column)
    kept = table.filter(f"CAST({column} AS DATE) <= DATE '{last}'")
    left_out = table.rows - kept.rows
    # As it would have been read on that day: nothing of it is a choice of rows.
    return replace(kept, where=table.where, rows_read=table.rows_read - left_out, _cache={})


def _beside(brief: Brief, joined: str) -> str:
    """A join with its file relative to the brief."""
    name, _, rest = joined.partition(" on ")
    path = brief.folder / name.strip()
    return f"{path} on {rest}" if rest and path.is_file() else str(path) if path.is_file() else joined


def _with_units(brief: Brief, table: Table) -> Table:
    """The table with the units that the brief says of columns that are a measure by themselves."""
    units = {}
    for one in brief.get("measure", ()):
        column = one["sql"].partition("(")[2].removesuffix(")").strip().strip('"') or one["sql"].strip()
        if "unit" in one and column in table.names:
            units[column] = one["unit"]
    if not units:
        return table
    columns = tuple(replace(one, unit=units.get(one.name, one.unit)) for one in table.columns)
    return replace(table, columns=columns)


def brief_measures(brief: Brief) -> list[str]:
    """The measures of a brief, named where it names them."""
    told = []
    for one in brief.get("measure", ()):
        name = one.get("name")
        told.append(one["sql"] if name is None else f"{one['sql']} AS {quote_name(name)}")
    plain = [text for text in brief.get("measures", ()) if text not in {one["sql"] for one in brief.get("measure", ())}]
    return [*told, *plain]


def brief_notes(brief: Brief) -> list[Note]:
    """What people know: the log that a brief names, and its own notes."""
    told = [] if brief.get("notes") is None else list(as_notes(brief.folder / brief.get("notes")))
    for place, one in enumerate(brief.get("note", ()), start=1):
        told.append(
            note_of(f"[[note]] {place} of the brief", one["from"], one.get("to"), one["note"], one.get("where", {}))
        )
    return told


def _found(brief: Brief, table: Table, familiar: Sequence[str], progress: Callable[[str], None]) -> PeriodReview | Scan:
    """What is worked out, as the brief asks for it."""
    asked = {name: brief.get(name) for name in _ASKED if name in brief.said}
    measures, notes = brief_measures(brief), brief_notes(brief)
    better = dict(brief.get("better", {})) | {
        one["sql"]: one["better"] for one in brief.get("measure", ()) if "better" in one
    }
    asked |= {"measures": measures} if measures else {}
    asked |= {"notes": tuple(notes)} if notes else {}
    asked |= {"better": better} if better else {}
    if brief.get("row_samples") is False:
        asked["kinds"] = tuple(kind for kind in finding_kinds() if kind not in _kinds_of_rows())
    if brief.get("content", "period") == "findings":
        scanned: Scan = ScanRequest.from_mapping(table, asked).run(progress)
        return scanned
    asked |= {key: brief.span(key) for key in ("period", "baseline") if key in brief.said and brief.span(key) != "last"}
    if "top" in brief.said:
        asked["most"] = int(brief.get("top"))
    targets = {one["sql"]: float(one["target"]) for one in brief.get("measure", ()) if "target" in one}
    asked |= {"targets": targets} if targets else {}
    request = PeriodReviewRequest.from_mapping(table, asked)
    found: PeriodReview = replace(request, familiar=tuple(familiar)).run(progress)
    return found


def _kinds_of_rows() -> set[str]:
    from ..analysis.detectors import kinds

    return {name for name, kind in kinds().items() if kind.shows_rows}


def _pages(brief: Brief, found: PeriodReview | Scan, scan: Scan, progress: Callable[[str], None]) -> Report:
    """The report before its own sections."""
    title = brief.get("title")
    if isinstance(found, Scan):
        made = found.report(title, progress, switch=brief.get("switch"), pages=brief.get("pages"))
        if "top" in brief.said:
            made = made.drop(*made.ids[int(brief.get("top")) :])
    else:
        made = found.report(title)
        if "switch" in brief.said:
            views = slices_of(scan, "The switch", brief.get("switch"), title, progress)
            made = replace(made, views=views, by=brief.get("switch"))
        if "pages" in brief.said:
            parts = slices_of(scan, "The pages", brief.get("pages"), title, progress)
            sections = (*made.model.sections, *pages_of(brief.get("pages"), parts))
            made = replace(made, model=replace(made.model, sections=sections))
    made = made.titled(subtitle=brief.get("subtitle"), owner=brief.get("owner"))
    audience = brief.get("audience")
    length = brief.get("length", _LENGTHS.get(audience or ""))
    if length is not None:
        made = made.summed(found.summary(length, technical=audience == "analyst"))
    if "text" in brief.said:
        made = made.opening(scan.fill(brief.get("text")))
    return made


def _secret(brief: Brief) -> str | None:
    """The password of a database, from where the brief says that it stands. Raises RequestError."""
    named = brief.get("secret")
    if named is None:
        return None
    if not named.startswith("file:"):
        value = os.environ.get(named)
        if not value:
            raise RequestError("The secret", named, "the name of an environment variable that is set, or file:PATH")
        return value
    path = (brief.folder / named.removeprefix("file:")).resolve()
    if path.is_relative_to(brief.folder.resolve()):
        raise RequestError("The secret", named, "a file outside the folder of the brief, which others are sent")
    return text_of(path, _MOST_SECRET).strip()


def _source(brief: Brief) -> Any:
    """The source, relative to the brief; a pattern may not lead out of the brief's folder, where what it would find is
    anybody's guess. Raises RequestError."""
    if is_address(brief.get("source")):
        return Server(str(brief.get("source")), _secret(brief))
    source, home = brief.source(), brief.folder.resolve()
    if any(mark in str(brief.get("source")) for mark in "*?["):
        inside = all(path.resolve().is_relative_to(home) for path in files(source) or ())
        if not inside or ".." in Path(str(brief.get("source"))).parts:
            raise RequestError(
                "The source", str(brief.get("source")), "a pattern that stays in the folder of the brief"
            )
    return source


def _section(made: Report, section: Mapping[str, Any], brief: Brief, table: Table, scan: Scan) -> Report:
    """One section of the brief: a section that is there changed, or a new one."""
    about = briefs.subject(section)
    unasked = ("forecast", "forecast-figures")
    if about == "forecast" and set(unasked) <= set(made.ids):
        # What is asked for takes the place of what comes unasked.
        made = made.drop(*unasked)
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
        period, baseline = (
            IN_WORDS.get(section[key], section[key]) if key in section else brief.span(key)
            for key in ("period", "baseline")
        )
        return report.add(explain_change(kept, what, period=period, baseline=baseline))
    if about == "drivers":
        return report.add(find_drivers(kept, what, section.get("factors")))
    if about == "regress":
        if not section.get("factors"):
            raise RequestError("The section regress", what, 'with factors = ["COLUMN", …]')
        return report.add(regress(kept, what, section["factors"]))
    if about == "relate":
        if len(section.get("y", ())) != 1:
            raise RequestError("The section relate", what, 'with y = ["COLUMN"]')
        return report.add(relate(kept, what, section["y"][0]))
    if about == "total":
        return report.add(total(kept, what, by=section.get("by"), top=section.get("most")))
    if about == "growth":
        if "by" not in section:
            raise RequestError("The section growth", what, 'with by = "COLUMN"')
        return report.add(growth(kept, what, section["by"]))
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
