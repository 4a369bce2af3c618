"""What an edition holds beside the plain report: what changed since the last one, what people changed, alerts, figures
run again, and the record of it all."""

from __future__ import annotations

import hashlib
import io
import platform
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from importlib.metadata import version
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from ..aggregation import PERIOD
from ..aggregation.measures import cast_flags, parse_measure
from ..analysis.change import Explanation
from ..analysis.detectors import kinds
from ..export.data_files import frame_bytes
from ..export.edition_folders import digest
from ..findings import Finding
from ..findings.matching import matching
from ..reports import Section
from ..reports.between_editions import SinceLast, since_last
from ..reports.brief import Brief
from ..reports.edition_record import EditionRecord, PeriodTotal, ToldFinding
from ..reports.people_edits import ADDED, WORDS, Edit, Words, edits_between, read_words
from ..sql import expressions
from ..sql.expressions import quote_name
from ..support.errors import AlmanacError, RequestError, SourceError
from ..tables import Period, Table
from ..text import dates, names
from ..text import edition_sentences as said
from ..text.languages import say
from .brief_report import BriefReport
from .explain_change import change_of
from .report import Report
from .table_report import PeriodReview

if TYPE_CHECKING:
    from .publish_brief import Built

#: Figures that tell how large an effect is, the first that a finding has.
_SIZES = ("relative_pct", "change_pct", "gap_pct", "lead_pct", "deviations", "r", "strength", "share", "excess")
#: From so many editions in a row a finding is going on, and what is read twice comes behind what is new.
_GOING_ON, _READ_TWICE = 3, 2
_MOST_GOING_ON = 4
_PACKAGES = ("golden-almanac", "numpy", "scipy", "pandas", "duckdb", "matplotlib")
#: Rows of a table hashed at a time where it is left in its file.
_SINCE = "since"


# --- what was told, and what changed since -----------------------------------------------------------


def explained_in(made: BriefReport) -> list[tuple[Finding, Explanation]]:
    """The changes of the period that are told by themselves, the leading one first."""
    if isinstance(made.found, PeriodReview):
        return [(change.findings[0], change.explanation) for change in made.found.changes]
    return []


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
    section = Section(
        id=_SINCE,
        claim=said.since_claim(found.previous, len(found.new), len(found.gone), len(found.restated)),
        detail=" ".join(text for text in _since_texts(found, earlier, counted, made) if text),
        chart=None,
        evidence=((say("Edition"), found.previous),),
        sql="",
        expect=(),
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


def _restated(found: SinceLast, made: BriefReport) -> str:
    survey = made.scan.result.survey
    measures = {measure.name: measure for measure in survey.measures}
    line = survey.timeline
    assert line is not None
    told = []
    # The latest come first: they are what a reader remembers.
    listed = sorted(found.restated, key=lambda one: (one.start, one.measure), reverse=True)
    for one in listed[: said.shown_restated()]:
        start, end = np.datetime64(one.start, "D"), np.datetime64(one.end, "D")
        span = line.calendar.holding(line.grain, start)
        if (span.start, span.end) != (start, end):
            span = Period(start=start, end=end, calendar=line.calendar)
        told.append(said.restated(measures[one.measure], span, one.was, one.now))
    if len(listed) > len(told):
        told.append(said.more_restated(len(listed)))
    return " ".join(told)


# --- what people changed -------------------------------------------------------------------------------


@dataclass(frozen=True, slots=True, kw_only=True)
class Edited:
    """A report with people's changes: `words` are claim, detail and figures of each section by key as they stand in the
    file of words, `listed` the same in order with remarks and corrections."""

    report: Report
    words: Mapping[str, Mapping[str, Any]]
    listed: Sequence[tuple[str, Words]]
    notices: Sequence[str]


def edits_before(folder: Path, record: EditionRecord, before: Mapping[str, Edit] | None = None) -> dict[str, Edit]:
    """What people changed in the words of an edition, upon what was carried into it."""
    carried = {key: Edit.of(one) for key, one in record.edits.items()} if before is None else dict(before)
    path = folder / WORDS
    if not path.exists():
        # A file that is gone is no edit: nobody takes every section out so.
        return carried
    try:
        text = path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError):
        raise SourceError(
            str(path), "the words of the edition cannot be read", "Put the file back, or publish that edition again."
        ) from None
    known, added = read_words(text, str(path))
    edits = edits_between(record.words, known, carried, record.edition)
    taken = sum(key.startswith(ADDED) for key in edits)
    for place, one in enumerate(added, start=taken + 1):
        edits[f"{ADDED}{place}"] = Edit(
            claim=one.claim, detail=one.detail, remarks=one.remarks, corrections=one.corrections, edition=record.edition
        )
    return edits


def edited(report: Report, made: BriefReport, edits: Mapping[str, Edit], shown: Mapping[str, Edit]) -> Edited:
    """The report with the changes `shown`; its words with all `edits`, as they were written."""
    keys = _keys(report, made)
    words: dict[str, Mapping[str, Any]] = {}
    listed: list[tuple[str, Words]] = []
    notices = []
    for section in report.model.sections:
        key = keys[section.id]
        edit = edits.get(key, Edit())
        figures = _figures(section)
        if edit.dropped:
            continue
        claim, detail = edit.claim or str(section.claim), section.detail if edit.detail is None else edit.detail
        stands = made.scan.fill(f"{claim} {detail}") if edit.corrections else ""
        holding = tuple(one for one in edit.corrections if one.was in stands)
        notices += [
            say(
                "The correction of {was} by {who} is left out: the figure is no longer there.", was=one.was, who=one.who
            )
            for one in edit.corrections
            if one not in holding and key in shown
        ]
        words[key] = {"claim": claim, "detail": str(detail), "figures": figures}
        listed.append((key, Words(claim=claim, detail=str(detail), remarks=edit.remarks, corrections=holding)))
    for section in report.model.sections:
        edit = shown.get(keys[section.id], Edit())
        if edit == Edit():
            continue
        if edit.dropped:
            report = report.drop(section.id)
            continue
        report, told = _changed(report, section, edit, made)
        notices += told
    known = set(keys.values())
    for key, edit in edits.items():
        if key.startswith(ADDED) and edit.claim and not edit.dropped:
            listed.append((key, Words(claim=edit.claim, detail=edit.detail or "", remarks=edit.remarks)))
            words[key] = {"claim": edit.claim, "detail": edit.detail or "", "figures": {}}
            if key in shown:
                title = made.scan.fill(edit.claim)
                report = report.note(title, _remarked(title, made.scan.fill(edit.detail or ""), edit))
        elif key not in known and not edit.dropped and key in shown:
            notices.append(
                say("What was changed by hand in “{what}” is not told in this edition.", what=edit.claim or key)
            )
    return Edited(report=report, words=words, listed=listed, notices=notices)


def _changed(report: Report, section: Section, edit: Edit, made: BriefReport) -> tuple[Report, list[str]]:
    notices = []
    claim = section.claim if edit.claim is None else made.scan.fill(edit.claim)
    detail = section.detail if edit.detail is None else made.scan.fill(edit.detail)
    if edit.hand_written and dict(edit.figures) != _figures(section):
        detail = f"{detail} {said.to_review(edit.edition)}".strip()
        notices.append(say("To be reviewed: {what}", what=claim))
    return report.replace(section.id, claim=claim, detail=_remarked(claim, detail, edit)), notices


def _remarked(claim: str, detail: str, edit: Edit) -> str:
    stands = f"{claim} {detail}"
    told = [said.remark(who, text) for who, text in edit.remarks]
    told += [said.correction(one.who, one.was, one.now, one.why) for one in edit.corrections if one.was in stands]
    return " ".join([detail, *told]).strip() if told else detail


def _keys(report: Report, made: BriefReport) -> dict[str, str]:
    """The key of each section, which it keeps from edition to edition."""
    findings = {finding.id: matching(finding) for finding in made.scan.findings}
    taken: dict[str, str] = {}
    for section in report.model.sections:
        key = findings.get(section.id, section.id)
        taken[section.id] = key if key not in taken.values() else section.id
    return taken


def _figures(section: Section) -> dict[str, str]:
    """The figures of a section by which it is seen whether its facts changed."""
    told = section.figures if section.figures else dict(section.expect)
    return {
        name: repr(float(value)) if isinstance(value, int | float) else str(value)
        for name, value in told.items()
        if isinstance(value, int | float | str) and not isinstance(value, bool)
    }


# --- figures run again, alerts ---------------------------------------------------------------------------


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


def fired_alerts(brief: Brief, made: BriefReport) -> list[str]:
    """The alerts whose conditions hold."""
    return [told for one in brief.get("alert", ()) if (told := _fired(one, made)) is not None]


def _fired(alert: Mapping[str, Any], made: BriefReport) -> str | None:
    if "when" in alert:
        return _holds(alert, made)
    if "unusual" in alert:
        return _unusual(alert, made)
    measure = parse_measure(alert["measure"], made.table).name if "measure" in alert else None
    wanted = alert.get("where", {})
    for finding in made.scan.findings:
        own = dict(finding.where.conditions)
        if finding.kind != alert["kind"] or any(own.get(column) != label for column, label in wanted.items()):
            continue
        if measure is None or (finding.measure is not None and finding.measure.name == measure):
            return _told(alert["name"], str(finding.headline))
    return None


def _holds(alert: Mapping[str, Any], made: BriefReport) -> str | None:
    """A condition over measures of the period, asked in SQL."""
    table = made.table
    condition = _condition(alert["when"], table)
    span, column = _period_of(made)
    where = (
        ""
        if span is None
        else (f" WHERE CAST({quote_name(column)} AS DATE) BETWEEN DATE '{span.start}' AND DATE '{span.end}'")
    )
    value = table.sql(f"SELECT ({condition}) AS holds FROM source{where}")["holds"].iloc[0]
    if value is None or value != value or not bool(value):
        return None
    when = "" if span is None else f", {dates.period(span)}"
    return _told(alert["name"], f"{alert['when']}{when}.")


def _condition(text: str, table: Table) -> str:
    tree = expressions.parse(text, aggregates=True, what="a condition such as sum(revenue) < 1000000")
    bound: Any = expressions.bind(tree, table.names, "the alert", table.private)
    return expressions.to_sql(cast_flags(bound, table))


def check_alerts(brief: Brief, table: Table) -> None:
    """Refuse, before any work, alerts that cannot be asked of the table. Raises AlmanacError."""
    for place, one in enumerate(brief.get("alert", ()), start=1):
        if "when" in one:
            table.sql(f"SELECT ({_condition(one['when'], table)}) AS holds FROM source LIMIT 0")
        for key in ("unusual", "measure"):
            if key in one:
                parse_measure(one[key], table)
        if "kind" in one and one["kind"] not in kinds():
            raise RequestError(f"kind in [[alert]] {place}", one["kind"], "one of " + ", ".join(sorted(kinds())))


def _period_of(made: BriefReport) -> tuple[Period | None, str]:
    """The period reported on."""
    line = made.scan.result.survey.timeline
    if line is None:
        return None, ""
    explained = explained_in(made)
    if explained:
        return explained[0][1].period, line.column
    return (line.period(line.complete.stop - 1) if line.complete_count else None), line.column


def _unusual(alert: Mapping[str, Any], made: BriefReport) -> str | None:
    measure = parse_measure(alert["unusual"], made.table)
    known = {one.measure.name: (finding, one) for finding, one in explained_in(made)}
    if measure.name not in known:
        span = next((one.period for _, one in explained_in(made)), None)
        period = None if span is None else f"{span.start}/{span.end}"
        try:
            change = change_of(made.scan.result.survey, measure, period, None, ())
        except AlmanacError:
            return None
        known[measure.name] = (change.findings[0], change.explanation)
    finding, one = known[measure.name]
    if one.usual is None or one.usual.usual:
        return None
    return _told(alert["name"], str(finding.headline))


def _told(name: str, why: str) -> str:
    return f"{said.alert_told(names.capital(name).rstrip('.'))}: {why}"


# --- the record -----------------------------------------------------------------------------------------


def fingerprint_of(table: Table) -> str:
    """A digest of the table's rows: the same for the same rows in the same order."""
    if not table.store.abilities.in_order:
        columns = ", ".join(f"CAST({quote_name(name)} AS VARCHAR)" for name in table.names)
        every = replace(table, minimum=0)
        found = every.sql(f"SELECT count(*) AS n, sum(CAST(hash({columns}) AS HUGEINT)) AS s FROM source").iloc[0]
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
    try:
        home = str(brief.folder.resolve().relative_to((root / name).resolve(), walk_up=True))  # type: ignore[call-arg]
    except (TypeError, ValueError):
        import os

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
