"""What an edition holds beside the plain report: what changed since the last one, figures run again, the record."""

from __future__ import annotations

import hashlib
import io
import os
import platform
from collections.abc import Mapping, Sequence
from dataclasses import replace
from importlib.metadata import version
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from ..aggregation import PERIOD
from ..aggregation.measures import Measure
from ..export.data_files import frame_bytes
from ..export.edition_folders import digest
from ..findings import Finding, Slice
from ..findings.checks import one_row, over
from ..findings.matching import matching
from ..reports import Section
from ..reports.between_editions import Restated, SinceLast, since_last
from ..reports.brief import Brief
from ..reports.edition_record import EditionRecord, PeriodTotal, ToldFinding
from ..reports.people_edits import WORDS
from ..sql.content_numbers import rows_number
from ..sql.expressions import quote_name
from ..support.errors import SourceError
from ..tables import Period, Table
from ..text import dates
from ..text import edition_sentences as said
from ..text.languages import say
from .brief_report import BriefReport, explained_in
from .report import Report

if TYPE_CHECKING:
    from .publish_brief import Built

#: Figures that tell how large an effect is, the first that a finding has.
_SIZES = ("relative_pct", "change_pct", "gap_pct", "lead_pct", "deviations", "r", "strength", "share", "excess")
#: From so many editions in a row a finding is going on, and what is read twice comes behind what is new.
_GOING_ON, _READ_TWICE = 3, 2
_MOST_GOING_ON = 4
_PACKAGES = ("golden-almanac", "numpy", "scipy", "pandas", "duckdb", "matplotlib")
#: The id of the section on the last edition.
_SINCE = "since"


# --- what was told, and what changed since -----------------------------------------------------------


def told_in(made: BriefReport) -> dict[str, ToldFinding]:
    """The findings that an edition tells, by their matching key."""
    found: dict[str, ToldFinding] = {}
    for finding in made.scan.findings:
        found.setdefault(
            matching(finding),
            ToldFinding(
                id=finding.id,
                kind=finding.kind,
                headline=str(finding.headline),
                size=_size(finding),
                direction=finding.direction,
            ),
        )
    return found


def _size(finding: Finding) -> float | None:
    for name in _SIZES:
        value = finding.figures.get(name)
        if isinstance(value, int | float) and not isinstance(value, bool) and np.isfinite(value):
            return float(value)
    return None


def totals_in(made: BriefReport) -> tuple[PeriodTotal, ...]:
    """The measures of the scan in every complete period: what a later edition is compared with."""
    survey = made.scan.result.survey
    line = survey.timeline
    if line is None:
        return ()
    rows = survey.cells(PERIOD).rows
    told = []
    for measure in survey.measures:
        values = survey.cells(PERIOD).value(measure)
        for place in range(line.complete.start, line.complete.stop):
            if np.isfinite(values[place]) and rows[place] >= max(1, survey.table.minimum):
                span = line.period(place)
                told.append(
                    PeriodTotal(
                        measure=measure.name, start=str(span.start), end=str(span.end), value=float(values[place])
                    )
                )
    return tuple(told)


def totals_csv(totals: Sequence[PeriodTotal]) -> bytes:
    """The figures by period, as CSV."""
    import pandas as pd

    rows = [{"measure": one.measure, "start": one.start, "end": one.end, "value": one.value} for one in totals]
    return frame_bytes(pd.DataFrame(rows, columns=["measure", "start", "end", "value"]))


def familiar_in(record: EditionRecord) -> tuple[str, ...]:
    """The findings that readers have read twice."""
    return tuple(key for key, one in record.told.items() if one.editions >= _READ_TWICE)


def since_section(
    report: Report,
    made: BriefReport,
    earlier: EditionRecord,
    told: Mapping[str, ToldFinding],
    totals: Sequence[PeriodTotal],
) -> tuple[Report, dict[str, ToldFinding]]:
    """The report with a section on what changed since an edition, first of all, and the findings counted on."""
    found, counted = since_last(earlier, told, totals)
    sql, expect = _restated_sql(found, made)
    section = Section(
        id=_SINCE,
        claim=said.since_claim(found.previous, len(found.new), len(found.gone), len(found.restated)),
        detail=" ".join(text for text in _since_texts(found, earlier, counted, made) if text),
        chart=None,
        evidence=((say("Edition"), found.previous),),
        sql=sql,
        expect=expect,
        part=say("Since the last edition"),
    )
    model = report.model
    return replace(report, model=replace(model, sections=(section, *model.sections))), counted


def _since_texts(
    found: SinceLast, earlier: EditionRecord, told: Mapping[str, ToldFinding], made: BriefReport
) -> list[str]:
    texts = [_restated(found, made)]
    texts.append(said.listed_under("new", [told[key].headline for key in found.new]))
    texts.append(said.listed_under("stronger", [told[key].headline for key in found.stronger]))
    texts.append(said.listed_under("weaker", [told[key].headline for key in found.weaker]))
    texts.append(said.listed_under("gone", [earlier.told[key].headline for key in found.gone]))
    long = sorted((one for key, one in told.items() if key in found.going_on), key=lambda one: -one.editions)
    by_count: dict[int, list[str]] = {}
    for one in [one for one in long if one.editions >= _GOING_ON][:_MOST_GOING_ON]:
        by_count.setdefault(one.editions, []).append(one.headline)
    return [*texts, *(said.going_on(" ".join(headlines), editions) for editions, headlines in by_count.items())]


def _shown_restated(found: SinceLast, made: BriefReport) -> list[tuple[Restated, Measure, Period]]:
    """The figures restated that are told, with what they are of; the latest first: they are what a reader remembers."""
    survey = made.scan.result.survey
    measures = {measure.name: measure for measure in survey.measures}
    line = survey.timeline
    told = []
    for one in sorted(found.restated, key=lambda one: (one.start, one.measure), reverse=True)[: said.MOST_RESTATED]:
        assert line is not None
        start, end = np.datetime64(one.start, "D"), np.datetime64(one.end, "D")
        span = line.calendar.holding(line.grain, start)
        if (span.start, span.end) != (start, end):
            span = Period(start=start, end=end, calendar=line.calendar)
        told.append((one, measures[one.measure], span))
    return told


def _restated(found: SinceLast, made: BriefReport) -> str:
    told = [said.restated(measure, span, one.was, one.now) for one, measure, span in _shown_restated(found, made)]
    if len(found.restated) > len(told):
        told.append(said.more_restated(len(found.restated) - len(told)))
    return " ".join(told)


def _restated_sql(found: SinceLast, made: BriefReport) -> tuple[str, tuple[tuple[str, str], ...]]:
    """The SELECT that gives the figures as they are now, and what it gives."""
    survey = made.scan.result.survey
    columns, expect = {}, []
    for one, measure, span in _shown_restated(found, made):
        if one.now is None or survey.timeline is None:
            continue
        name = f"{measure.label}, {dates.period(span)}"
        columns[quote_name(name)] = over(measure, survey.table, Slice(), survey.timeline.column, span)
        expect.append((name, repr(one.now)))
    return (one_row(columns), tuple(expect)) if columns else ("", ())


# --- figures run again ------------------------------------------------------------------------------------


def figures_checked(report: Report, made: BriefReport) -> tuple[Report, dict[str, int]]:
    """The report with a foot that says how many of its findings' figures SQL gave again."""
    figures = agree = 0
    for finding in shown_findings(report, made):
        result = finding.check()
        figures += len(result.expected)
        agree += len(result.expected) - len(result.differing)
    model = report.model
    lines = (*model.made, said.checked(figures, agree))
    return replace(report, model=replace(model, made=lines)), {"figures": figures, "agree": agree}


def shown_findings(report: Report, made: BriefReport) -> list[Finding]:
    """The findings that a report shows, and the changes that it explains."""
    shown = set(report.ids)
    return [finding for finding in made.scan.findings if finding.id in shown] + [
        finding for finding, _ in explained_in(made)
    ]


# --- the record -----------------------------------------------------------------------------------------


def fingerprint_of(table: Table) -> str:
    """A digest of the table's rows: the same for the same rows in the same order; of a table left where it is, in
    any order, by a number worked out from each row, the same on every engine."""
    if not table.store.abilities.in_order:
        told = rows_number([(column.name, column.type) for column in table.columns])
        found = table.store.query(f"SELECT count(*) AS n, sum({told}) AS s FROM source").to_pylist()[0]
        return hashlib.sha256(f"{found['n']} {found['s']}".encode()).hexdigest()
    import pyarrow as pa
    import pyarrow.csv as csv

    arrow = table.arrow
    for place, one in enumerate(arrow.schema):
        if pa.types.is_dictionary(one.type):
            arrow = arrow.set_column(place, one.name, arrow.column(place).cast(one.type.value_type))
        elif not (pa.types.is_primitive(one.type) or pa.types.is_string(one.type)):
            arrow = arrow.set_column(place, one.name, arrow.column(place).cast(pa.string()))
    written = io.BytesIO()
    csv.write_csv(arrow, written)
    return hashlib.sha256(written.getbuffer()).hexdigest()


def check_columns(earlier: EditionRecord, table: Table) -> None:
    """Raises SourceError where the source lost a column, or one has another type, since an edition."""
    types = {column.name: column.type for column in table.columns}
    lost = [name for name in earlier.columns if name not in types]
    turned = [name for name, kind in earlier.columns.items() if types.get(name, kind) != kind and kind != "empty"]
    if not lost and not turned:
        return
    told = [f"lost the column {', '.join(map(repr, lost))}"] if lost else []
    told += [f"{name!r} was {earlier.columns[name]} and is {types[name]}" for name in turned]
    raise SourceError(
        table.name,
        f"since the edition of {earlier.edition} it has changed: {'; '.join(told)}",
        "Mend the source, or publish with --accept to go on without it.",
    )


def versions() -> dict[str, str]:
    """What an edition was made with."""
    return {"python": platform.python_version(), **{name: version(name) for name in _PACKAGES}}


def record_for(
    *,
    brief: Brief,
    root: Path,
    name: str,
    as_of: str | None,
    table: Table,
    fingerprint: str,
    built: Built,
    previous: str | None,
    alerts: Sequence[str],
    content: Sequence[tuple[Path, bytes]],
) -> EditionRecord:
    """The record of an edition, from all that it was made of."""
    home = os.path.relpath(brief.folder.resolve(), (root / name).resolve())
    model = built.report.model
    return EditionRecord(
        edition=name,
        as_of=as_of,
        title=model.title,
        headline=str(model.summary.headline),
        previous=previous,
        brief={"name": brief.path.name, "sha256": brief.digest, "folder": home},
        source={"name": table.name, "rows": table.rows_read, "fingerprint": fingerprint},
        versions=versions(),
        columns={column.name: column.type for column in table.columns},
        told=built.told,
        totals=tuple(built.totals),
        words=built.base,
        edits=built.carried,
        alerts=tuple(alerts),
        checks=built.checks,
        # What people may change is not held to what it was.
        files=[
            {"path": path.as_posix(), "bytes": len(data), "sha256": digest(data)}
            for path, data in content
            if path.as_posix() != WORDS
        ],
    )
