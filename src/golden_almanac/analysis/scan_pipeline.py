"""A scan: every detector over one table, one family of tests, and the findings that are left."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..aggregation import PERIOD, Survey
from ..aggregation.hierarchies import aliases, ask_together, parents
from ..aggregation.measures import Measure, default_measures, lead_measure, parse_measure
from ..findings import Candidate, Finding, Test
from ..findings.finding_kind import FindingKind
from ..findings.known_notes import beside
from ..findings.scoring import ordered, score
from ..stats.false_discovery import LEVEL, MOST_RANK, q_values
from ..support import progress
from ..support.errors import ColumnError, RequestError, SourceError
from ..tables import Column, Grain, Role, Table, Timeline
from ..tables.disclosure import folded
from ..tables.timeline import timeline_of
from . import detectors
from .change import why
from .deduplication import (
    follows_from_composition,
    follows_from_mix,
    mirrors_of_parts,
    mirrors_of_siblings,
    related_measures,
    rests_on_a_part,
    through_a_third,
)
from .deduplication.folding import folds
from .scan_options import Steering

#: A dimension has no more labels than this.
_MOST_LABELS = 5000
UNSTEERED = Steering()


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class ScanResult:
    """What a scan found: findings told, in order; those folded under them; how many tests were done."""

    survey: Survey
    findings: tuple[Finding, ...]
    folded: tuple[Finding, ...]
    tests: int
    caveats: tuple[tuple[str, dict[str, Any]], ...]


def survey_of(
    table: Table,
    *,
    measures: Sequence[str] | None,
    by: Sequence[str] | None,
    time: str | None,
    grain: str | None,
    least_rows: int = 0,
) -> Survey:
    """The request as understood: measures parsed, dimensions and timeline chosen.

    Raises ColumnError, ExpressionError or RequestError.
    """
    if table.minimum > 1 and by:
        # A number that groups are made by is a label like others.
        numbers = [name for name in by if table.column(name, "--by").type == "number"]
        table = folded(table.set_roles(dict.fromkeys(numbers, "dimension")), table.minimum)
    parsed = tuple(parse_measure(text, table) for text in measures) if measures else tuple(_fit(table))
    dimensions = _dimensions(table, by)
    line = timeline_for(table, time, grain)
    ask_together(table, dimensions)
    if not by:
        renamed = aliases(table, dimensions)
        dimensions = tuple(column for column in dimensions if column.name not in renamed)
    return Survey(
        table=table,
        measures=tuple(dict.fromkeys(parsed)),
        dimensions=dimensions,
        timeline=line,
        parents=parents(table, dimensions),
        least_rows=max(least_rows, table.minimum),
    )


def scan(survey: Survey, *, kinds: Sequence[str] | None = None, steering: Steering = UNSTEERED) -> ScanResult:
    """Run the detectors and keep what survives: sure enough among all tests, and above the effect floor."""
    chosen = _kinds(kinds)
    if survey.table.minimum > 1:
        showing = sorted(kind.name for kind in chosen if kind.shows_rows)
        if kinds is not None and showing:
            raise RequestError("The kind", showing[0], "one that shows no rows where groups have a least size")
        chosen = tuple(kind for kind in chosen if not kind.shows_rows)
    candidates: list[Candidate] = []
    line = survey.timeline
    for kind in chosen:
        progress.say(f"looking for {kind}")
        if kind.needs_time and (line is None or line.complete_count < kind.least_periods):
            continue
        candidates += detectors.load(kind.name, steering.floors.get(kind.name)).detect(survey)
    progress.say("weighing what was found")
    told, folded = _weigh(survey, candidates, steering)
    told = [_steered(_with_why(survey, one), steering) for one in told]
    folded = [_steered(one, steering) for one in folded]
    findings = tuple(
        replace(
            one,
            related=tuple(
                sorted(under.id for under in folded if under.folded_under and under.folded_under[0] == one.id)
            ),
        )
        for one in ordered(told)
    )
    return ScanResult(
        survey=survey, findings=findings, folded=tuple(folded), tests=len(candidates), caveats=caveats(survey)
    )


def _steered(finding: Finding, steering: Steering) -> Finding:
    return replace(finding, good=steering.good(finding.candidate), notes=beside(finding.candidate, steering.notes))


def _weigh(survey: Survey, candidates: Sequence[Candidate], steering: Steering) -> tuple[list[Finding], list[Finding]]:
    """Findings to tell and findings folded under them.

    One story shows in many tests (revenue, passengers and vehicles of a route all rise), and each of
    them would buy room for a false claim that is folded under nothing. So discoveries are counted by
    story: the step-up procedure runs over all tests, but its ranks count only what is told.
    """
    lead = lead_measure(survey.measures)
    first = q_values([candidate.p for candidate in candidates], [candidate.kind.weight for candidate in candidates])
    kept = [
        Finding(
            candidate=candidate,
            test=Test(name=candidate.test, statistic=candidate.statistic, p=candidate.p, q=float(q)),
            score=score(candidate, float(q), leading=candidate.measure == lead, interest=steering.interest(candidate)),
            _table=survey.table,
        )
        for candidate, q in zip(candidates, first, strict=True)
        if q <= LEVEL and candidate.large
    ]
    related = related_measures(survey)
    # What each test has paid for the weight of its kind.
    mean = float(np.mean([candidate.kind.weight for candidate in candidates])) if candidates else 1.0
    paid = {one.id: min(1.0, one.test.p * mean / one.definition.weight) for one in kept}
    while True:
        best_first = _by_story(kept, lead)
        implied = [
            *rests_on_a_part(survey, best_first),
            *mirrors_of_parts(survey, best_first),
            *mirrors_of_siblings(survey, best_first),
            *follows_from_mix(survey, best_first),
            *follows_from_composition(survey, best_first),
            *through_a_third(best_first),
        ]
        under = folds(best_first, related, implied)
        told = [one for one in best_first if one.id not in under]
        p = [paid[one.id] for one in told] + [1.0] * (len(candidates) - len(told))
        again = {one.id: float(q) for one, q in zip(told, q_values(p, most_rank=MOST_RANK), strict=False)}
        dropped = {name for name, q in again.items() if q > LEVEL}
        if not dropped:
            break
        kept = [one for one in kept if one.id not in dropped]
    told = [
        replace(
            one,
            test=replace(one.test, q=again[one.id]),
            score=score(
                one.candidate, again[one.id], leading=one.measure == lead, interest=steering.interest(one.candidate)
            ),
        )
        for one in told
    ]
    told = [_with_reach_of_whole(one, best_first, implied) for one in told]
    return told, [replace(one, folded_under=under[one.id]) for one in best_first if one.id in under]


def _with_reach_of_whole(
    finding: Finding, findings: Sequence[Finding], implied: Sequence[tuple[str, str, str]]
) -> Finding:
    """A part that moves the whole reaches as far as the whole."""
    wholes = {name for name, leader, _ in implied if leader == finding.id}
    reach = max((other.score.reach for other in findings if other.id in wholes and other.by is None), default=0.0)
    if reach <= finding.score.reach:
        return finding
    total = finding.score.total * (reach / finding.score.reach) ** (1 / 3)
    return replace(finding, score=replace(finding.score, reach=reach, total=total))


def _with_why(survey: Survey, finding: Finding) -> Finding:
    facts = why(survey, finding)
    return (
        finding
        if facts is None
        else replace(finding, candidate=replace(finding.candidate, figures={**finding.candidate.figures, "why": facts}))
    )


def _by_story(kept: Sequence[Finding], lead: Measure) -> list[Finding]:
    """Best first, but of findings on one slice that in the leading measure first: people report that one."""

    def story(finding: Finding) -> tuple[str, str, object]:
        return (finding.definition.story, finding.by or "", finding.where)

    best: dict[tuple[str, str, object], float] = {}
    for finding in kept:
        best[story(finding)] = max(best.get(story(finding), 0.0), finding.score.total)
    return sorted(
        kept, key=lambda one: (-best[story(one)], str(story(one)), one.measure != lead, -one.score.total, one.id)
    )


def caveats(survey: Survey) -> tuple[tuple[str, dict[str, Any]], ...]:
    """What a reader must know of the data: (name, figures) pairs that words turn into sentences."""
    found: list[tuple[str, dict[str, Any]]] = []
    line = survey.timeline
    if line is None:
        dated = [
            column.name for column in survey.table.columns if column.type == "text" and "date" in column.name.lower()
        ]
        found.append(("no time", {"columns": dated}))
        return tuple(found)
    if line.calendar.fiscal:
        found.append(("fiscal years", {"year": line.calendar.holding(Grain.YEAR, line.last_day)}))
    if line.partial_last:
        found.append(("partial last period", {"period": line.period(line.count - 1), "last": line.last_day}))
    if line.partial_first:
        found.append(("partial first period", {"period": line.period(0)}))
    undated = survey.size - int(survey.table.day_counts(line.column)[1].sum())
    if undated:
        found.append(("rows without a date", {"rows": undated, "column": line.column}))
    empty = int((survey.cells(PERIOD).rows[line.complete] == 0).sum())
    if empty:
        found.append(("empty periods", {"periods": empty, "grain": line.grain.value}))
    if line.complete_count < 8:
        found.append(("few periods", {"periods": line.complete_count, "grain": line.grain.value}))
    return tuple(found)


def _fit(table: Table) -> list[Measure]:
    if table.rows < 2:
        raise SourceError(
            table.name, "it holds a single row, and one row has nothing to compare with", "Give a table with more rows."
        )
    if not table.with_role(Role.MEASURE) and not any(c.type in ("number", "boolean") for c in table.columns):
        raise SourceError(
            table.name,
            "no column holds numbers",
            "Give the measure to report, such as -m 'count(*)', or check that numbers were not exported as text.",
        )
    return default_measures(table)


def _dimensions(table: Table, by: Sequence[str] | None) -> tuple[Column, ...]:
    if not by:
        return tuple(table.with_role(Role.DIMENSION))
    chosen = [table.column(name, "the dimensions") for name in by]
    for column in chosen:
        if column.distinct > 2 * _MOST_LABELS or len(table.labels(column.name)) > _MOST_LABELS:
            raise ColumnError(
                column.name,
                f"The column {column.name!r} has {column.distinct:,} different values, too many "
                "to break a measure down by.",
                "Choose one with fewer.",
            )
    return tuple(dict.fromkeys(chosen))


def timeline_for(table: Table, time: str | None = None, grain: str | None = None) -> Timeline | None:
    """The timeline asked for, or that of the best filled column of dates; None where there is none."""
    if grain is not None and grain not in tuple(Grain):
        raise RequestError("The grain", grain, "one of " + ", ".join(Grain))
    if time is not None:
        name = table.column(time, "the time").name
    else:
        dated = sorted(table.with_role(Role.TIME), key=lambda column: column.missing)
        if not dated:
            return None
        name = dated[0].name
    return timeline_of(name, table.day_counts(name), None if grain is None else Grain(grain), table.calendar)


def _kinds(names: Sequence[str] | None) -> tuple[FindingKind, ...]:
    """The kinds to look for, in their own order; all of them unless told otherwise."""
    known = detectors.kinds()
    if names is None:
        return tuple(known.values())
    for name in names:
        if name not in known:
            raise RequestError("The kind", name, "one of " + ", ".join(known))
    return tuple(kind for name, kind in known.items() if name in names)
