"""A scan: every detector over one table, one family of tests, and the findings that are left."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..aggregation import PERIOD, Survey, level_rows
from ..aggregation.hierarchies import aliases, ask_together, parents
from ..aggregation.measures import ROWS, Measure, default_measures, lead_measure, parse_measure
from ..findings import Candidate, Finding, Test
from ..findings.finding_kind import FindingKind
from ..findings.known_notes import beside
from ..findings.scoring import ordered, score
from ..stats.false_discovery import LEVEL, MOST_RANK, q_values
from ..support import progress
from ..support.errors import ColumnError, RequestError, SourceError
from ..tables import Column, Grain, Role, Table, Timeline
from ..tables.disclosure import folded
from ..tables.meaning.mixed_units import mixed_units_of
from ..tables.meaning.scenarios import scenarios_of
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
from .planned_survey import planned_survey
from .scan_options import Steering

#: A dimension has no more labels than this.
_MOST_LABELS = 5000
UNSTEERED = Steering()
#: Small effects told of a column asked for by name, and the surest that are looked at for them.
_MOST_SMALL, _MOST_LOOKED = 3, 12


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
    whole = table
    table, notes = _of_one_kind(table, by or ())
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
    chosen = tuple(dict.fromkeys(parsed))
    return Survey(
        planned=planned_survey(whole, table, chosen, dimensions, line, max(least_rows, table.minimum)),
        table=table,
        measures=chosen,
        dimensions=dimensions,
        timeline=line,
        parents=parents(table, dimensions),
        notes=notes,
        least_rows=max(least_rows, table.minimum),
    )


def _of_one_kind(table: Table, by: Sequence[str]) -> tuple[Table, tuple[tuple[str, dict[str, Any]], ...]]:
    """The rows whose amounts may be added up: those of one scenario and of one currency or unit; with what is to be
    said of the others."""
    notes: list[tuple[str, dict[str, Any]]] = []
    plans = scenarios_of(table)
    if plans is not None:
        table = table.filter(table.equals(plans.column, plans.read))
        notes.append(("scenarios", {"column": plans.column, "read": plans.read, "others": list(plans.others)}))
    units = mixed_units_of(table)
    if units is not None:
        table = table.filter(table.equals(units.column, units.read))
        facts = {"column": units.column, "read": units.read, "others": list(units.others)}
        notes.append(("currencies" if units.currency else "units", facts))
    return table, tuple(notes)


def scan(
    survey: Survey, *, kinds: Sequence[str] | None = None, steering: Steering = UNSTEERED, asked: Sequence[str] = ()
) -> ScanResult:
    """Run the detectors and keep what survives: sure enough among all tests, and above the effect floor. For columns
    that were `asked` for by name, of which nothing is above it, what is sure but small is kept too."""
    chosen = _kinds(kinds)
    if survey.table.minimum > 1:
        showing = sorted(kind.name for kind in chosen if kind.shows_rows)
        if kinds is not None and showing:
            raise RequestError("The kind", showing[0], "one that shows no rows where groups have a least size")
        chosen = tuple(kind for kind in chosen if not kind.shows_rows)
    candidates: list[Candidate] = []
    line = survey.timeline
    parts = _parts(survey)
    for kind in chosen:
        progress.say(f"looking for {kind}")
        if kind.needs_time and (line is None or line.complete_count < kind.least_periods):
            continue
        detector = detectors.load(kind.name, steering.floors.get(kind.name))
        for part in parts(kind):
            candidates += [replace(one, survey=part) for one in detector.detect(part)]
    progress.say("weighing what was found")
    told, folded = _weigh(survey, candidates, steering)
    small = sure_but_small(survey, candidates, told, steering, asked)
    told, small = ([_steered(_with_why(survey, one), steering) for one in those] for those in (told, small))
    folded = [_steered(one, steering) for one in folded]
    findings = tuple(
        replace(
            one,
            related=tuple(
                sorted(under.id for under in folded if under.folded_under and under.folded_under[0] == one.id)
            ),
        )
        for one in (*ordered(told), *small)
    )
    return ScanResult(
        survey=survey, findings=findings, folded=tuple(folded), tests=len(candidates), caveats=caveats(survey)
    )


def _parts(survey: Survey) -> Callable[[FindingKind], list[Survey]]:
    """What each kind looks at: all measures together, but where there are levels, those at the ends of periods for what
    goes over time, and at the last moment for what stands still. Kinds that look at rows look at all of them."""
    levels = [measure for measure in survey.measures if measure.level]
    planned = [] if survey.planned is None else [survey.planned]
    if not levels or survey.timeline is None:
        return lambda kind: planned if kind.of_plans else [survey]
    others = [measure for measure in survey.measures if not measure.level]
    plain = replace(survey, measures=tuple(others) or (ROWS,), finer=None, _cache={})
    over_time, at_last = level_rows.at_ends_of_periods(survey, levels), level_rows.at_the_end(survey, levels)

    def looked_at(kind: FindingKind) -> list[Survey]:
        if kind.of_plans:
            return planned
        if kind.of_rows:
            return [plain if kind.needs_time else survey]
        return [*([plain] if others else []), over_time if kind.needs_time else at_last]

    return looked_at


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
        _found(survey, candidate, float(q), lead, steering)
        for candidate, q in zip(candidates, first, strict=True)
        if q <= LEVEL and candidate.matters
    ]
    related = related_measures(survey)
    # What each test has paid for the weight of its kind.
    mean = _mean_weight(candidates)
    paid = {one.id: min(1.0, one.test.p * mean / one.definition.weight) for one in kept}
    while True:
        best_first = _by_story(kept, lead)
        implied = [pair for part, those in _by_survey(survey, best_first) for pair in _implied(part, those)]
        implied += through_a_third(best_first)
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


def _found(survey: Survey, candidate: Candidate, q: float, lead: Measure, steering: Steering) -> Finding:
    return Finding(
        candidate=candidate,
        test=Test(name=candidate.test, statistic=candidate.statistic, p=candidate.p, q=q),
        score=score(candidate, q, leading=candidate.measure == lead, interest=steering.interest(candidate)),
        _table=_of(survey, candidate).table,
    )


def sure_but_small(
    survey: Survey, candidates: Sequence[Candidate], told: Sequence[Finding], steering: Steering, asked: Sequence[str]
) -> list[Finding]:
    """The surest effects below their floors along each column asked for, where nothing else is told of it: a list that
    a person asked for is not empty for being small. They are discoveries beside those told."""
    lead = lead_measure(survey.measures)
    empty = [name for name in dict.fromkeys(asked) if not any(name in _along(one) for one in told)]
    found: list[Finding] = []
    for name in empty:
        below = [one for one in candidates if one.by == name and one.floor and one.agrees and not one.large]
        surest = sorted((one for one in below if one.check is not None), key=lambda one: (one.p, one.id))[:_MOST_LOOKED]
        mine = _by_story([_found(survey, one, one.p, lead, steering) for one in surest if one.p <= LEVEL], lead)
        under = folds(mine, related_measures(survey))
        found += sorted((one for one in mine if one.id not in under), key=lambda one: (one.test.p, one.id))[
            :_MOST_SMALL
        ]
    mean = _mean_weight(candidates)
    p = [min(1.0, one.test.p * mean / one.definition.weight) for one in (*told, *found)]
    q = q_values([*p, *[1.0] * (len(candidates) - len(p))], most_rank=MOST_RANK)[len(told) : len(p)]
    return [
        replace(_found(survey, one.candidate, float(sure), lead, steering), small=True)
        for one, sure in zip(found, q, strict=True)
        if sure <= LEVEL
    ]


def _mean_weight(candidates: Sequence[Candidate]) -> float:
    return float(np.mean([candidate.kind.weight for candidate in candidates])) if candidates else 1.0


def _along(finding: Finding) -> list[str]:
    columns = finding.along
    return [columns] if isinstance(columns, str) else list(columns or ())


def _of(survey: Survey, candidate: Candidate) -> Survey:
    """What a candidate was found in."""
    found: Survey = candidate.survey or survey
    return found


def _by_survey(survey: Survey, findings: Sequence[Finding]) -> list[tuple[Survey, list[Finding]]]:
    """Findings by what they were found in: only those can follow from each other by arithmetic."""
    parts: dict[int, tuple[Survey, list[Finding]]] = {}
    for finding in findings:
        part = _of(survey, finding.candidate)
        parts.setdefault(id(part), (part, []))[1].append(finding)
    return list(parts.values())


def _implied(survey: Survey, findings: Sequence[Finding]) -> list[tuple[str, str, str]]:
    return [
        *rests_on_a_part(survey, findings),
        *mirrors_of_parts(survey, findings),
        *mirrors_of_siblings(survey, findings),
        *follows_from_mix(survey, findings),
        *follows_from_composition(survey, findings),
    ]


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
    facts = why(_of(survey, finding.candidate), finding)
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
    found: list[tuple[str, dict[str, Any]]] = list(survey.notes)
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
        asked = table.column(time, "the time")
        dated = sorted(table.with_role(Role.TIME), key=lambda column: column.missing)
        # Who names a part of the dates (the year) means the dates.
        name = dated[0].name if asked.role is Role.PART and dated else asked.name
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
