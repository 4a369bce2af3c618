"""`ga.report(table)`: what a manager expects of a table without being asked, as one result."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING, Any, ClassVar

from ..aggregation import Survey
from ..aggregation.measures import Measure, parse_measure
from ..analysis.change import Explanation, explain
from ..analysis.forecast import Wanted, foretell
from ..analysis.forecast.past import LEAST_PERIODS
from ..charts import Chart
from ..charts.caller_axes import onto
from ..reports import Report as Model
from ..reports.period_report import period_report
from ..support.better_directions import better_way
from ..support.errors import AlmanacError, PeriodError
from ..support.progress import say as step
from ..tables import Table, Timeline
from ..text import Line, Summary
from ..text.forecast_sentences import forecast_caveats
from ..text.lines import scan_lines
from ..text.opening_summary import opening_summary
from .explain_change import Change, change_of
from .explanation_json import explained
from .find_drivers import Drivers, find_drivers
from .forecast import Forecast
from .read_notes import as_notes
from .request import Request, several
from .result import Result
from .result_language import in_one_palette, in_voice, voiced
from .scan import Scan, ScanRequest

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.axes import Axes

#: Measures whose last period is told, periods that are foretold, and things to do next that are told.
_MOST_MEASURES, _AHEAD, _MOST_STEPS = 4, 3, 3


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class PeriodReview(Result):
    """The last complete period and all that a manager asks behind it: `found` the scan, `changes` of the leading
    measures (the first leads), `previous` the same against the period before, `drivers` of the measure that people
    worry about, `outlook` of the leading measure; each None, or empty, where the table does not have it. At most `most`
    findings are shown; `targets` are those of measures in the period, by their SQL; `familiar` the findings (see
    `findings.matching`) that the reader of the last editions knows, told behind what is new."""

    format: ClassVar[str] = "golden-almanac/findings/1"

    found: Scan
    changes: tuple[Change, ...]
    previous: tuple[Explanation | None, ...]
    drivers: Drivers | None
    outlook: Forecast | None
    most: int | None = None
    targets: Mapping[str, float] = field(default_factory=dict)
    familiar: frozenset[str] = frozenset()

    def _about(self) -> Table:
        return self.found._about()

    def _line(self) -> Timeline | None:
        return self.found._line()

    def _asked(self) -> dict[str, Any]:
        return self.found._asked()

    def _summed(self, length: str, technical: bool) -> Summary:
        if not self.changes:
            return self.found.summary(length, technical=technical)
        return opening_summary(
            self.found.findings,
            [(change.findings[0], change.explanation) for change in self.changes],
            None if self.drivers is None else self.drivers.found,
            None if self.outlook is None else self.outlook.result,
            self._steps(),
            self.found.result.caveats,
            length,
            familiar=self.familiar,
        )

    def _steps(self) -> list[str]:
        return [one.text for one in self.found.suggestions(_MOST_STEPS)]

    def _caveats(self) -> list[str]:
        told = list(self.found.caveats())
        if self.outlook is not None:
            # Which period is unfinished, the scan says.
            told += forecast_caveats(replace(self.outlook.result, unfinished=None))
        return list(dict.fromkeys(told))

    def _heading(self) -> str:
        return self.found._heading()

    def to_frame(self) -> pd.DataFrame:
        """One row a finding of the scan, as `Scan.to_frame`."""
        return self.found.to_frame()

    def _figures(self) -> dict[str, Any]:
        scanned = self.found._figures()
        changed = [finding.to_dict() for change in self.changes for finding in change.findings]
        more: dict[str, Any] = {
            "changes": [
                {"measure": change.explanation.measure.name, **explained(change.explanation)} for change in self.changes
            ]
        }
        if self.drivers is not None:
            more["drivers"] = self.drivers._figures()["drivers"]
        ahead = []
        if self.outlook is not None:
            told = self.outlook._figures()
            ahead = told["findings"]
            more["forecast"] = told["forecast"]
        return {**scanned, "findings": [*scanned["findings"], *changed, *ahead], **more}

    @in_voice
    def fill(self, text: str) -> str:
        """People's own text with live values, as `Scan.fill`. Raises RequestError."""
        return self.found.fill(text)

    @in_voice
    def lines(self, top: int = 10) -> list[Line]:
        """What a terminal shows: the summary, what to do next, the first `top` findings of the scan."""
        return scan_lines(
            self.summary(), self.found.suggestions(_MOST_STEPS), self.found.findings, self.found.folded, top,
            everything=False,
        )  # fmt: skip

    @in_voice
    @in_one_palette
    def charts(self) -> tuple[Chart, ...]:
        """The charts of its report."""
        model = self._pages(None)
        return tuple(one.chart for one in model.sections if one.chart is not None)

    @in_voice
    def chart(self, *, ax: Axes | None = None) -> Chart:
        """Its first chart. Raises LookupError where there is none."""
        with onto(ax):
            drawn = self.charts()
            if not drawn:
                raise LookupError("nothing was found, so there is nothing to draw")
            return drawn[0]

    def _pages(self, title: str | None) -> Model:
        if not self.changes:
            return self.found._pages(title)
        return period_report(
            self.found.result.survey,
            self.summary(),
            self.found.findings,
            self.found.folded,
            [(change.findings, change.explanation, change.summary()) for change in self.changes],
            self.previous,
            None if self.drivers is None else self.drivers.found,
            None if self.outlook is None else self.outlook.result,
            self.caveats(),
            self.found.tests,
            self._steps(),
            title,
            step,
            most=self.most,
            targets=self._targets(),
            familiar=self.familiar,
        )

    def _targets(self) -> list[float | None]:
        """The target of each measure that is told."""
        by_name = {parse_measure(sql, self._about()).name: value for sql, value in self.targets.items()}
        return [by_name.get(change.explanation.measure.name) for change in self.changes]


@dataclass(frozen=True, slots=True, kw_only=True)
class PeriodReviewRequest(Request):
    """The whole report of a table; see `table_report` for the fields."""

    call: ClassVar[str] = "report"
    command: ClassVar[str] = "publish"
    options: ClassVar[Mapping[str, str]] = {"measures": "-m", "by": "-b", "time": "-t", "grain": "-g", "where": "-w"}
    one_thread: ClassVar[bool] = True

    measures: tuple[str, ...] | None = None
    period: str | None = None
    baseline: str | None = None
    by: tuple[str, ...] | None = None
    time: str | None = None
    grain: str | None = None
    notes: Any = None
    better: Mapping[str, str] | None = None
    focus: tuple[str, ...] | None = None
    ignore: tuple[str, ...] | None = None
    kinds: tuple[str, ...] | None = None
    most: int | None = None
    targets: Mapping[str, float] | None = None
    familiar: tuple[str, ...] | None = None

    def _answered(self, table: Table) -> PeriodReview:
        scanned = ScanRequest(
            source=table, measures=self.measures, by=self.by, time=self.time, grain=self.grain, notes=self.notes,
            better=self.better, focus=self.focus, ignore=self.ignore, kinds=self.kinds,
        )  # fmt: skip
        step("scanning")
        found: Scan = scanned._answered(table)
        survey = found.result.survey
        step("explaining the last period")
        changes = self._changes(found)
        previous = tuple(_before(change.explanation) for change in changes)
        step("looking for what goes with it")
        drivers = _worried(survey, self.better or {})
        step("forecasting")
        return PeriodReview(
            found=found,
            changes=changes,
            previous=previous,
            drivers=drivers,
            outlook=_ahead(survey, changes[0].explanation.measure) if changes else None,
            most=self.most,
            targets=self.targets or {},
            familiar=frozenset(self.familiar or ()),
        )

    def _changes(self, found: Scan) -> tuple[Change, ...]:
        """The leading measures, and others that moved beyond what is usual."""
        survey = found.result.survey
        leading = [one.measure for one in found.latest]
        unusual = [one.measure for one in found.findings if one.kind == "change" and one.measure not in leading]
        made = []
        for measure in [*leading, *unusual][:_MOST_MEASURES]:
            if measure is None:
                continue
            try:
                made.append(change_of(survey, measure, self.period, self.baseline, as_notes(self.notes)))
            except PeriodError:
                if self.period is not None and not made:
                    raise
        return tuple(made)


def _before(one: Explanation) -> Explanation | None:
    """The same period against the one just before it."""
    then = one.period.previous()
    try:
        return explain(one.survey, one.measure, one.period, then, one.cut_days, thorough=False)
    except PeriodError:
        return None


def _worried(survey: Survey, better: Mapping[str, str]) -> Drivers | None:
    """What goes with the measure that people worry about: the first average of which less is better that has clear
    drivers."""
    for measure in survey.measures:
        columns = {part.column for _, part in measure.top if part.column}
        way = better.get(measure.name) or better_way([measure.name, *columns])
        if way != "down" or measure.kind != "mean" or len(columns) != 1:
            continue
        try:
            made: Drivers = find_drivers(survey.table, next(iter(columns)))
        except AlmanacError:
            # An outcome that cannot be explained is none to report on.
            continue
        if made.drivers:
            return made
    return None


def _ahead(survey: Survey, measure: Measure) -> Forecast | None:
    line = survey.timeline
    if line is None or line.complete_count < 2 * LEAST_PERIODS:
        return None
    try:
        return Forecast(result=foretell(survey, measure, Wanted(periods=_AHEAD)))
    except AlmanacError:
        # A past that nothing can be foretold from has no outlook.
        return None


@voiced
def table_report(
    source: Any,
    *,
    measures: Sequence[str] | str | None = None,
    period: str | None = None,
    baseline: str | None = None,
    by: Sequence[str] | str | None = None,
    time: str | None = None,
    grain: str | None = None,
    where: str | None = None,
    notes: Any = None,
    better: Mapping[str, str] | None = None,
    focus: Sequence[str] | str | None = None,
    ignore: Sequence[str] | str | None = None,
    progress: Callable[[str], None] | None = None,
    locale: str | None = None,
    names: Mapping[str, str] | None = None,
) -> PeriodReview:
    """All that goes into the report of a table: see `ga.report`."""
    asked = PeriodReviewRequest(
        source=source, measures=several(measures), period=period, baseline=baseline, by=several(by), time=time,
        grain=grain, where=where, notes=notes, better=better, focus=several(focus), ignore=several(ignore),
    )  # fmt: skip
    made: PeriodReview = asked.run(progress)
    return made
