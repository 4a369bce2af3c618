"""`ga.growth`: how fast each slice grew, how much that varied, its worst fall."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, ClassVar

from ..analysis.growth_and_falls import Growth, GrowthTable, growth_and_falls
from ..analysis.scan_pipeline import survey_of
from ..charts import Chart
from ..charts.caller_axes import onto
from ..charts.growth_charts import draw_growth
from ..reports import Report as Model
from ..tables import Table
from ..text import Summary
from ..text import growth_sentences as said
from ..text.languages import say
from ..text.text_tables import TextTable
from .request import Request
from .result import Result
from .result_language import in_voice, voiced

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.axes import Axes


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class GrowthRates(Result):
    """Growth against variability of the labels of a column; `result` holds the whole and each."""

    format: ClassVar[str] = "golden-almanac/growth/1"

    result: GrowthTable

    @property
    def sql(self) -> str:
        """The SELECT that gives the figures of every label and period again, from which all is reckoned."""
        return self.result.sql

    def _about(self) -> Table:
        return self.result.table

    def _asked(self) -> dict[str, Any]:
        return {"measure": self.result.measure.name, "by": self.result.by.name, "grain": self.result.grain.value}

    def _summed(self, length: str, technical: bool) -> Summary:
        return said.growth_summary(self.result)

    def _heading(self) -> str:
        return f"Growth of {self.result.measure.name} by {self.result.by.name}"

    def to_frame(self) -> pd.DataFrame:
        """One row a label: label, value (of the last year), rate, varied, compared, fall, peak, trough, back; rates and
        falls as shares, periods by their first day."""
        import pandas as pd

        return pd.DataFrame([_figures(one) for one in self.result.parts])

    @in_voice
    def tables(self) -> tuple[TextTable, ...]:
        """A row a label, the fastest first, and the whole."""
        return (said.growth_table(self.result),)

    def _figures(self) -> dict[str, Any]:
        return {
            "sql": self.sql,
            "whole": _figures(self.result.whole),
            "parts": [_figures(one) for one in self.result.parts],
        }

    @in_voice
    def chart(self, *, ax: Axes | None = None) -> Chart:
        """A dot for each label: growth over how much it varied. Raises LookupError where fewer than two are known."""
        with onto(ax):
            return draw_growth(self.result, self.headline.rstrip("."))

    def _pages(self, title: str | None) -> Model:
        from ..reports.total_report import figures_report

        return figures_report(
            self.result.table,
            self.summary(),
            self.chart(),
            self.tables(),
            self.caveats(),
            title or say("Growth against variability"),
            self.sql,
        )


def _figures(one: Growth) -> dict[str, Any]:
    spans = {name: getattr(one, name) for name in ("peak", "trough", "back")}
    return {
        "label": one.label,
        "value": one.value,
        "rate": one.rate,
        "varied": one.varied,
        "compared": one.compared,
        "fall": one.fall,
        **{name: None if span is None else str(span.start) for name, span in spans.items()},
    }


@dataclass(frozen=True, slots=True, kw_only=True)
class GrowthRequest(Request):
    """Growth against variability; see `growth` for the fields."""

    call: ClassVar[str] = "growth"
    command: ClassVar[str] = "growth"
    options: ClassVar[Mapping[str, str]] = {"measure": "-m", "by": "-b", "time": "-t", "grain": "-g", "where": "-w"}

    measure: str
    by: str
    time: str | None = None
    grain: str | None = None

    def _answered(self, table: Table) -> GrowthRates:
        survey = survey_of(table, measures=[self.measure], by=[self.by], time=self.time, grain=self.grain)
        return GrowthRates(result=growth_and_falls(survey, survey.measures[0], survey.table.column(self.by, "--by")))


@voiced
def growth(
    source: Any,
    measure: str,
    by: str,
    *,
    time: str | None = None,
    grain: str | None = None,
    where: str | None = None,
    progress: Callable[[str], None] | None = None,
    locale: str | None = None,
    names: Mapping[str, str] | None = None,
) -> GrowthRates:
    """Growth against variability: of each label how fast it grew by the year, how much that varied, its worst fall from
    a peak and how long it took to come back; told of sums over a year, in which no season is left.

    Parameters
    ----------
    source
        Anything `ga.read` takes, or a `Table`.
    measure
        A measure that adds up.
    by
        A column of labels: the twenty largest are told of.
    time, grain
        The column of dates; day, week, month, quarter or year.
    where
        An SQL condition; only the rows that meet it take part.
    progress
        Called with a line of text: what is being done, how far it is, how long it will take.
    locale, names
        The language of the result, and what its columns are called there (see `speaking`); of the caller by default.

    Returns
    -------
    GrowthRates
        Rates and falls as shares of one, a year's sum in the measure's unit; missing values take no part; nothing is
        recommended.

    Raises
    ------
    AlmanacError
        One of its subclasses: less than two whole years, a measure that does not add up, no dates.
    """
    asked = GrowthRequest(source=source, measure=measure, by=by, time=time, grain=grain, where=where)
    found: GrowthRates = asked.run(progress)
    return found
