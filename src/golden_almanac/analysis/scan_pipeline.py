"""A scan: every detector over one table, one family of tests, and the findings that are left."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..aggregation import PERIOD, Survey, level_rows, period_holes
from ..aggregation.hierarchies import aliases, ask_together, parents
from ..aggregation.measures import ROWS, Measure, default_measures, parse_measure
from ..findings import Candidate, Finding
from ..findings.finding_kind import FindingKind
from ..findings.known_notes import beside
from ..findings.scoring import ordered
from ..stats.series_holes import mostly_holes
from ..support import progress
from ..support.errors import ColumnError, RequestError, SourceError
from ..tables import Column, Grain, Role, Table, Timeline
from ..tables.disclosure import folded
from ..tables.half_days import stops_early
from ..tables.timeline import FEWEST_ROWS, timeline_of
from ..tables.yes_no import flags
from . import detectors
from .change import why
from .one_kind import of_one_kind
from .planned_survey import planned_survey
from .scan_options import Steering
from .weighing import found_in, sure_but_small, weigh

#: A dimension has no more labels than this.
_MOST_LABELS = 5000
#: Days of two years, but for a few at their ends.
_TWO_YEARS = 725
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
    whole = table
    table, notes = of_one_kind(table, (), measures or ())
    if table.minimum > 1 and by:
        # A number that groups are made by is a label like others.
        numbers = [name for name in by if table.column(name, "--by").type == "number"]
        table = folded(table.set_roles(dict.fromkeys(numbers, "dimension")), table.minimum)
    parsed = tuple(parse_measure(text, table) for text in measures) if measures else tuple(_fit(table))
    dimensions = _dimensions(table, by)
    line = timeline_for(table, time, grain)
    # Who names the groups wants no others; rows without an answer are a group that nobody may reckon out.
    open_ = [one for one in flags(table) if not 0 < one.missing < table.minimum]
    answers = () if by else tuple(open_)
    ask_together(table, dimensions, answers)
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
        flags=answers,
    )


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
            found = detector.detect(part)
            candidates += found if part is survey else [replace(one, survey=part) for one in found]
    progress.say("weighing what was found")
    told, folded = weigh(survey, candidates, steering)
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
    season: tuple[tuple[str, dict[str, Any]], ...] = (("within a season", {}),)
    return ScanResult(
        survey=survey,
        findings=findings,
        folded=tuple(folded),
        tests=len(candidates),
        caveats=caveats(survey) + (season if _within_a_season(survey, findings) else ()),
    )


def _within_a_season(survey: Survey, findings: Sequence[Finding]) -> bool:
    """Whether something is told to move over less than two years, in which no season comes again."""
    line = survey.timeline
    if line is None or line.grain is Grain.YEAR or not any(one.definition.movement == "path" for one in findings):
        return False
    days = line.period(line.complete.stop - 1).end - line.period(line.complete.start).start
    return bool(days.astype(np.int64) + 1 < _TWO_YEARS)


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


def _with_why(survey: Survey, finding: Finding) -> Finding:
    facts = why(found_in(survey, finding.candidate), finding)
    return (
        finding
        if facts is None
        else replace(finding, candidate=replace(finding.candidate, figures={**finding.candidate.figures, "why": facts}))
    )


def caveats(survey: Survey) -> tuple[tuple[str, dict[str, Any]], ...]:
    """What a reader must know of the data: (name, figures) pairs that words turn into sentences."""
    found: list[tuple[str, dict[str, Any]]] = list(survey.notes)
    # A row of a wrong sign is told like any other thing wrong; what to do about it is asked by a check.
    found += [("problem", {"problem": one}) for one in survey.table.problems if one.check == "signs" and one.question]
    line = survey.timeline
    if line is None:
        dated = [
            column.name for column in survey.table.columns if column.type == "text" and "date" in column.name.lower()
        ]
        found.append(("no time", {"columns": dated}))
        return tuple(found)
    if line.calendar.fiscal:
        found.append(("fiscal years", {"year": line.calendar.holding(Grain.YEAR, line.last_day)}))
    if line.thin_last is not None:
        found.append(("thin last period", {"period": line.period(line.count - 1), "rows": line.thin_last}))
    elif line.partial_last:
        found.append(("partial last period", {"period": line.period(line.count - 1), "last": line.last_day}))
    if line.partial_first:
        found.append(("partial first period", {"period": line.period(0)}))
    undated = survey.size - int(survey.table.day_counts(line.column)[1].sum())
    if undated:
        found.append(("rows without a date", {"rows": undated, "column": line.column}))
    empty = int((survey.cells(PERIOD).rows[line.complete] == 0).sum())
    if mostly_holes(period_holes(survey)):
        there = line.complete_count - empty
        found.append(("sparse periods", {"periods": line.complete_count, "there": there, "grain": line.grain.value}))
    elif empty:
        found.append(("empty periods", {"periods": empty, "grain": line.grain.value}))
    cut = int(period_holes(survey).sum()) - empty
    if cut > 0:
        found.append(("cut periods", {"periods": cut, "grain": line.grain.value}))
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
    counted = table.day_counts(name)
    # One reading a week is one a week: a month of four is as good as one of five, where none are added up.
    lone = counted[1].size > 0 and counted[1].max() == 1
    few = lone and not any(column.adds_up for column in table.with_role(Role.MEASURE))
    chosen = None if grain is None else Grain(grain)
    line = timeline_of(name, counted, chosen, table.calendar, least_rows=1 if few else FEWEST_ROWS)
    if line is not None and line.grain is Grain.DAY and not line.partial_last:
        said_over = table.calendar.as_of is not None and table.calendar.as_of > line.last_day
        return replace(line, partial_last=not said_over and stops_early(table, name))
    return line


def _kinds(names: Sequence[str] | None) -> tuple[FindingKind, ...]:
    """The kinds to look for, in their own order; all of them unless told otherwise."""
    known = detectors.kinds()
    if names is None:
        return tuple(known.values())
    for name in names:
        if name not in known:
            raise RequestError("The kind", name, "one of " + ", ".join(known))
    return tuple(kind for name, kind in known.items() if name in names)
