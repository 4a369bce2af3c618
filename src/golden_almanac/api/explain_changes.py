"""`ga.explain_changes`: several measures, or several baselines, as one story."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, ClassVar

from ..aggregation.measures import lead_measure, summing
from ..analysis.change import result_of
from ..analysis.scan_pipeline import survey_of
from ..charts import Chart
from ..reports import Report as Model
from ..support.errors import PeriodError
from ..tables import Table, Timeline
from ..text import Summary, joint_summary
from ..text.text_tables import TextTable
from ..text.text_tables.change_tables import changes_table
from .explain_change import Change, change_of
from .explanation_json import explained
from .json_envelope import asked_change
from .read_notes import as_notes
from .request import Request, several
from .result import Result
from .result_language import in_one_palette, in_voice, voiced

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.axes import Axes


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class Changes(Result):
    """Changes of several measures or against several baselines, the leading one first. `left_out` says of which
    measures nothing could be told, and why."""

    format: ClassVar[str] = "golden-almanac/findings/1"

    changes: tuple[Change, ...]
    left_out: tuple[str, ...] = ()

    def __len__(self) -> int:
        return len(self.changes)

    def __getitem__(self, place: int) -> Change:
        return self.changes[place]

    def _about(self) -> Table:
        return self.changes[0].explanation.survey.table

    def _line(self) -> Timeline | None:
        return self.changes[0].explanation.survey.timeline

    def _asked(self) -> dict[str, Any]:
        return asked_change(self.changes[0].explanation)

    def _summed(self, length: str, technical: bool) -> Summary:
        """One story: the leading measure, what the others did beside it, and the slices that explain several."""
        return joint_summary([(change.findings[0], change.explanation) for change in self.changes])

    def _caveats(self) -> list[str]:
        """Each once; measures of which nothing could be told."""
        return list(dict.fromkeys([text for change in self.changes for text in change.caveats()] + [*self.left_out]))

    def _heading(self) -> str:
        return f"Changes of {len(self.changes)} measures"

    def _face(self) -> pd.DataFrame:
        return self.to_frame()[["measure", "before", "value", "change", "change_pct", "verdict"]]

    @in_voice
    def chart(self, *, ax: Axes | None = None) -> Chart:
        """The chart of the first change. Raises LookupError where there is nothing to draw."""
        return self.changes[0].chart(ax=ax)

    @in_voice
    @in_one_palette
    def charts(self) -> tuple[Chart, ...]:
        return tuple(chart for change in self.changes for chart in change.charts()[:1])

    @in_voice
    def tables(self) -> tuple[TextTable, ...]:
        """The changes beside each other, as a table of text."""
        return (changes_table([change.explanation for change in self.changes]),)

    def to_frame(self) -> pd.DataFrame:
        """One row a change: measure, period, baseline, value, before, change, change_pct, expected, low, high,
        surprise, p (how often so large a surprise comes by chance), verdict and explanation in words."""
        import pandas as pd

        rows = []
        for change in self.changes:
            explanation = change.explanation
            usual = explanation.usual
            rows.append(
                {
                    "measure": explanation.measure.name,
                    "period": f"{explanation.period.start}/{explanation.period.end}",
                    "baseline": f"{explanation.baseline.start}/{explanation.baseline.end}",
                    "value": explanation.value,
                    "before": explanation.before,
                    "change": explanation.change,
                    "change_pct": explanation.change_pct,
                    "expected": None if usual is None else usual.change,
                    "low": None if usual is None else usual.low,
                    "high": None if usual is None else usual.high,
                    "surprise": None if usual is None else explanation.change - usual.change,
                    "p": None if usual is None else usual.p,
                    "verdict": explanation.verdict,
                    "explanation": change.summary().text,
                }
            )
        return pd.DataFrame(rows)

    def _figures(self) -> dict[str, Any]:
        """The findings of all, and an explanation for each."""
        return {
            "findings": [finding.to_dict() for change in self.changes for finding in change.findings],
            "explanations": [
                {
                    "measure": change.explanation.measure.name,
                    "period": change.explanation.period.to_dict(),
                    "baseline": change.explanation.baseline.to_dict(),
                    **explained(change.explanation),
                }
                for change in self.changes
            ],
        }

    def _pages(self, title: str | None) -> Model:
        """The story, a key figure for each, a section for each."""
        from ..reports import changes_report

        told = [(change.findings, change.explanation, change.summary()) for change in self.changes]
        return changes_report(self.summary(), told, tuple(self.caveats()), title)


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangesRequest(Request):
    """The changes of several measures as one story; see `explain_changes` for the fields."""

    call: ClassVar[str] = "explain_changes"
    command: ClassVar[str] = "change"
    options: ClassVar[Mapping[str, str]] = {"measures": "-m", "by": "-b", "time": "-t", "grain": "-g", "where": "-w"}
    one_thread: ClassVar[bool] = True

    measures: tuple[str, ...] | None = None
    period: str | None = None
    baseline: tuple[str, ...] | None = None
    by: tuple[str, ...] | None = None
    time: str | None = None
    grain: str | None = None
    identity: str | None = None
    notes: Any = None

    def _words(self) -> list[str]:
        return [*Request._words(self), *(["--every-measure"] if self.measures is None else [])]

    def _answered(self, table: Table) -> Changes:
        survey = survey_of(table, measures=self.measures, by=self.by, time=self.time, grain=self.grain)
        known = as_notes(self.notes)
        lead = lead_measure(survey.measures)
        wanted = [lead, *(measure for measure in survey.measures if measure != lead)]
        # An identity is stated of one column, and used for the sums of that one.
        about = [] if self.identity is None else summing(wanted, result_of(survey.table, self.identity)) or wanted
        baselines = [None] if self.baseline is None else list(dict.fromkeys(self.baseline))
        found, left_out, problem = [], [], None
        for measure in wanted:
            for word in baselines:
                try:
                    stated = self.identity if measure in about else None
                    found.append(change_of(survey, measure, self.period, word, known, stated))
                except PeriodError as error:
                    if "has no value" not in str(error):
                        raise
                    problem = error
                    left_out.append(str(error))
        if not found:
            assert problem is not None
            raise problem
        return Changes(changes=tuple(found), left_out=tuple(left_out))


@voiced
def explain_changes(
    source: Any,
    measures: Sequence[str] | str | None = None,
    *,
    period: str | None = None,
    baseline: Sequence[str] | str | None = None,
    by: Sequence[str] | str | None = None,
    time: str | None = None,
    grain: str | None = None,
    where: str | None = None,
    identity: str | None = None,
    notes: Any = None,
    progress: Callable[[str], None] | None = None,
    locale: str | None = None,
    names: Mapping[str, str] | None = None,
) -> Changes:
    """Explain the changes of several measures, against one or more baselines, as one story.

    Parameters
    ----------
    source
        Anything `ga.read` takes, or a `Table`.
    measures
        Those that a scan would take unless named; the leading one (money first) is told first.
    period, baseline, by, time, grain, where, identity, notes
        As for `ga.explain_change`; of `baseline` there may be several.
    progress
        Called with a line of text: what is being done, how far it is, how long it will take.
    locale, names
        The language of the result, and what its columns are called there (see `speaking`); of the caller by default.

    Returns
    -------
    Changes
        The changes in order; amounts in each measure's unit. A measure that is missing in one of the periods is left
        out, and said to be.

    Raises
    ------
    PeriodError
        No measure has a value in both periods, or as for `ga.explain_change`.
    AlmanacError
        Another of its subclasses, when the source or the request cannot be used.
    """
    asked = ChangesRequest(
        source=source, measures=several(measures), period=period, baseline=several(baseline), by=several(by),
        time=time, grain=grain, where=where, identity=identity, notes=notes,
    )  # fmt: skip
    changes: Changes = asked.run(progress)
    return changes
