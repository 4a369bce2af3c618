"""A report: edition line, headline, summary, key figures, sections with their evidence, caveats.

Every format is made from this one model, so that all say the same in the same order.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, Any

import numpy as np

from ..aggregation import PERIOD, Survey
from ..analysis.change import Explanation
from ..charts import Chart, draw, draw_change, draw_change_as
from ..charts.figure_sources import Cell, Source, rows_within, that_give, total
from ..charts.figure_sources import change as change_of
from ..findings import Finding
from ..tables import Table
from ..text import Summary, dates, names, numbers, problem_sentences
from ..text import caveats as told_caveats
from ..text import change_sentences as words_of_change
from ..text import procedure_names as test_words
from ..text.finding_messages import kind_name
from ..text.languages import Voice, count, say, voice

if TYPE_CHECKING:
    import pandas as pd

#: Sections of a report; further findings are named below them.
MOST_SECTIONS = 12
_MOST_KEYS = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class KeyFigure:
    """One number of the opening row: name, value, change in words, the series for its spark line, and the first
    days of its periods. `figures` are what its numbers stand for, `sources` how they come from the series."""

    name: str
    value: str
    change: str
    spark: tuple[float, ...]
    periods: tuple[str, ...] = ()
    figures: Mapping[str, Any] = field(default_factory=dict)
    sources: Mapping[str, Source] = field(default_factory=dict)

    def to_frame(self) -> pd.DataFrame:
        """The series: period and value."""
        import pandas as pd

        return pd.DataFrame({"period": list(self.periods), "value": list(self.spark)})


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Section:
    """A claim with its chart or table and, for the margin, what it rests on: pairs of a word and its text.

    `size` is how much of its column a chart takes (0.3 to 1); `new_page` starts one where there are pages; `part` names
    the part of the report that it opens, `level` 3 that it belongs to the part opened before. `figures` are those that
    its numbers stand for, and `path` where the result's JSON has them.
    """

    id: str
    claim: str
    detail: str
    chart: Chart | None
    evidence: tuple[tuple[str, str], ...]
    sql: str
    expect: tuple[tuple[str, str], ...]
    table: pd.DataFrame | None = None
    size: float = 1.0
    new_page: bool = False
    part: str = ""
    level: int = 2
    figures: Mapping[str, Any] = field(default_factory=dict)
    path: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Listed:
    """A finding in the table of all: the section that tells it, where the report has one, its kind and slice in words,
    its score and headline."""

    section: str
    kind: str
    about: str
    score: float
    headline: str


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Report:
    """All that a page says, in the language of its voice; `owner` who answers for it, `steps` what to do next, `listed`
    all its findings, for formats in which a table can be searched."""

    title: str
    edition: str
    summary: Summary
    keys: tuple[KeyFigure, ...]
    sections: tuple[Section, ...]
    further: tuple[str, ...]
    caveats: tuple[str, ...]
    made: tuple[str, ...]
    subtitle: str = ""
    owner: str = ""
    steps: tuple[str, ...] = ()
    listed: tuple[Listed, ...] = ()
    voice: Voice = field(default_factory=voice)


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
    steps: Sequence[str] = (),
) -> Report:
    """The report of a scan: its first findings as sections, the rest in a list, and what to do next."""
    sections = []
    for place, finding in enumerate(findings[:MOST_SECTIONS], start=1):
        progress(f"drawing chart {place} of {min(len(findings), MOST_SECTIONS)}")
        made = section(finding, draw(finding, survey))
        sections.append(replace(made, figures=finding.figures, path=f"findings[{place - 1}].figures"))
    return Report(
        title=title or say("What matters in {table}", table=survey.table.name),
        edition=edition(survey),
        summary=summary,
        keys=tuple(key_of(one) for one in latest[:_MOST_KEYS]),
        sections=tuple(sections),
        further=tuple(finding.headline for finding in findings[MOST_SECTIONS:]),
        caveats=caveat_lines(survey, caveats),
        made=made_lines(survey, tests, len(findings), len(folded)),
        steps=tuple(steps),
        listed=listed(findings),
    )


def listed(findings: Sequence[Finding]) -> tuple[Listed, ...]:
    """Findings as rows of the table of all."""
    return tuple(
        Listed(
            section=finding.id,
            kind=kind_name(finding.kind),
            about=names.where_label(finding.where) or say("all"),
            score=finding.score.total,
            headline=finding.headline,
        )
        for finding in findings
    )


def change_report(
    survey: Survey,
    summary: Summary,
    findings: Sequence[Finding],
    explanation: Explanation,
    title: str | None = None,
    asked: Sequence[str] = (),
) -> Report:
    """The report of one explained change: how it lies in its series, the bridge from baseline to now, rate and mix,
    what stands out, then a section for the contributions of each dimension that shows more than chance or was
    asked for."""
    finding = findings[0]
    sections = [*change_pictures(findings, explanation)]
    folded = explanation.of_chance(asked)
    for breakdown in [one for one in explanation.breakdowns if one.by not in folded][:4]:
        lead = max(breakdown.contributions, key=lambda part: (part.change * explanation.change, part.label or ""))
        places = {
            "part": names.dimension(breakdown.by),
            "label": names.label(lead.label),
            "size": words_of_change.contributions(explanation, breakdown)[lead.label],
        }
        claim = (
            say(
                "By {part}: {label} contributed most, {size}, {share} of the change.",
                share=numbers.percent(100 * lead.share),
                **places,
            )
            if lead.share and 0 < lead.share <= 2
            else say("By {part}: {label} contributed most, {size}.", **places)
        )
        sections.append(
            Section(
                id=f"by-{breakdown.by}",
                claim=claim,
                detail=say("Contributions add up to the change."),
                chart=draw_change(explanation, claim, breakdown.by),
                sql=finding.evidence.sql,
                expect=tuple((name, repr(value)) for name, value in finding.evidence.expect.items()),
                evidence=(
                    (
                        say("Periods"),
                        say(
                            "{period} against {baseline}",
                            period=dates.period(explanation.period),
                            baseline=dates.period(explanation.baseline),
                        ),
                    ),
                    (
                        say("Rows"),
                        say(
                            "{period} against {baseline}",
                            period=numbers.whole(explanation.rows),
                            baseline=numbers.whole(explanation.rows_before),
                        ),
                    ),
                ),
            )
        )
    return Report(
        title=title or say("Why {measure} changed", measure=names.measure_name(explanation.measure)),
        edition=edition(survey),
        summary=summary,
        keys=(key_of(explanation),),
        sections=tuple(sections),
        further=(),
        caveats=caveat_lines(survey, [("of chance", {"by": folded})] if folded else ()),
        made=made_lines(survey, None, None, None),
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
        pictures = change_pictures(findings, one)
        kept = pictures if place == 0 else pictures[:1]
        kept = [replace(kept[0], detail=own.text), *kept[1:]] if kept and place else kept
        sections += [replace(part, id=f"{part.id}-{place + 1}") for part in kept]
    return Report(
        title=title or say("What changed in {table}", table=first.survey.table.name),
        edition=edition(first.survey),
        summary=summary,
        keys=tuple(key_of(one) for _, one, _ in told[:_MOST_KEYS]),
        sections=tuple(sections),
        further=(),
        caveats=tuple(dict.fromkeys([*caveats, *caveat_lines(first.survey, ())])),
        made=made_lines(first.survey, None, None, None),
    )


#: What each picture of a change claims, by its kind; the figures are in the picture and beside it.
_PICTURES = ("series", "bridge", "rate and mix", "slices")


def change_pictures(findings: Sequence[Finding], explanation: Explanation) -> list[Section]:
    """A section for each way to draw a change that there is something to draw for."""
    whole = findings[0]
    stands_out = words_of_change.where(explanation)
    moved = words_of_change.movement(explanation)
    claims = {
        "series": (whole.headline, " ".join(words_of_change.usual(explanation))),
        "bridge": (
            (
                words_of_change.made_of(explanation, moved)
                or words_of_change.through(explanation, moved)
                or [whole.headline]
            )[0],
            say("Steps add up to the change."),
        ),
        "rate and mix": (
            (words_of_change.reversal(explanation) or words_of_change.through(explanation, moved) or [whole.headline])[
                0
            ],
            say("Rate and mix add up to the change."),
        ),
        "slices": ((stands_out or [whole.headline])[0], " ".join(words_of_change.next_look(explanation))),
    }
    sections = []
    for kind in _PICTURES:
        claim, detail = claims[kind]
        chart = draw_change_as(kind, explanation, claim, None)
        if chart is not None:
            shown = findings[1] if kind == "slices" and len(findings) > 1 else whole
            sections.append(replace(section(shown, chart), id=kind.replace(" ", "-"), claim=claim, detail=detail))
    return sections


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
    table, line = survey.source or (survey.table, survey.timeline)
    parts = [table.name]
    if line is not None:
        parts.append(say("{first} to {last}", "days", first=dates.day(line.first_day), last=dates.day(line.last_day)))
    parts.append(say("{n} rows", n=numbers.whole(table.rows)))
    if line is not None:
        parts.append(say("by {grain}", grain=names.grain_noun(line.grain.value)))
    if table.where:
        parts.append(say("where {condition}", condition=table.where))
    return " · ".join(parts)


def shown_edition(report: Report) -> str:
    """The line above the headline: title, subtitle, what was read, who answers for it."""
    parts = [report.title, report.subtitle, report.edition]
    return " · ".join(
        [part for part in parts if part] + ([say("prepared by {owner}", owner=report.owner)] if report.owner else [])
    )


def edition_line(table: Table, rows: int) -> str:
    """ "sailings.csv · 25,386 rows · where …": what was read, where there is no time."""
    parts = [table.name, say("{n} rows", n=numbers.whole(rows))]
    return " · ".join([*parts, say("where {condition}", condition=table.where)] if table.where else parts)


def _evidence(finding: Finding) -> tuple[tuple[str, str], ...]:
    f = finding.figures
    found = []
    if finding.period is not None:
        found.append((say("Period"), dates.span_of(finding.period)))
    share = f.get("share")
    if share is not None and finding.where.conditions and not finding.definition.shows_rows:
        additive = finding.measure is not None and finding.measure.additive
        whole = names.measure_name(finding.measure) if additive else names.noun("rows")
        size = numbers.signed(min(share, 0), numbers.percent(100 * share))
        text = (
            say("{size} of the change", size=size)
            if finding.kind == "change"
            else say("{size} of all {whole}", size=size, whole=whole)
        )
        found.append((say("Size"), text))
    if f.get("relative_pct") is not None:
        ends = ""
        if f.get("relative_low_pct") is not None:
            low, high = (numbers.per_cent(f[name]) for name in ("relative_low_pct", "relative_high_pct"))
            ends = f" ({say('95% range {low} to {high}', low=low, high=high)})"
        found.append((say("Against its siblings"), numbers.per_cent(f["relative_pct"]) + ends))
    if f.get("n") is not None:
        found.append((say("Rows"), numbers.whole(f["n"])))
    if finding.good is not None:
        found.append((say("Verdict"), say("for the better") if finding.good else say("for the worse")))
    if finding.notes:
        found.append((say("Known of that time"), "; ".join(finding.notes)))
    test = finding.test
    if finding.kind == "change" and f.get("expected_low") is None:
        # There is nothing that it was tested against.
        return tuple(found)
    sure = f"{test_words.spoken(test.name)}; {numbers.p_value(test.p)}"
    if test.q is not None:
        sure = say("{text}, q = {q} among all tests", text=sure, q=f"{test.q:.2g}")
    found.append((say("Test"), sure))
    score = finding.score
    parts = say(
        "strength {strength}, reach {reach}, confidence {confidence}",
        strength=numbers.fixed(score.strength, 2),
        reach=numbers.fixed(score.reach, 2),
        confidence=numbers.fixed(score.confidence, 2),
    )
    found.append((say("Score"), f"{numbers.fixed(score.total, 2)} ({parts})"))
    if finding.related:
        text = count(
            len(finding.related),
            "{n} finding that follows from it or says the same of another measure",
            "{n} findings that follow from it or say the same of another measure",
            n=numbers.whole(len(finding.related)),
        )
        found.append((say("Folded under it"), text))
    return tuple(found)


def key_of(explanation: Explanation) -> KeyFigure:
    from ..analysis.change import candidate
    from ..findings import Score, Test
    from ..text.change_sentences import compared

    bare = Finding(
        candidate=candidate(explanation),
        test=Test(name="", statistic=None, p=1.0),
        score=Score(total=0, strength=0, reach=0, confidence=0),
    )
    survey = explanation.survey
    line = survey.timeline
    assert line is not None
    values = (
        survey.cells(PERIOD).value(explanation.measure)[line.complete]
        if not explanation.where.conditions and not (explanation.baseline.name or explanation.baseline.foretold)
        else np.empty(0)
    )
    figure = KeyFigure(
        name=f"{names.capital(names.measure_name(explanation.measure))}, {dates.period(explanation.period)}",
        value=numbers.amount(explanation.value, explanation.measure),
        change=compared(bare, dates.period(explanation.baseline)),
        spark=tuple(float(value) for value in values if np.isfinite(value)),
        periods=tuple(
            str(line.period(place).start)
            for place, value in zip(range(line.complete.start, line.complete.stop), values, strict=False)
            if np.isfinite(value)
        ),
        figures=bare.figures,
    )
    return replace(figure, sources=_sources(figure, explanation))


def _sources(figure: KeyFigure, explanation: Explanation) -> dict[str, Source]:
    """How value and change come from the series, where its periods make those that are compared."""
    if not figure.periods:
        return {}
    data = figure.to_frame()
    sides = []
    for span in (explanation.period, explanation.baseline):
        first, past = rows_within(data, {"start": str(span.start), "end": str(span.end)})
        sides.append(Cell("value", first) if past - first == 1 else total("value", first, past))
    now, before = sides
    sources = {
        "value": Source(now),
        "baseline": Source(before),
        "change": change_of(now, before, data, percent=False),
        "change_pct": change_of(now, before, data),
    }
    return that_give(sources, data, figure.figures.get)


def caveat_lines(survey: Survey, caveats: Sequence[tuple[str, dict[str, Any]]]) -> tuple[str, ...]:
    return (
        *(told_caveats.sentence(name, facts) for name, facts in caveats),
        # The scan says of itself which period is unfinished, at its own grain.
        *(
            problem_sentences.sentence(problem)
            for problem in survey.table.problems
            if problem.check != "unfinished period"
        ),
    )


def made_lines(survey: Survey, tests: int | None, told: int | None, folded: int | None) -> tuple[str, ...]:
    table = survey.table if survey.source is None else survey.source[0]
    lines = [
        say(
            "{n} rows and {columns} columns were read from {table}.",
            n=numbers.whole(table.rows_read),
            columns=len(table.columns),
            table=table.name,
        )
    ]
    if table.where:
        lines.append(
            say("Only rows where {condition} were kept: {n}.", condition=table.where, n=numbers.whole(table.rows))
        )
    lines.append(say("Measures: {names}.", names=", ".join(measure.name for measure in survey.measures)))
    columns = ", ".join(column.name for column in survey.dimensions)
    lines.append(say("Broken down by: {names}.", names=columns or say("nothing")))
    if tests is not None:
        lines.append(
            say(
                "{tests} tests were made in one family; stories kept: {told}, findings folded under them: {folded}. "
                "Slices are tested against their siblings, so that growth of the whole is told once.",
                tests=numbers.whole(tests),
                told=told,
                folded=folded,
            )
        )
    return tuple(lines)
