"""What people changed in the words of an edition, put into the report of the next."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ..findings.matching import matching
from ..reports import Section
from ..reports.edition_record import EditionRecord
from ..reports.people_edits import ADDED, WORDS, Edit, Words, edits_between, read_words
from ..support.errors import SourceError
from ..text import edition_sentences as said
from ..text.languages import say
from .brief_report import BriefReport
from .report import Report


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
