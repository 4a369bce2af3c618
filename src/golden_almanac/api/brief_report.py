"""The report that a brief asks for: its table, what is worked out of it, its sections, its alerts."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np

from ..analysis.change import Explanation
from ..analysis.scan_pipeline import timeline_for
from ..charts.palette import Palette, sharing
from ..engine.remote.closed_periods import Shelf
from ..findings import Finding, Note
from ..reports.brief import Brief
from ..sql.expressions import quote_name
from ..support.errors import PeriodError, RequestError
from ..tables import Calendar, Table
from ..tables.io.database_servers import Server, is_address
from ..tables.io.reading import files
from ..tables.io.regular_files import text_of
from ..tables.io.server_tables import KeptSource, is_remote
from ..text.languages import speaking, voice_of
from .brief_sections import with_section
from .brief_statements import as_stated
from .read import read
from .read_notes import as_notes, note_of
from .report import Report
from .request import several
from .scan import Scan, ScanRequest, finding_kinds
from .slice_pages import pages_of, slices_of, views_of
from .table_report import PeriodReview, PeriodReviewRequest

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
            made = with_section(made, section, brief, own, scan)
        return BriefReport(table=own, found=found, report=made)


def brief_voice(brief: Brief) -> Any:
    """The language of a brief, with what columns and labels are called."""
    names = dict(brief.get("names", {}))
    for one in brief.get("dimension", ()):
        if "name" in one:
            names[one["column"]] = one["name"]
        names |= one.get("labels", {})
    return voice_of(brief.get("locale"), names or None)


@contextmanager
def brief_rows(
    brief: Brief, progress: Callable[[str], None], *, as_of: str | None = None, shelf: Shelf | None = None
) -> Iterator[Table]:
    """The brief's table while something is made of it; whatever happens, a server's transaction ends with that: others
    would wait for it."""
    table = brief_table(brief, progress, as_of=as_of, shelf=shelf)
    try:
        yield table
    finally:
        table.store.release()


def brief_table(
    brief: Brief, progress: Callable[[str], None], *, as_of: str | None = None, shelf: Shelf | None = None
) -> Table:
    """The table that a brief reads, as of a day where one is given; what is over of a server's is kept on a shelf."""
    said = brief.get("calendar", {})
    options = {key: brief.get(key) for key in ("sheet", "table", "query") if key in brief.said}
    source: Any = _source(brief)
    if shelf is not None and is_remote(source):
        source = KeptSource(source, shelf, brief.get("time"))
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
    made = as_stated(brief, made)
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
            by = tuple(several(brief.get("switch")) or ())
            made = replace(made, views=views_of(scan, by, title, progress), by=by)
        if "pages" in brief.said:
            parts = slices_of(scan, "The pages", brief.get("pages"), title, progress)
            sections = (*made.model.sections, *pages_of(brief.get("pages"), parts))
            made = replace(made, model=replace(made.model, sections=sections))
    made = made.titled(subtitle=brief.get("subtitle"), owner=brief.get("owner"))
    if "look" in brief.said:
        made = made.dressed(brief.get("look"), brief.folder)
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
