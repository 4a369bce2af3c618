"""`ga.scan`: what matters in a table."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any, ClassVar

from ..aggregation import Survey
from ..aggregation.measures import lead_measure
from ..analysis.change import Explanation, explain, resolve_periods, with_slices
from ..analysis.detectors import floor_of, kinds
from ..analysis.scan_options import steering, without
from ..analysis.scan_pipeline import ScanResult, survey_of
from ..analysis.scan_pipeline import scan as run_scan
from ..charts import Chart, draw
from ..charts.caller_axes import onto
from ..findings import Finding, Note
from ..reports import Report as Model
from ..support.errors import PeriodError, RequestError
from ..tables import Table, Timeline
from ..text import Line, Live, Suggestion, Summary, fill, headline_and_detail, scan_summary, suggestions
from ..text.core_sentences import retold
from ..text.languages import speaking as spoken_by
from ..text.languages import voice
from ..text.lines import scan_lines
from .json_envelope import asked_survey, caveat_sentences, live_name, live_of
from .read_notes import as_notes
from .report import Report
from .request import Request, several
from .result import Result
from .result_language import in_one_palette, in_voice, voiced
from .slice_pages import pages_of, slices_of, views_of

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.axes import Axes


#: Things to do next that are told beside a scan, in every format.
_MOST_STEPS = 3


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class Scan(Result):
    """The findings of a scan, best first; `folded` are those implied by them; `tests` how many were made.

    `latest` explains the last complete period of the leading measures, the first of them the one that
    the summary opens with.
    """

    format: ClassVar[str] = "golden-almanac/findings/1"

    result: ScanResult
    findings: tuple[Finding, ...]
    folded: tuple[Finding, ...]
    latest: tuple[Explanation, ...]

    @property
    def tests(self) -> int:
        return self.result.tests

    def _about(self) -> Table:
        return self.result.survey.table

    def _line(self) -> Timeline | None:
        return self.result.survey.timeline

    def _asked(self) -> dict[str, Any]:
        kinds_found = sorted({finding.kind for finding in (*self.findings, *self.folded)})
        return asked_survey(self.result.survey, kinds_found=kinds_found, tests=self.tests)

    def _summed(self, length: str, technical: bool) -> Summary:
        survey = self.result.survey
        return scan_summary(
            survey.table.name,
            survey.table.rows,
            self.tests,
            self.findings,
            self.latest[0] if self.latest else None,
            self.result.caveats,
            length,
            technical,
        )

    def _retold(self) -> Scan:
        survey = self.result.survey
        return replace(
            self,
            findings=tuple(_worded(self.findings, survey)),
            folded=tuple(_worded(self.folded, survey)),
            voice=voice(),
        )

    def _caveats(self) -> list[str]:
        return caveat_sentences(self.result.caveats)

    def _pages(self, title: str | None, progress: Callable[[str], None] = lambda _: None) -> Model:
        from ..reports import scan_report

        return scan_report(
            self.result.survey,
            self.summary(),
            self.findings,
            self.folded,
            self.latest,
            self.result.caveats,
            self.tests,
            title,
            progress,
            [one.text for one in self.suggestions(_MOST_STEPS)],
        )

    def _heading(self) -> str:
        table = self.result.survey.table
        return f"Scan of {table.name}: {len(self.findings)} findings, {self.tests} tests, {table.rows:,} rows"

    def _face(self) -> pd.DataFrame:
        return self.to_frame()[["score", "kind", "headline"]].round({"score": 2})

    @in_voice
    def suggestions(self, most: int = 5, *, side: str | None = None) -> list[Suggestion]:
        """What to do next, each with the amount at stake, its arithmetic, what to run next and the finding it rests on.

        `side` keeps improvements, declines or matters of data only. Raises RequestError for another.
        """
        if side not in (None, "improvement", "decline", "data"):
            raise RequestError("The side", side, "one of improvement, decline, data")
        return suggestions(self.findings, self.result.survey.table.called, most, side)

    @in_voice
    def values(self) -> dict[str, Live]:
        """The live values that `fill` knows: a name for each leading measure."""
        return {live_name(one.measure): live_of(one) for one in self.latest}

    @in_voice
    def fill(self, text: str) -> str:
        """People's own text with live values: `"Revenue {{ revenue.change_pct | percent }}"`. Raises RequestError."""
        return fill(text, self.values())

    def plan(self) -> str:
        """How the groups were made: the finest grouping with its cells, what was rolled up from it, what was not."""
        return "\n".join(self.result.survey.plan().lines())

    @in_voice
    def lines(self, top: int = 10, *, everything: bool = False, length: str = "standard") -> list[Line]:
        """What a terminal shows: the summary, what to do next, the first `top` findings; or all with those folded."""
        return scan_lines(
            self.summary(length), self.suggestions(_MOST_STEPS), self.findings, self.folded, top, everything=everything
        )

    def to_frame(self) -> pd.DataFrame:
        """One row a finding: kind, measure, slice, period, direction, score, p, q, headline, id."""
        import pandas as pd

        return pd.DataFrame(
            [
                {
                    "kind": finding.kind,
                    "measure": finding.measure.name if finding.measure else None,
                    "slice": finding.where.label,
                    "start": str(finding.period.start) if finding.period else None,
                    "end": str(finding.period.end) if finding.period else None,
                    "direction": finding.direction,
                    "score": finding.score.total,
                    "p": finding.test.p,
                    "q": finding.test.q,
                    "headline": finding.headline,
                    "detail": finding.detail,
                    "id": finding.id,
                }
                for finding in self.findings
            ],
            columns=[
                "kind",
                "measure",
                "slice",
                "start",
                "end",
                "direction",
                "score",
                "p",
                "q",
                "headline",
                "detail",
                "id",
            ],
        )

    def _figures(self) -> dict[str, Any]:
        return {
            "findings": [finding.to_dict() for finding in self.findings],
            "folded": [
                one.to_dict() | {"under": one.folded_under[0], "reason": retold(one.folded_under[1])}
                for one in self.folded
                if one.folded_under
            ],
            "suggestions": [suggestion.to_dict() for suggestion in self.suggestions()],
        }

    @in_voice
    def chart(self, *, ax: Axes | None = None) -> Chart:
        """The chart of the first finding. Raises LookupError when there is none."""
        if not self.findings:
            raise LookupError("nothing was found, so there is nothing to draw")
        first: Chart = self.findings[0].chart(ax=ax)
        return first

    @in_voice
    @in_one_palette
    def charts(self) -> tuple[Chart, ...]:
        """A chart for each finding."""
        return tuple(finding.chart() for finding in self.findings)

    @in_voice
    @in_one_palette
    def report(
        self,
        title: str | None = None,
        progress: Callable[[str], None] = lambda _: None,
        *,
        switch: Sequence[str] | str | None = None,
        pages: str | None = None,
    ) -> Report:
        """The scan as a report, ready to publish.

        With `switch`, a column that is broken down by, the reader of the page picks one of its labels (the twelve with
        most rows), or two beside each other, and every chart, sentence and figure becomes that slice's: each is scanned
        by itself, for the leading measures; of two columns the reader picks a label of each. With `pages`, each label
        has a page of its own behind the overview, in every format.
        Raises RequestError for another column.
        """
        model = self._pages(title, progress)
        by = tuple(several(switch) or ())
        views = views_of(self, by, title, progress) if by else ()
        if pages is not None:
            parts = slices_of(self, "The pages", pages, title, progress)
            model = replace(model, sections=(*model.sections, *pages_of(pages, parts)))
        return Report(model=model, data=self.to_dict, frame=self.to_frame, views=views, by=by)


@dataclass(frozen=True, slots=True, kw_only=True)
class ScanRequest(Request):
    """A scan of a table; see `scan` for the fields."""

    call: ClassVar[str] = "scan"
    command: ClassVar[str] = "scan"
    options: ClassVar[Mapping[str, str]] = {
        "measures": "-m", "by": "-b", "time": "-t", "grain": "-g", "kinds": "-k", "where": "-w", "floors": "--floor",
    }  # fmt: skip
    one_thread: ClassVar[bool] = True

    measures: tuple[str, ...] | None = None
    by: tuple[str, ...] | None = None
    time: str | None = None
    grain: str | None = None
    kinds: tuple[str, ...] | None = None
    focus: tuple[str, ...] | None = None
    ignore: tuple[str, ...] | None = None
    better: Mapping[str, str] | None = None
    floors: Mapping[str, float] | None = None
    least_rows: int = 0
    notes: Any = None

    def _answered(self, table: Table) -> Scan:
        table = without(table, self.ignore or ())
        steered = steering(
            table,
            focus=self.focus or (),
            better=self.better,
            floors=self.floors,
            least_rows=self.least_rows,
            notes=as_notes(self.notes),
        )
        survey = survey_of(
            table, measures=self.measures, by=self.by, time=self.time, grain=self.grain, least_rows=self.least_rows
        )
        asked = [column.name for column in survey.dimensions] if self.by else []
        result = run_scan(survey, kinds=self.kinds, steering=steered, asked=asked)
        return Scan(
            result=result,
            findings=tuple(_worded(result.findings, survey)),
            folded=tuple(_worded(result.folded, survey)),
            latest=_latest(survey),
        )


@voiced
def scan(
    source: Any,
    *,
    measures: Sequence[str] | str | None = None,
    by: Sequence[str] | str | None = None,
    time: str | None = None,
    grain: str | None = None,
    where: str | None = None,
    kinds: Sequence[str] | str | None = None,
    focus: Sequence[str] | str | None = None,
    ignore: Sequence[str] | str | None = None,
    better: Mapping[str, str] | None = None,
    floors: Mapping[str, float] | None = None,
    least_rows: int = 0,
    notes: str | os.PathLike[str] | Sequence[Note] | None = None,
    progress: Callable[[str], None] | None = None,
    locale: str | None = None,
    names: Mapping[str, str] | None = None,
) -> Scan:
    """Scan a table for trends, steps, seasons, leaders, differences, wrong rows and unusual changes.

    Parameters
    ----------
    source
        Anything `ga.read` takes, or a `Table`.
    measures
        SQL aggregates or bare column names; all columns that have the role by default.
    by
        Columns to break measures down by; all dimensions by default.
    time, grain
        The column of dates, and day, week, month, quarter or year; chosen from the data by default.
    where
        An SQL condition; only the rows that meet it take part.
    kinds
        Kinds of finding to look for; all by default (`docs/findings.md`).
    focus, ignore
        Columns of interest, whose findings come first; columns that take no part unless named as a measure or in `by`.
    better
        What is better of a measure: `{"avg(delay)": "down"}`. Findings on it say whether they are for the better.
    floors
        The effect below which findings of a kind are not told: `{"trend": 10}` (`scan --kinds` lists the units).
    least_rows
        Labels with fewer rows are not told of by themselves.
    notes
        Known circumstances (see `read_notes`), set beside the findings they overlap with.
    progress
        Called with a line of text, again and again: what is being done, how far it is, how long it will take.
    locale, names
        The language of the result, and what its columns are called there (see `speaking`); of the caller by default.

    Returns
    -------
    Scan
        Findings in order, with their figures in the measure's unit. A missing amount adds nothing, a missing label is
        one of its own; methods and sources stand in `docs/scan.md`.

    Raises
    ------
    AlmanacError
        One of its subclasses, when the source or the request cannot be used.
    """
    asked = ScanRequest(
        source=source, measures=several(measures), by=several(by), time=time, grain=grain, where=where,
        kinds=several(kinds), focus=several(focus), ignore=several(ignore), better=better, floors=floors,
        least_rows=least_rows, notes=notes,
    )  # fmt: skip
    found: Scan = asked.run(progress)
    return found


def finding_kinds() -> dict[str, str]:
    """The kinds of finding that a scan looks for, each with what it is."""
    return {name: kind.what for name, kind in kinds().items()}


def finding_floors() -> dict[str, tuple[float, str]]:
    """The effect floor of each kind that has one, and what it is measured in."""
    return {kind: floor for kind in kinds() if (floor := floor_of(kind)) is not None}


def _worded(findings: Iterable[Finding], survey: Survey) -> list[Finding]:
    own = voice()

    def drawn(finding: Finding, ax: Axes | None) -> Any:
        with spoken_by(own), onto(ax):
            return draw(finding, survey)

    def said(finding: Finding) -> tuple[str, str]:
        with spoken_by(own):
            return headline_and_detail(finding)

    return [replace(finding, _say=said, _draw=drawn) for finding in findings]


def _latest(survey: Survey) -> tuple[Explanation, ...]:
    """The last complete period of the leading measure and a few others, explained."""
    if survey.timeline is None:
        return ()
    lead = lead_measure(survey.measures)
    # Another amount, then rates: what people report, then how well it went.
    others = [measure for measure in survey.measures if measure != lead]
    amounts = [measure for measure in others if measure.additive]
    shares = [measure for measure in others if measure.share]
    rest = [*amounts[:1], *shares[:2], *amounts[1:], *(m for m in others if not m.additive and not m.share)]
    found = []
    for measure in (lead, *rest[:3]):
        try:
            now, then, cut = resolve_periods(survey, None, None)
            one = explain(survey, measure, now, then, cut, thorough=False)
            # The summary opens with the leading one and says where it came about; of the others it shows the figures.
            found.append(with_slices(one) if measure == lead else one)
        except PeriodError:
            if measure == lead:
                return ()
    return tuple(found)
