"""`ga.explain_change`: why a measure changed between two periods."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any, ClassVar

from ..aggregation import Survey
from ..aggregation.measures import Measure, lead_measure
from ..analysis.against_forecast import against_forecast, is_forecast
from ..analysis.change import Explanation, Named, candidate, explain, percent, resolve_periods
from ..analysis.change.plan_comparison import Plan, against_plan, as_planned, plan_asked_for
from ..analysis.scan_pipeline import caveats, survey_of
from ..charts import CHANGE_CHARTS, Chart, draw_change, draw_change_as
from ..charts.caller_axes import onto
from ..findings import Candidate, Finding, Note, Score, Slice, Test
from ..findings.checks import one_row, over
from ..findings.finding import Check
from ..findings.known_notes import beside
from ..findings.scoring import score
from ..reports import Report as Model
from ..support.errors import RequestError, rather
from ..tables import Table, Timeline
from ..tables.meaning.scenarios import scenarios_of
from ..text import Summary, change_summary, fill, headline_and_detail
from ..text.languages import speaking as spoken_by
from ..text.languages import voice
from ..text.text_tables import TextTable
from ..text.text_tables.change_tables import change_tables
from .explanation_json import explained
from .json_envelope import asked_change, caveat_sentences, live_name, live_of
from .read_notes import as_notes
from .request import Request, several
from .result import Result
from .result_language import in_one_palette, in_voice, voiced

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.axes import Axes


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class Change(Result):
    """A change explained. `findings` holds the change first, then each slice that explains it; `notes` are those given,
    of which the ones that overlap stand beside the findings; `identity` is the one stated, `by` the columns asked
    for."""

    format: ClassVar[str] = "golden-almanac/findings/1"

    explanation: Explanation
    findings: tuple[Finding, ...]
    notes: tuple[Note, ...] = ()
    identity: str | None = None
    by: tuple[str, ...] = ()

    def _about(self) -> Table:
        return self.explanation.survey.table

    def _line(self) -> Timeline | None:
        survey = self.explanation.survey
        return survey.timeline if survey.source is None else survey.source[1]

    def _asked(self) -> dict[str, Any]:
        return asked_change(self.explanation)

    def _summed(self, length: str, technical: bool) -> Summary:
        return change_summary(self.findings, self.explanation, length)

    def _caveats(self) -> list[str]:
        """Unfinished periods that are part of what was compared, rows without a date, or of another kind."""
        return caveat_sentences(_relevant(self.explanation, self.by))

    def _retold(self) -> Change:
        return replace(self, findings=tuple(_worded(self.explanation, self.notes)), voice=voice())

    def _heading(self) -> str:
        return f"Change of {self.explanation.measure.name}"

    def _face(self) -> pd.DataFrame:
        return self.to_frame().drop(columns=["rate", "mix"] if self.explanation.measure.additive else [])

    @in_voice
    def fill(self, text: str) -> str:
        """People's own text with live values: `"Revenue {{ revenue.change_pct | percent }}"`. Raises RequestError."""
        return fill(text, {live_name(self.explanation.measure): live_of(self.explanation)})

    @in_voice
    def within(self, /, **labels: str | None) -> Change:
        """The change inside a slice: `change.within(route="Outer Bar")`.

        For a sum its contributions add up to what the slice contributes to the whole; for an average or rate to the
        slice's own change, of which the whole takes the slice's weight (the mean of both periods).

        Raises RequestError for a column that is not broken down by, or a label it does not have.
        """
        explanation = self.explanation
        held = dict(explanation.where.conditions)
        open_ = [column.name for column in explanation.survey.dimensions if column.name not in held]
        for column, label in labels.items():
            if column not in open_:
                raise RequestError(
                    "The column to look within",
                    column,
                    f"one that is broken down by; {rather(column, open_, 'columns')}",
                )
            known = explanation.survey.labels(column)
            if label not in known:
                told = [text for text in known if text is not None]
                raise RequestError(
                    f"The {column} to look within", label, f"one that occurs; {rather(str(label), told, 'labels')}"
                )
        where = Slice((*explanation.where.conditions, *sorted(labels.items())))
        inside = explain(
            explanation.survey,
            explanation.measure,
            explanation.period,
            explanation.baseline,
            explanation.cut_days,
            where,
            identity=self.identity,
        )
        inside = as_planned(inside) if inside.baseline.name else inside
        return replace(self, explanation=inside, findings=tuple(_worded(inside, self.notes)))

    @in_voice
    def tables(self, most: int = 12, *, everything: bool = False) -> tuple[TextTable, ...]:
        """A table of text for each dimension: before, now, contribution; its columns add up to the last row.

        Dimensions whose labels moved no further apart than chance makes are left out, unless asked for by name or
        `everything` is.
        """
        return change_tables(self.explanation, most, () if everything else self.explanation.of_chance(self.by))

    def to_frame(self) -> pd.DataFrame:
        """One row a label of each dimension: by, label, baseline, value, change, share_of_change, status
        and, for averages and ratios, rate and mix. Within a dimension `change` adds up to the change."""
        import pandas as pd

        return pd.DataFrame(
            [
                {
                    "by": breakdown.by,
                    "label": part.label,
                    "baseline": part.baseline,
                    "value": part.value,
                    "change": part.change,
                    "share_of_change": part.share,
                    "status": part.status,
                    "rate": part.rate,
                    "mix": part.mix,
                }
                for breakdown in self.explanation.breakdowns
                for part in breakdown.contributions
            ],
            columns=["by", "label", "baseline", "value", "change", "share_of_change", "status", "rate", "mix"],
        )

    def _figures(self) -> dict[str, Any]:
        return {
            "findings": [finding.to_dict() for finding in self.findings],
            "explanation": explained(self.explanation),
        }

    @in_voice
    def chart(self, by: str | None = None, *, kind: str = "contributions", ax: Axes | None = None) -> Chart:
        """A chart of the change, by its most telling dimension unless named.

        Kinds are contributions, bridge (from baseline to now), slope (both periods), rate and mix, series (of the
        measure, around both periods) and slices (the series of those named).

        Raises RequestError for an unknown kind, LookupError where there is nothing of the kind to draw.
        """
        with onto(ax):
            if kind not in CHANGE_CHARTS:
                raise RequestError("The kind of chart", kind, "one of " + ", ".join(CHANGE_CHARTS))
            chart = draw_change_as(kind, self.explanation, self.headline, by)
            if chart is None:
                raise LookupError(f"there is nothing to draw as {kind}")
            return chart

    @in_voice
    @in_one_palette
    def charts(self) -> tuple[Chart, ...]:
        """All the charts that there is something to draw for, in the order of the kinds."""
        made = (draw_change_as(kind, self.explanation, self.headline, None) for kind in CHANGE_CHARTS)
        return tuple(chart for chart in made if chart is not None)

    def _pages(self, title: str | None) -> Model:
        from ..reports import change_report

        return change_report(self.explanation.survey, self.summary(), self.findings, self.explanation, title, self.by)


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeRequest(Request):
    """The change of a measure; see `explain_change` for the fields."""

    call: ClassVar[str] = "explain_change"
    command: ClassVar[str] = "change"
    options: ClassVar[Mapping[str, str]] = {"measure": "-m", "by": "-b", "time": "-t", "grain": "-g", "where": "-w"}
    one_thread: ClassVar[bool] = True

    measure: str | None = None
    period: str | None = None
    baseline: str | None = None
    by: tuple[str, ...] | None = None
    time: str | None = None
    grain: str | None = None
    identity: str | None = None
    notes: Any = None

    def _answered(self, table: Table) -> Change:
        if is_forecast(self.baseline) and scenarios_of(table) is None and not any(one.beside for one in table.columns):
            return self._told(against_forecast(table, self._surveyed, self.period))
        planned = plan_asked_for(table, self.baseline, lambda rows: lead_measure(self._surveyed(rows).measures))
        if planned is not None:
            return self._against(table, planned)
        survey = survey_of(table, measures=several(self.measure), by=self.by, time=self.time, grain=self.grain)
        lead = lead_measure(survey.measures)
        found = change_of(survey, lead, self.period, self.baseline, as_notes(self.notes), self.identity)
        return replace(found, by=_asked_for(found.explanation, self.by))

    def _surveyed(self, table: Table, time: str | None = None, grain: str | None = None) -> Survey:
        return survey_of(
            table, measures=several(self.measure), by=self.by, time=time or self.time, grain=grain or self.grain
        )

    def _against(self, table: Table, plan: Plan) -> Change:
        """What was, against a plan for the same days."""
        return self._told(against_plan(table, plan, self._surveyed, self.period, self.identity))

    def _told(self, found: Explanation) -> Change:
        notes = as_notes(self.notes)
        return Change(
            explanation=found,
            findings=tuple(_worded(found, notes)),
            notes=tuple(notes),
            identity=self.identity,
            by=_asked_for(found, self.by),
        )


@voiced
def explain_change(
    source: Any,
    measure: str | None = None,
    *,
    period: str | None = None,
    baseline: str | None = None,
    by: Sequence[str] | str | None = None,
    time: str | None = None,
    grain: str | None = None,
    where: str | None = None,
    identity: str | None = None,
    notes: Any = None,
    progress: Callable[[str], None] | None = None,
    locale: str | None = None,
    names: Mapping[str, str] | None = None,
) -> Change:
    """Explain the change of a measure between a period and its baseline.

    Parameters
    ----------
    source
        Anything `ga.read` takes, or a `Table`.
    measure
        An SQL aggregate or a bare column name; by default the one that a scan leads with.
    period
        ISO 8601 (`2025`, `2025-08`, `2025-W07`, `2025-07-01/2025-09-30`), `2025-Q3` or `last 30 days`; the last
        complete period of the grain by default. If it is unfinished, the baseline is cut to the same days.
    baseline
        `previous`, `year-ago`, a period, or a scenario that the table has (`plan`, `budget`, `forecast`, `target`, or
        its label), which is compared over the same days; a year ago by default where the data reach so far, and the
        days before for a span such as `last 30 days`. `forecast`, where the table has none, is what was foretold from
        the periods before.
    by, time, grain, where
        As for `ga.scan`.
    identity
        What the measure's column is made of, such as `profit = revenue - cost` or `revenue = units * price`; found by
        itself where it holds in (nearly) all rows.
    notes
        A note log as for `ga.scan`: remarks that overlap in time and scope stand beside the findings.
    progress
        Called with a line of text: what is being done, how far it is, how long it will take.
    locale, names
        The language of the result, and what its columns are called there (see `speaking`); of the caller by default.

    Returns
    -------
    Change
        Contributions in the measure's unit that add up to the change; what was to be expected. A missing amount adds
        nothing, a missing label is one of its own; methods and sources stand in `docs/change.md`.

    Raises
    ------
    PeriodError
        A period cannot be read, overlaps the other, lies outside the data or holds no rows.
    AlmanacError
        Another of its subclasses, when the source or the request cannot be used.
    """
    asked = ChangeRequest(
        source=source, measure=measure, period=period, baseline=baseline, by=several(by), time=time, grain=grain,
        where=where, identity=identity, notes=notes,
    )  # fmt: skip
    change: Change = asked.run(progress)
    return change


def change_of(
    survey: Survey,
    measure: Measure,
    period: str | None,
    baseline: str | None,
    notes: Sequence[Note],
    identity: str | None = None,
) -> Change:
    """The change of one measure of a survey. Raises PeriodError or RequestError."""
    now, then, cut = resolve_periods(survey, period, baseline)
    one = explain(survey, measure, now, then, cut, identity=identity)
    return Change(explanation=one, findings=tuple(_worded(one, notes)), notes=tuple(notes), identity=identity)


def _worded(explanation: Explanation, notes: Sequence[Note]) -> list[Finding]:
    whole = _finding(candidate(explanation), explanation, notes)
    return [
        whole,
        *(_finding(_slice(explanation, whole.candidate, part), explanation, notes) for part in explanation.named),
    ]


def _finding(claim: Candidate, explanation: Explanation, notes: Sequence[Note]) -> Finding:
    q = claim.p
    own = voice()

    def said(finding: Finding) -> tuple[str, str]:
        with spoken_by(own):
            return headline_and_detail(finding)

    def drawn(finding: Finding, ax: Axes | None) -> Any:
        with onto(ax):
            return draw_change(explanation, finding.headline)

    return Finding(
        candidate=claim,
        test=Test(name=claim.test, statistic=claim.statistic, p=claim.p),
        _table=explanation.survey.source[0] if explanation.survey.source else explanation.survey.table,
        score=score(claim, min(q, 0.1))
        if claim.large
        else Score(total=0.0, strength=claim.strength, reach=claim.reach, confidence=0.0),
        notes=beside(claim, notes),
        _draw=drawn,
        _say=said,
    )


def _slice(explanation: Explanation, whole: Candidate, part: Named) -> Candidate:
    where = Slice((*explanation.where.conditions, *part.where.conditions))
    table, line = explanation.survey.table, explanation.survey.timeline
    assert line is not None
    kept = {"value": part.value, "baseline": part.baseline}
    if explanation.measure.additive:
        kept = {name: 0.0 if number is None else number for name, number in kept.items()}
    columns = {
        name: over(explanation.measure, table, where, line.column, span)
        for name, span in (("value", explanation.period), ("baseline", explanation.baseline))
    }
    check = Check(
        sql=one_row(
            {
                name: f"coalesce({sql}, 0)" if explanation.measure.additive else sql
                for name, sql in columns.items()
                if kept[name] is not None
            }
        ),
        expect={name: number for name, number in kept.items() if number is not None},
    )
    along = [column for column, _ in part.where.conditions]
    value, baseline = (0.0 if number is None else number for number in (part.value, part.baseline))
    figures: dict[str, Any] = {
        "value": part.value,
        "baseline": part.baseline,
        "change": value - baseline if explanation.measure.additive or part.status == "kept" else part.change,
        "change_pct": percent(value, baseline) if not explanation.measure.in_points and part.status == "kept" else None,
        "contribution": part.change,
        "share": part.share,
        "excess": part.excess,
        "how": part.how,
        "status": part.status,
        "weight_before": part.weight_before,
        "weight_now": part.weight_now,
        "contributions": [],
        "along": along,
    }
    return replace(
        whole,
        by=along[0],
        where=where,
        figures=figures,
        direction="up" if part.change > 0 else "down",
        check=check,
        test="excess over the rest, against the spread of the rows, times the slices looked at",
        p=part.p,
        reach=min(1.0, abs(part.share or 0.0)),
    )


def _asked_for(explanation: Explanation, by: tuple[str, ...] | None) -> tuple[str, ...]:
    return tuple(column.name for column in explanation.survey.dimensions) if by else ()


#: What is said of a scan that holds of a change, too: rows left aside.
_OF_CHANGES = frozenset({"rows without a date", "scenarios", "currencies", "units"})


def _relevant(explanation: Explanation, asked: tuple[str, ...]) -> list[tuple[str, dict[str, Any]]]:
    found = [(name, facts) for name, facts in caveats(explanation.survey) if name in _OF_CHANGES]
    line = explanation.survey.timeline
    if line is not None and line.partial_first and explanation.baseline.start < line.first_day:
        found.append(("baseline begins late", {"first": line.first_day}))
    if explanation.missing is not None:
        found.append(("unrecorded", {"missing": explanation.missing}))
    folded = explanation.of_chance(asked)
    if folded:
        found.append(("of chance", {"by": folded}))
    return found
