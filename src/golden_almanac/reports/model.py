"""A report: edition line, headline, summary, key figures, sections with their evidence, caveats.

Every format is made from this one model, so that all say the same in the same order.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..charts import Chart, draw, draw_change, draw_change_as
from ..core.cells import PERIOD, Survey
from ..core.changes import Explanation
from ..core.findings import Finding
from ..words import Summary, names, numbers
from ..words import caveats as told_caveats
from ..words import change as words_of_change

#: Sections of a report; further findings are named below them.
MOST_SECTIONS = 10
_MOST_KEYS = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class KeyFigure:
    """One number of the opening row: name, value, change in words, the series for its spark line."""

    name: str
    value: str
    change: str
    spark: tuple[float, ...]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Section:
    """A claim with its chart and, for the margin, what it rests on: pairs of a word and its text."""

    id: str
    claim: str
    detail: str
    chart: Chart | None
    evidence: tuple[tuple[str, str], ...]
    sql: str
    expect: tuple[tuple[str, str], ...]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Report:
    """All that a page says."""

    title: str
    edition: str
    summary: Summary
    keys: tuple[KeyFigure, ...]
    sections: tuple[Section, ...]
    further: tuple[str, ...]
    caveats: tuple[str, ...]
    made: tuple[str, ...]


def scan_report(
    survey: Survey,
    summary: Summary,
    findings: Sequence[Finding],
    folded: Sequence[Finding],
    latest: Sequence[Explanation],
    caveats: Sequence[tuple[str, dict[str, Any]]],
    tests: int,
    title: str | None = None,
    progress: Callable[[str], None] = lambda _: None,
) -> Report:
    """The report of a scan: its first findings as sections, the rest in a list."""
    sections = []
    for place, finding in enumerate(findings[:MOST_SECTIONS], start=1):
        progress(f"drawing chart {place} of {min(len(findings), MOST_SECTIONS)}")
        sections.append(section(finding, draw(finding, survey)))
    return Report(
        title=title or f"What matters in {survey.table.name}",
        edition=edition(survey),
        summary=summary,
        keys=tuple(_key(one) for one in latest[:_MOST_KEYS]),
        sections=tuple(sections),
        further=tuple(finding.headline for finding in findings[MOST_SECTIONS:]),
        caveats=_caveats(survey, caveats),
        made=_made(survey, tests, len(findings), len(folded)),
    )


def change_report(
    survey: Survey, summary: Summary, findings: Sequence[Finding], one: Explanation, title: str | None = None
) -> Report:
    """The report of one explained change: how it lies in its series, the bridge from baseline to now, rate and mix,
    what stands out, then a section for each dimension's contributions."""
    finding = findings[0]
    sections = [*_pictures(findings, one)]
    for breakdown in one.breakdowns[:4]:
        lead = max(breakdown.contributions, key=lambda part: (part.change * one.change, part.label or ""))
        share = f", {numbers.percent(100 * lead.share)} of the change" if lead.share and 0 < lead.share <= 2 else ""
        size = numbers.signed(lead.change, numbers.difference(lead.change, one.measure))
        label = "(no value)" if lead.label is None else lead.label
        claim = f"By {names.dimension(breakdown.by)}: {label} contributed most, {size}{share}."
        sections.append(
            Section(
                id=f"by-{breakdown.by}",
                claim=claim,
                detail="Contributions add up to the change.",
                chart=draw_change(one, claim, breakdown.by),
                sql=finding.evidence.sql,
                expect=tuple((name, repr(value)) for name, value in finding.evidence.expect.items()),
                evidence=(
                    ("Periods", f"{names.period(one.period)} against {names.period(one.baseline)}"),
                    ("Rows", f"{numbers.whole(one.rows)} against {numbers.whole(one.rows_before)}"),
                ),
            )
        )
    return Report(
        title=title or f"Why {one.measure.label} changed",
        edition=edition(survey),
        summary=summary,
        keys=(_key(one),),
        sections=tuple(sections),
        further=(),
        caveats=_caveats(survey, ()),
        made=_made(survey, None, None, None),
    )


def changes_report(
    summary: Summary,
    told: Sequence[tuple[Sequence[Finding], Explanation, Summary]],
    caveats: Sequence[str],
    title: str | None = None,
) -> Report:
    """The report of several changes: one story, a key figure and a section for each, with what the leading one is made
    of after its own."""
    first = told[0][1]
    sections = []
    for place, (findings, one, own) in enumerate(told):
        pictures = _pictures(findings, one)
        kept = pictures if place == 0 else pictures[:1]
        kept = [replace(kept[0], detail=own.text), *kept[1:]] if kept and place else kept
        sections += [replace(part, id=f"{part.id}-{place + 1}") for part in kept]
    return Report(
        title=title or f"What changed in {first.survey.table.name}",
        edition=edition(first.survey),
        summary=summary,
        keys=tuple(_key(one) for _, one, _ in told[:_MOST_KEYS]),
        sections=tuple(sections),
        further=(),
        caveats=tuple(dict.fromkeys([*caveats, *_caveats(first.survey, ())])),
        made=_made(first.survey, None, None, None),
    )


#: What each picture of a change claims, by its kind; the figures are in the picture and beside it.
_PICTURES = ("series", "bridge", "rate and mix", "slices")


def _pictures(findings: Sequence[Finding], one: Explanation) -> list[Section]:
    """A section for each way to draw a change that there is something to draw for."""
    whole = findings[0]
    stands_out = words_of_change.where(one)
    moved = words_of_change.movement(one)
    claims = {
        "series": (whole.headline, " ".join(words_of_change.usual(one))),
        "bridge": (
            (words_of_change.made_of(one, moved) or words_of_change.through(one, moved) or [whole.headline])[0],
            "Steps add up to the change.",
        ),
        "rate and mix": (
            (words_of_change.reversal(one) or words_of_change.through(one, moved) or [whole.headline])[0],
            "Rate and mix add up to the change.",
        ),
        "slices": ((stands_out or [whole.headline])[0], " ".join(words_of_change.next_look(one))),
    }
    made = []
    for kind in _PICTURES:
        claim, detail = claims[kind]
        chart = draw_change_as(kind, one, claim, None)
        if chart is not None:
            shown = findings[1] if kind == "slices" and len(findings) > 1 else whole
            made.append(replace(section(shown, chart), id=kind.replace(" ", "-"), claim=claim, detail=detail))
    return made


def section(finding: Finding, chart: Chart | None) -> Section:
    """A finding as a section: claim, chart, and its evidence for the margin."""
    check = finding.evidence
    return Section(
        id=finding.id,
        claim=finding.headline,
        detail=finding.detail,
        chart=chart,
        sql=check.sql,
        expect=tuple((name, repr(value)) for name, value in check.expect.items()),
        evidence=_evidence(finding),
    )


def edition(survey: Survey) -> str:
    """ "sailings.csv · 1 September 2022 to 19 October 2025 · 25,386 rows · by month"."""
    table, line = survey.table, survey.timeline
    parts = [table.name]
    if line is not None:
        parts.append(f"{names.day(line.first_day)} to {names.day(line.last_day)}")
    parts.append(f"{numbers.whole(table.rows)} rows")
    if line is not None:
        parts.append(f"by {line.grain.value}")
    if table.where:
        parts.append(f"where {table.where}")
    return " · ".join(parts)


def _evidence(finding: Finding) -> tuple[tuple[str, str], ...]:
    f = finding.figures
    found = []
    if finding.period is not None:
        found.append(("Period", names.span_of(finding.period)))
    share = f.get("share")
    if share is not None and finding.where.conditions and finding.kind != "outlier":
        whole = "rows" if finding.measure is None or not finding.measure.additive else finding.measure.label
        of = "of the change" if finding.kind == "change" else f"of all {whole}"
        found.append(("Size", f"{numbers.signed(min(share, 0), numbers.percent(100 * share))} {of}"))
    if f.get("relative_pct") is not None:
        ends = ""
        if f.get("relative_low_pct") is not None:
            ends = f" (95% range {_signed_percent(f['relative_low_pct'])} to {_signed_percent(f['relative_high_pct'])})"
        found.append(("Against its siblings", _signed_percent(f["relative_pct"]) + ends))
    if f.get("n") is not None:
        found.append(("Rows", numbers.whole(f["n"])))
    if finding.good is not None:
        found.append(("Verdict", "for the better" if finding.good else "for the worse"))
    if finding.notes:
        found.append(("Known of that time", "; ".join(finding.notes)))
    test = finding.test
    among = f", q = {test.q:.2g} among all tests" if test.q is not None else ""
    found.append(("Test", f"{test.name}; {numbers.p_value(test.p)}{among}"))
    score = finding.score
    parts = f"strength {score.strength:.2f}, reach {score.reach:.2f}, confidence {score.confidence:.2f}"
    found.append(("Score", f"{score.total:.2f} ({parts})"))
    if finding.related:
        count = len(finding.related)
        text = "finding that follows" if count == 1 else "findings that follow"
        found.append(("Folded under it", f"{numbers.whole(count)} {text} from it or say the same of another measure"))
    return tuple(found)


def _signed_percent(value: float) -> str:
    return numbers.signed(value, numbers.percent(value))


def _key(one: Explanation) -> KeyFigure:
    from ..core.changes import candidate
    from ..core.findings import Score, Test
    from ..words.change import change_size

    bare = Finding(
        candidate=candidate(one),
        test=Test(name="", statistic=None, p=1.0),
        score=Score(total=0, strength=0, reach=0, confidence=0),
    )
    survey = one.survey
    line = survey.timeline
    assert line is not None
    values = survey.cells(PERIOD).value(one.measure)[line.complete] if not one.where.conditions else np.empty(0)
    return KeyFigure(
        name=f"{names.capital(one.measure.label)}, {names.period(one.period)}",
        value=numbers.amount(one.value, one.measure),
        change=f"{change_size(bare)} {names.period(one.baseline)}",
        spark=tuple(float(value) for value in values if np.isfinite(value)),
    )


def _caveats(survey: Survey, caveats: Sequence[tuple[str, dict[str, Any]]]) -> tuple[str, ...]:
    return (
        *(told_caveats.sentence(name, facts) for name, facts in caveats),
        # The scan says of itself which period is unfinished, at its own grain.
        *(problem.message for problem in survey.table.problems if problem.check != "unfinished period"),
    )


def _made(survey: Survey, tests: int | None, told: int | None, folded: int | None) -> tuple[str, ...]:
    table = survey.table
    lines = [f"{numbers.whole(table.rows_read)} rows and {len(table.columns)} columns were read from {table.name}."]
    if table.where:
        lines.append(f"Only rows where {table.where} were kept: {numbers.whole(table.rows)}.")
    lines.append("Measures: " + ", ".join(measure.name for measure in survey.measures) + ".")
    lines.append("Broken down by: " + (", ".join(column.name for column in survey.dimensions) or "nothing") + ".")
    if tests is not None:
        lines.append(
            f"{numbers.whole(tests)} tests were made in one family; {told} stories were kept and {folded} findings "
            "folded under them. Slices are tested against their siblings, so that growth of the whole is told once."
        )
    return tuple(lines)
