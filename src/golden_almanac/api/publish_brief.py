"""`ga.read_brief`, `ga.publish_brief`, `ga.editions`: a report as a brief asks for it, kept as dated editions."""

from __future__ import annotations

import os
import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..export import edition_folders as folders
from ..export.data_files import json_bytes
from ..export.edition_folders import alone, before, indexed, name_for
from ..export.files import check_folder
from ..export.folders import put_folder
from ..export.formats import FORMATS
from ..export.kept_cells import FOLDER, FolderShelf
from ..reports import brief as briefs
from ..reports.brief import Brief
from ..reports.edition_record import RECORD, EditionRecord
from ..reports.people_edits import WORDS, words_file
from ..support.errors import OutputError, RequestError
from ..support.notebook_view import view
from ..support.run_log import log
from ..support.shell import file_name
from ..tables import Table
from ..text.languages import speaking
from .brief_alerts import Fired, check_alerts, fired_alerts
from .brief_report import BriefReport, brief_report, brief_rows, brief_voice
from .edited_words import edited, edits_before
from .edition_content import (
    check_columns,
    familiar_in,
    figures_checked,
    fingerprint_of,
    record_for,
    since_section,
    told_in,
    totals_csv,
    totals_in,
)
from .report import Report

if TYPE_CHECKING:
    import pandas as pd

#: What a brief that names no formats publishes, and where.
_FORMATS, _OUT = ("html", "json"), "editions"


@dataclass(frozen=True, slots=True, kw_only=True)
class Edition:
    """A published edition: its `name` (the last day of its data), `folder`, `files`, the `headline`; `alerts` that
    fired, and `notices` on what people changed in the words."""

    name: str
    folder: Path
    files: tuple[Path, ...]
    headline: str
    alerts: tuple[str, ...] = ()
    notices: tuple[str, ...] = ()
    record: EditionRecord | None = field(default=None, repr=False)

    def _repr_html_(self) -> str:
        return view(self.headline, [*self.alerts, *self.notices, *(str(path) for path in self.files)])


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
        An unknown key (the nearest ones are named), or a value of another kind; with its line.
    """
    return briefs.read(Path(path))


def publish_brief(
    brief: Brief | str | os.PathLike[str],
    *,
    out: str | os.PathLike[str] | None = None,
    as_of: str | None = None,
    accept: bool = False,
    replace: bool = False,
    progress: Callable[[str], None] = lambda _: None,
) -> Edition:
    """Publish an edition of what a brief asks for, in every format that it names, and mail it where it says so.

    Parameters
    ----------
    brief
        A `Brief`, or the path of one.
    out
        A folder for the editions in place of the brief's.
    as_of
        A day: the edition is made of what the source had up to it, missing later rows.
    accept
        Publish though the source lost a column, or one has another type, since the last edition.
    replace
        Write over files that this program did not make.
    progress
        Called with a line of text: what is being done, how far it is, how long it will take.

    Returns
    -------
    Edition
        Its folder holds the report, the findings, the cells that figures rest on, the brief as used, the repairs, the
        words that people may change, and the record; it is put in place as a whole.

    Raises
    ------
    AlmanacError
        One of its subclasses; nothing is written then.
    """
    own = brief if isinstance(brief, Brief) else read_brief(brief)
    root = own.folder / own.get("out", _OUT) if out is None else Path(out)
    if out is None and not root.resolve().is_relative_to(own.folder.resolve()):
        raise OutputError(str(root), "it lies outside the folder of the brief", "Name it with --out.")
    _check_formats(own)
    check_folder(root)
    began = time.monotonic()
    progress = _also_logged(progress)
    with speaking(brief_voice(own)):
        shelf = _shelf(own, root)
        with brief_rows(own, progress, as_of=as_of, shelf=shelf) as table:
            check_alerts(own, table)
            with alone(own.path, progress):
                made = _edition(own, root, table, progress, accept=accept, replace=replace)
                if shelf is not None:
                    shelf.settle()
                took = time.monotonic() - began
                indexed(root, {made.name: took})
    assert made.edition.record is not None
    facts = {
        "edition": made.name,
        "rows": made.edition.record.source["rows"],
        "files": len(made.edition.files),
        "bytes": sum(one["bytes"] for one in made.edition.record.files),
        "seconds": round(took, 3),
        "figures_checked": made.edition.record.checks["figures"],
        "alerts": len(made.edition.alerts),
    }
    log.info("published %s in %.1f s", made.name, took, extra={"facts": facts})
    for alert in made.edition.alerts:
        log.warning("%s", alert)
    _send(own, made)
    return made.edition


def _shelf(brief: Brief, root: Path) -> FolderShelf | None:
    """Where cells of closed periods are kept for the next edition; None where no cell may lie about."""
    careful = brief.get("minimum_group", 0) > 1 or brief.get("row_samples") is False
    return None if careful or brief.get("keep_cells") is False else FolderShelf(root / FOLDER)


def editions(brief: Brief | str | os.PathLike[str], *, out: str | os.PathLike[str] | None = None) -> pd.DataFrame:
    """The editions of a brief, oldest first: edition, as_of, headline, rows, previous, alerts, folder.

    Parameters
    ----------
    brief
        A `Brief`, or the path of one.
    out
        The folder of the editions, where it is not the brief's.

    Returns
    -------
    DataFrame
        A row an edition; missing values stand for what an edition does not have.

    Raises
    ------
    SourceError
        A folder among them cannot be read.
    """
    import pandas as pd

    own = brief if isinstance(brief, Brief) else read_brief(brief)
    root = own.folder / own.get("out", _OUT) if out is None else Path(out)
    return pd.DataFrame(
        [
            {
                "edition": record.edition,
                "as_of": record.as_of,
                "headline": record.headline,
                "rows": record.source["rows"],
                "previous": record.previous,
                "alerts": len(record.alerts),
                "folder": str(folder),
            }
            for folder, record in folders.editions_in(root)
        ],
        columns=["edition", "as_of", "headline", "rows", "previous", "alerts", "folder"],
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class _Made:
    edition: Edition
    report: Report
    mailed: bool

    @property
    def name(self) -> str:
        return self.edition.name


def _edition(
    brief: Brief, root: Path, table: Table, progress: Callable[[str], None], *, accept: bool, replace: bool
) -> _Made:
    as_of, fingerprint = last_day(brief, table), fingerprint_of(table)
    name = name_for(root, as_of, fingerprint, brief.digest)
    earlier = before(root, as_of, name)
    if earlier is not None:
        folders.check_untouched(*earlier, ["findings.json"])
        if not accept:
            check_columns(earlier[1], table)
    built = edition_report(brief, table, earlier, root / name, progress)
    alerts = [one.text for one in built.alerts]
    progress("making the files")
    content = edition_files(brief, built, table, progress)
    record = record_for(
        brief=brief,
        root=root,
        name=name,
        as_of=as_of,
        table=table,
        fingerprint=fingerprint,
        built=built,
        previous=None if earlier is None else earlier[1].edition,
        alerts=alerts,
        content=content,
    )
    content.append((Path(RECORD), json_bytes(record.to_dict())))
    # What stands in the folder of an edition was published with it.
    ours = (root / name / RECORD).is_file()
    written = put_folder(root / name, content, replace=replace or ours)
    edition = Edition(
        name=name,
        folder=root / name,
        files=tuple(written),
        headline=str(built.report.model.summary.headline),
        alerts=tuple(alerts),
        notices=tuple(built.notices),
        record=record,
    )
    # Where alerts ask for mail, it goes out only when one of those fired.
    asked = any(one.get("mail") for one in brief.get("alert", ()))
    return _Made(edition=edition, report=built.report, mailed=not asked or any(one.mail for one in built.alerts))


@dataclass(frozen=True, slots=True, kw_only=True)
class Built:
    """An edition before its files: the `report` with what was said since the last one and what people changed; `base`
    are the words before changes made in this very edition, `carried` the changes of those before it."""

    made: BriefReport
    report: Report
    base: Mapping[str, Mapping[str, Any]]
    words: Sequence[Any]
    carried: Mapping[str, Any]
    told: Mapping[str, Any]
    totals: Sequence[Any]
    checks: Mapping[str, int]
    notices: Sequence[str]
    alerts: Sequence[Fired]
    slices: Sequence[tuple[str, Report]]


def edition_report(
    brief: Brief, table: Table, earlier: tuple[Path, EditionRecord] | None, own: Path, progress: Callable[[str], None]
) -> Built:
    """The report of an edition, compared with the one before it, with the words that people changed."""
    familiar = () if earlier is None else familiar_in(earlier[1])
    made = brief_report(brief, progress, table=table, familiar=familiar)
    told, totals = told_in(made), totals_in(made)
    alerts = fired_alerts(brief, made)
    report = made.report.opening(" ".join(one.text for one in alerts)) if alerts else made.report
    if earlier is not None:
        report, told = since_section(report, made, earlier[1], told, totals)
    progress("running the SQL behind the figures")
    report, checks = figures_checked(report, made)
    carried = {} if earlier is None else edits_before(*earlier)
    base = edited(report, made, carried, {})
    own_edits = edits_before(own, folders.read_record(own), carried) if (own / RECORD).is_file() else carried
    final = edited(report, made, own_edits, own_edits)
    parts = []
    if "slices" in brief.said:
        for label, kept in _labels(brief, table):
            progress(f"reporting on {label}")
            parts.append((label, brief_report(brief, progress, table=kept).report))
    return Built(
        made=made,
        report=final.report,
        base=base.words,
        words=final.listed,
        carried={key: one.to_dict() for key, one in carried.items()},
        told=told,
        totals=totals,
        checks=checks,
        notices=final.notices,
        alerts=alerts,
        slices=parts,
    )


def _labels(brief: Brief, table: Table) -> list[tuple[str, Table]]:
    """The labels of the column that a brief wants a report for each of, with their rows."""
    column = table.column(brief.get("slices"), "the slices").name
    labels, _ = table.label_counts(column)
    told = sorted(str(label) for label in labels if label is not None)
    return [(label, table.filter(table.equals(column, label))) for label in told[:_MOST_SLICES]]


#: Reports of slices at most.
_MOST_SLICES = 60


def edition_files(
    brief: Brief, built: Built, table: Table, progress: Callable[[str], None]
) -> list[tuple[Path, bytes]]:
    """The files of an edition but its record."""
    formats = list(dict.fromkeys([*brief.get("formats", _FORMATS), "json"]))
    content = built.report.contents(formats, progress)
    for place, (label, report) in enumerate(built.slices, start=1):
        folder = Path("slices") / f"{place:02d}-{file_name(label)}"
        content += [(folder / path, data) for path, data in report.contents(formats, progress)]
    headline = built.report.model.summary.headline
    content.append((Path(WORDS), words_file(headline, built.words, last_day(brief, table) or "")))
    content.append((Path("brief.toml"), brief.shown().encode("utf-8")))
    content += built.report.cell_files()
    content.append((Path("cells") / "totals.csv", totals_csv(built.totals)))
    if table.origin.kind != "join":
        content.append((Path("repairs.json"), json_bytes(table.repair_log())))
    return content


def last_day(brief: Brief, table: Table) -> str | None:
    """The last day of the data, by which an edition is called."""
    from ..analysis.scan_pipeline import timeline_for

    line = timeline_for(table, brief.get("time"))
    return None if line is None else str(line.last_day)


def _also_logged(progress: Callable[[str], None]) -> Callable[[str], None]:
    """What is told of the work, and logged too."""

    def told(text: str) -> None:
        log.info("%s", text)
        progress(text)

    return told


def _check_formats(brief: Brief) -> None:
    for name in brief.get("formats", ()):
        if name not in FORMATS:
            raise RequestError("The format", name, "one of " + ", ".join(FORMATS))


def _send(brief: Brief, made: _Made) -> None:
    """The report by mail, where the brief has one and it is to go out."""
    said = brief.get("mail")
    if said is None or not made.mailed:
        return
    made.report.send(host=said["host"], port=int(said.get("port", 25)), sender=said["from"], to=said["to"])
