"""`ga.verify`: every figure of a published edition, computed again from the source and compared with what it says.

Two ways lead to each figure. The SQL that stands beside the findings, and a plain grouping for the figures by period,
are run over the source, past all that the analysis keeps. And the whole edition is made again from the source, read
back and compared number by number with the published files, so that no number in any of them is left uncompared.
"""

from __future__ import annotations

import json
import os
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..aggregation.measures import parse_measure
from ..export.data_files import json_bytes
from ..export.edition_folders import digest, editions_in, read_record
from ..reports import brief as briefs
from ..reports.brief import Brief
from ..reports.edition_record import RECORD, EditionRecord
from ..reports.page_model import Section
from ..reports.people_edits import WORDS
from ..sql.expressions import quote_name
from ..support.errors import AlmanacError, SourceError, listed
from ..support.notebook_view import view
from ..support.printable import made_visible
from ..tables import Table
from ..text.languages import speaking
from .brief_report import brief_rows, brief_voice
from .edition_content import fingerprint_of, record_for, versions
from .publish_brief import Edition, edition_files, edition_report
from .verify_cells import checked_cells
from .verify_files import compared, difference

if TYPE_CHECKING:
    import pandas as pd

#: Relative difference up to which two figures are the same.
_SAME = 1e-9
#: Figures of findings that follow from others by arithmetic.
_DERIVED: Mapping[str, Callable[[Mapping[str, Any]], float]] = {
    "change": lambda f: f["value"] - f["baseline"],
    "change_pct": lambda f: 100 * (f["value"] / f["baseline"] - 1),
    "gap": lambda f: f["value"] - f["rest"],
}


@dataclass(frozen=True, slots=True, kw_only=True)
class VerifiedFigure:
    """A figure: in which file it stands and where, what it says, what the source gives, and which `way` that was come
    to: sql, arithmetic (on figures that SQL gave), or made again."""

    file: str
    place: str
    said: str
    gives: str
    way: str

    @property
    def agrees(self) -> bool:
        return self.said == self.gives


@dataclass(frozen=True, slots=True, kw_only=True, repr=False)
class Verification:
    """What came of it. `figures` are all that were compared; `differences` say in words what does not agree;
    `exceptions` name the kinds of figures that no SQL gives: they were made again by the same method."""

    edition: str
    figures: tuple[VerifiedFigure, ...]
    differences: tuple[str, ...]
    exceptions: tuple[str, ...]
    notes: tuple[str, ...] = ()

    @property
    def agrees(self) -> bool:
        """Whether every figure, and every file, is as the source gives it."""
        return not self.differences

    def counted(self, way: str | None = None) -> tuple[int, int]:
        """How many figures were compared, and how many agree, of one way or of all."""
        kept = [one for one in self.figures if way is None or one.way == way]
        return len(kept), sum(one.agrees for one in kept)

    def to_frame(self) -> pd.DataFrame:
        """One row a figure: file, place, said, gives, way, agrees."""
        import pandas as pd

        rows = [
            {"file": one.file, "place": one.place, "said": one.said, "gives": one.gives, "way": one.way,
             "agrees": one.agrees}
            for one in self.figures
        ]  # fmt: skip
        return pd.DataFrame(rows, columns=["file", "place", "said", "gives", "way", "agrees"])

    def to_dict(self) -> dict[str, Any]:
        """As JSON: format golden-almanac/verification/1."""
        ways = {}
        for way in ("sql", "arithmetic", "made again"):
            size, agree = self.counted(way)
            ways[way] = {"figures": size, "agree": agree}
        return {
            "format": "golden-almanac/verification/1",
            "edition": self.edition,
            "agrees": self.agrees,
            "figures": len(self.figures),
            "ways": ways,
            "differences": list(self.differences),
            "exceptions": list(self.exceptions),
            "notes": list(self.notes),
        }

    def lines(self) -> list[str]:
        """What a terminal shows."""
        size, agree = self.counted()
        told = [f"{agree:,} of {size:,} figures of the edition {self.edition} agree with the source."]
        for way, words in (
            ("sql", "by SQL over the source"),
            ("arithmetic", "by arithmetic on those"),
            ("made again", "in files that were made again from the source and read back"),
        ):
            size, agree = self.counted(way)
            if size:
                told.append(f"  {agree:,} of {size:,} {words}")
        if self.exceptions:
            told.append(
                "Figures that no SQL gives (ranges, shapes, statistics) were made again by the same method: "
                f"{listed(self.exceptions)}; --json names all."
            )
        return [*told, *self.notes, *self.differences]

    def _repr_html_(self) -> str:
        head, *lines = self.lines()
        return view(head, map(str.strip, lines))

    @made_visible
    def __repr__(self) -> str:
        return "\n".join(self.lines())


def verify(
    edition: Edition | str | os.PathLike[str], *, progress: Callable[[str], None] = lambda _: None
) -> Verification:
    """Compute every figure of a published edition again from the source, and compare.

    Parameters
    ----------
    edition
        An `Edition`, or its folder. The brief's folder must be where it was, with the source that it names.
    progress
        Called with a line of text: what is being done.

    Returns
    -------
    Verification
        What agrees and what does not, by figure; missing values are compared as such.

    Raises
    ------
    SourceError
        The folder is no edition, or the source cannot be read.
    AlmanacError
        Another of its subclasses: the source no longer has what the brief asks for.
    """
    folder = edition.folder if isinstance(edition, Edition) else Path(edition)
    record = read_record(folder)
    brief = _brief_of(folder, record)
    with speaking(brief_voice(brief)), brief_rows(brief, progress, as_of=record.as_of) as table:
        progress("running SQL over the source")
        notes = _about_source(record, table)
        # What is published is told already: its own SQL may add it up again.
        whole = replace(table, minimum=0)
        where = brief.get("where")
        kept = whole.filter(where) if where else whole
        figures = [*_of_findings(folder, whole), *_of_totals(folder, kept, brief)]
        progress("making the edition again")
        again, sections = _made_again(brief, folder, record, table, progress)
        figures += _of_cells(folder, kept, brief, sections)
    differences = [_worded(one) for one in figures if not one.agrees]
    differences += _brief_differs(folder, record)
    other = _other_versions(record)
    if other:
        notes.append(
            f"It was made with {', '.join(other)}: numbers of more than twelve digits are held to agree to nine."
        )
    for name, content in sorted(again.items()):
        told, wrong = compared(folder, name, content, close=bool(other))
        figures += [VerifiedFigure(**one._asdict(), way="made again") for one in told]
        differences += wrong
    differences += _strangers(folder, record)
    return Verification(
        edition=record.edition,
        figures=tuple(figures),
        differences=tuple(dict.fromkeys(differences)),
        exceptions=tuple(_without_sql(folder)),
        notes=tuple(notes),
    )


def _brief_of(folder: Path, record: EditionRecord) -> Brief:
    """The brief as it was used, at the place where it was."""
    path = folder / "brief.toml"
    try:
        text = path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError):
        raise SourceError(str(path), "the brief of the edition cannot be read", "Publish the edition again.") from None
    home = (folder / record.brief["folder"]).resolve()
    return Brief(path=home / record.brief["name"], text=text, said=briefs.checked(path, text))


def _brief_differs(folder: Path, record: EditionRecord) -> list[str]:
    content = (folder / "brief.toml").read_bytes()
    return [] if digest(content) == record.brief["sha256"] else ["brief.toml is not the brief that was used."]


def _about_source(record: EditionRecord, table: Table) -> list[str]:
    if fingerprint_of(table) == record.source["fingerprint"]:
        return []
    then, now = record.source["rows"], table.rows_read
    changed = f"{then:,} rows up to {record.as_of} then, {now:,} now" if then != now else "other values in its rows"
    return [f"{table.name} is not what it was: {changed}."]


def _other_versions(record: EditionRecord) -> list[str]:
    """What the edition was made with that is another version here: its last digits may be others."""
    here = versions()
    return [f"{name} {then}" for name, then in record.versions.items() if here.get(name, then) != then]


# --- by SQL ----------------------------------------------------------------------------------------------


def _findings(folder: Path) -> list[dict[str, Any]]:
    path = folder / "findings.json"
    try:
        told = json.loads(path.read_text(encoding="utf-8"))
        return list(told["findings"])
    except (OSError, ValueError, KeyError, TypeError):
        raise SourceError(str(path), "it cannot be read as findings", "Publish the edition again.") from None


def _of_findings(folder: Path, table: Table) -> Iterator[VerifiedFigure]:
    """The figures of findings that have SQL, run over the source; and those that follow from them."""
    for place, finding in enumerate(_findings(folder)):
        check, figures = finding.get("check"), finding.get("figures") or {}
        if not check:
            continue
        where = f"findings[{place}] {finding['kind']}"
        try:
            row = table.sql(check["sql"]).iloc[0]
        except AlmanacError as problem:
            yield VerifiedFigure(file="findings.json", place=where, said=check["sql"], gives=str(problem), way="sql")
            continue
        came = {name: None if row[name] is None or row[name] != row[name] else float(row[name]) for name in row.index}
        for name, said in check["expect"].items():
            yield _figure(f"{where} {name}", said, came.get(name), "sql")
            # Of a forecast SQL gives the past that it is made from.
            if (
                finding["kind"] != "forecast"
                and name in figures
                and figures[name] is not None
                and not isinstance(figures[name], str | list)
            ):
                yield _figure(f"{where} figures.{name}", figures[name], came.get(name), "sql")
        for name, derive in _DERIVED.items():
            if not isinstance(figures.get(name), int | float) or finding["kind"] == "forecast":
                continue
            try:
                yield _figure(f"{where} figures.{name}", figures[name], derive(came), "arithmetic")
            except (KeyError, TypeError, ZeroDivisionError):
                continue


def _figure(place: str, said: Any, gives: float | None, way: str) -> VerifiedFigure:
    same = said == gives or (
        said is not None
        and gives is not None
        and abs(float(said) - gives) <= _SAME * max(1.0, abs(float(said)), abs(gives))
    )
    return VerifiedFigure(
        file="findings.json", place=place, said=repr(said), gives=repr(said) if same else repr(gives), way=way
    )


def _of_totals(folder: Path, table: Table, brief: Brief) -> Iterator[VerifiedFigure]:
    """The figures by period, each measure by a plain grouping of the source."""
    import csv

    from ..analysis.scan_pipeline import timeline_for

    path = folder / "cells" / "totals.csv"
    try:
        rows = list(csv.DictReader(path.read_text(encoding="utf-8").splitlines()))
    except OSError:
        return
    line = timeline_for(table, brief.get("time"), brief.get("grain"))
    if line is None or not rows:
        return
    named = {parse_measure(text, table).name: text for text in _measure_texts(brief)}
    for name in dict.fromkeys(row["measure"] for row in rows):
        measure = parse_measure(named.get(name, name), table)
        if measure.level:
            # What a level is at the end of a period, no plain grouping gives.
            continue
        spans = {row["start"]: row for row in rows if row["measure"] == name}
        column = quote_name(line.column)
        joined = " UNION ALL ".join(
            f"SELECT '{start}' AS start, ({measure.sql}) AS value FROM source "
            f"WHERE CAST({column} AS DATE) BETWEEN DATE '{start}' AND DATE '{row['end']}'"
            for start, row in spans.items()
        )
        came = {str(one["start"]): one["value"] for one in table.sql(joined).to_dict("records")}
        for start, row in spans.items():
            gives = came.get(start)
            figure = _figure(f"{name} {start}", float(row["value"]), None if gives is None else float(gives), "sql")
            yield VerifiedFigure(
                file="cells/totals.csv", place=figure.place, said=figure.said, gives=figure.gives, way="sql"
            )


def _of_cells(folder: Path, table: Table, brief: Brief, sections: Sequence[Section]) -> Iterator[VerifiedFigure]:
    """The cells of charts that plain groupings of the source give."""
    for cell in checked_cells(folder, table, brief, _findings(folder), sections):
        said = repr(cell.said)
        yield VerifiedFigure(
            file=cell.file,
            place=cell.place,
            said=said,
            gives=said if cell.agrees else repr(cell.gives),
            way="arithmetic" if cell.scaled else "sql",
        )


def _measure_texts(brief: Brief) -> list[str]:
    return [*brief.get("measures", ()), *(one["sql"] for one in brief.get("measure", ()))]


def _without_sql(folder: Path) -> list[str]:
    """The names of figures that no SQL gives, and no arithmetic on what SQL gives."""
    names: set[str] = set()
    for finding in _findings(folder):
        check = finding.get("check") or {"expect": {}}
        figures = finding.get("figures") or {}
        numeric = {name for name, value in figures.items() if isinstance(value, int | float)}
        names |= numeric - set(check["expect"]) - set(_DERIVED)
    return sorted(names)


# --- made again ---------------------------------------------------------------------------------------------


def _made_again(
    brief: Brief, folder: Path, record: EditionRecord, table: Table, progress: Callable[[str], None]
) -> tuple[dict[str, bytes], tuple[Section, ...]]:
    """The files of the edition as the source makes them now, and the sections of its report."""
    root = folder.parent
    earlier = None
    if record.previous is not None:
        earlier = next((pair for pair in editions_in(root) if pair[1].edition == record.previous), None)
        if earlier is None:
            raise SourceError(
                str(root / record.previous), "the edition that this one is compared with is gone", "Put it back."
            )
    built = edition_report(brief, table, earlier, folder, progress)
    content = edition_files(brief, built, table, progress)
    made = record_for(
        brief=brief,
        root=root,
        name=record.edition,
        as_of=record.as_of,
        table=table,
        fingerprint=record.source["fingerprint"],
        built=built,
        previous=record.previous,
        alerts=[one.text for one in built.alerts],
        content=content,
    ).to_dict()
    # What it was made with, and what it weighs, is that of its day.
    stored = record.to_dict()
    told = {**made, **{key: stored[key] for key in ("versions", "files", "brief", "source")}}
    files = {path.as_posix(): data for path, data in content if path.as_posix() not in (WORDS, "brief.toml")}
    return {**files, RECORD: json_bytes(told)}, built.report.model.sections


def _worded(one: VerifiedFigure) -> str:
    return difference(one.file, one.place, one.said, one.gives)


def _strangers(folder: Path, record: EditionRecord) -> list[str]:
    """Files that lie in the edition's folder and are none of it."""
    known = {one["path"] for one in record.files} | {RECORD, WORDS}
    found = sorted(path.relative_to(folder).as_posix() for path in folder.rglob("*") if path.is_file())
    return [f"{name} was not published with this edition." for name in found if name not in known]
