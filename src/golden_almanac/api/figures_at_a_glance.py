"""`ga.key_figures`: five to twelve measures of one span, which of them are worth a look, and what to do."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, ClassVar

from ..analysis.key_figures import KeyFigures, key_figures_of
from ..analysis.scan_pipeline import survey_of
from ..charts import Chart
from ..charts.caller_axes import onto
from ..charts.sparklines import spark_table
from ..findings.checks import one_row, over
from ..reports import Report as Model
from ..sql.expressions import quote_name
from ..tables import Table
from ..text import Summary, dates, names, numbers
from ..text import figure_sentences as said
from ..text.languages import say
from ..text.text_tables import TextTable
from .request import Request, several
from .result import Result
from .result_language import in_voice, voiced
from .scan import Scan, ScanRequest

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.axes import Axes

_MOST_STEPS = 5


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class Figures(Result):
    """Key figures of a span; `result` holds each, `found` the scan that says what to do."""

    format: ClassVar[str] = "golden-almanac/key-figures/1"

    result: KeyFigures
    found: Scan | None

    @property
    def sql(self) -> str:
        """One SELECT that gives every figure of the span again."""
        survey, span = self.result.survey, self.result.period
        line = survey.timeline
        assert line is not None
        from ..findings import Slice

        columns = {
            quote_name(one.measure.name): over(one.measure, survey.table, Slice(), line.column, span)
            for one in self.result.figures
        }
        return one_row(columns)

    def _about(self) -> Table:
        return self.result.survey.table

    def _asked(self) -> dict[str, Any]:
        return {
            "measures": [one.measure.name for one in self.result.figures],
            "period": self.result.period.to_dict(),
            "before": self.result.before.to_dict(),
        }

    def _suggestions(self) -> list[Any]:
        return [] if self.found is None else list(self.found.suggestions(_MOST_STEPS))

    def _summed(self, length: str, technical: bool) -> Summary:
        return said.figures_summary(self.result, [one.text for one in self._suggestions()[:2]], length)

    def _heading(self) -> str:
        return f"Key figures of {self._about().name}"

    def to_frame(self) -> pd.DataFrame:
        """One row a figure: measure, value, before, low and high of the usual range, outside (1 above it, -1 below),
        target, better."""
        import pandas as pd

        return pd.DataFrame([_row(one) for one in self.result.figures])

    @in_voice
    def tables(self) -> tuple[TextTable, ...]:
        """A row a figure; what is worth a look first."""
        return (said.figures_table(self.result),)

    def _figures(self) -> dict[str, Any]:
        return {
            "sql": self.sql,
            "figures": [
                {
                    **_row(one),
                    "sentence": said.sentence(one, self.result),
                    "series": [{"start": str(span.start), "value": value} for span, value in one.series],
                }
                for one in self.result.figures
            ],
            "to_do": [one.to_dict() for one in self._suggestions()],
        }

    @in_voice
    def chart(self, *, ax: Axes | None = None) -> Chart:
        """The figures with their spark lines."""
        with onto(ax):
            rows = [
                (
                    names.capital(names.measure_name(one.measure)),
                    numbers.amount(one.value, one.measure),
                    said.change_short(one),
                    [value for _, value in one.series],
                )
                for one in self.result.figures
            ]
            return spark_table(
                name="key-figures",
                title=self.headline.rstrip("."),
                subtitle=dates.period(self.result.period),
                source=say("Source: {name}", name=self._about().name),
                rows=rows,
                by=say("Figure", "column"),
            )

    def _pages(self, title: str | None) -> Model:
        from ..reports.key_figure_report import key_figure_report

        steps = [f"{one.text} ({one.reckoned})" for one in self._suggestions()]
        return key_figure_report(
            self._about(), self.summary(), self.chart(), self.tables()[0], self.sql, steps, self.caveats(),
            title or say("Key figures"),
        )  # fmt: skip

    def _caveats(self) -> list[str]:
        return [] if self.found is None else list(self.found.caveats())


def _row(one: Any) -> dict[str, Any]:
    return {
        "measure": one.measure.name, "value": one.value, "before": one.before, "low": one.low, "high": one.high,
        "outside": one.outside, "target": one.target, "better": one.better,
    }  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class KeyFiguresRequest(Request):
    """Key figures; see `key_figures` for the fields."""

    call: ClassVar[str] = "key_figures"
    command: ClassVar[str] = "figures"
    options: ClassVar[Mapping[str, str]] = {
        "measures": "-m", "time": "-t", "grain": "-g", "where": "-w", "targets": "--target",
    }  # fmt: skip

    measures: tuple[str, ...] | None = None
    period: str | None = None
    targets: Mapping[str, float] | None = None
    better: Mapping[str, str] | None = None
    time: str | None = None
    grain: str | None = None
    steps: bool = True

    def _answered(self, table: Table) -> Figures:
        survey = survey_of(table, measures=self.measures, by=None, time=self.time, grain=self.grain)
        told = key_figures_of(survey, self.measures, self.period, self.targets or {}, self.better or {})
        found: Scan | None = None
        if self.steps and survey.dimensions:
            asked = tuple(one.measure.sql for one in told.figures[:4])
            found = ScanRequest(
                source=table, measures=asked, time=self.time, grain=self.grain, better=self.better
            )._answered(table)
        return Figures(result=told, found=found)


@voiced
def key_figures(
    source: Any,
    measures: Sequence[str] | str | None = None,
    *,
    period: str | None = None,
    targets: Mapping[str, float] | None = None,
    better: Mapping[str, str] | None = None,
    time: str | None = None,
    grain: str | None = None,
    steps: bool = True,
    where: str | None = None,
    progress: Callable[[str], None] | None = None,
    locale: str | None = None,
    names: Mapping[str, str] | None = None,
) -> Figures:
    """A handful of measures of one span, each against the span before and its usual range, with a sentence that says
    whether to look; then up to five things to do, each with the sum at stake.

    Parameters
    ----------
    source
        Anything `ga.read` takes, or a `Table`.
    measures
        SQL aggregates or columns; by default the leading amount, what it comes to by what is counted, rates, the rest.
    period
        A period of the grain ("2025-08"), or "last 30 days"; by default the last complete period.
    targets
        What measures should come to in the span, by their SQL.
    better
        Which way is better, up or down, by measure, where the name does not tell.
    time, grain
        The column of dates; day, week, month, quarter or year.
    steps
        Whether to look for what to do, which takes a scan.
    where
        An SQL condition; only the rows that meet it take part.
    progress
        Called with a line of text: what is being done, how far it is, how long it will take.
    locale, names
        The language of the result, and what its columns are called there (see `speaking`); of the caller by default.

    Returns
    -------
    Figures
        Values in the measures' units; usual ranges from the spans before (individuals and moving range, Shewhart 1931;
        trend and season taken out), missing where the past is shorter than eight spans.

    Raises
    ------
    AlmanacError
        One of its subclasses: no dates, a span without rows, a measure that cannot be read.
    """
    asked = KeyFiguresRequest(
        source=source, measures=several(measures), period=period, targets=targets, better=better, time=time,
        grain=grain, steps=steps, where=where,
    )  # fmt: skip
    found: Figures = asked.run(progress)
    return found
