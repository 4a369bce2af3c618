"""`ga.total`: measures added up by labels and periods, ranked, set against another span."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, ClassVar

from ..analysis.conditions import Condition, conditions_of
from ..analysis.one_kind import Note, of_one_kind
from ..analysis.totals import Totals, totals, wanted_of
from ..charts import Chart
from ..charts.caller_axes import onto
from ..charts.total_charts import chart_kind, draw_totals
from ..findings import Slice
from ..reports import Report as Model
from ..tables import Table, Timeline
from ..text import Summary
from ..text import total_sentences as said
from ..text.caveats import sentence
from ..text.condition_words import condition_words
from ..text.text_tables import TextTable
from .request import Request, several
from .result import Result
from .result_language import in_voice, voiced

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.axes import Axes


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class Total(Result):
    """Figures by label and period; `result` holds them with the SELECT that gives them again."""

    format: ClassVar[str] = "golden-almanac/total/1"

    result: Totals
    where: Slice
    rest: tuple[Condition, ...]
    kind: str | None = None
    notes: tuple[Note, ...] = ()

    @property
    def sql(self) -> str:
        """The SELECT that gives the figures again: `table.sql(found.sql)`."""
        return self.result.sql

    @property
    def value(self) -> float | None:
        """The figure, where there is one: of the first measure, in its unit."""
        values = self.result.values
        return None if len(values) != 1 or values[0] is None else float(values[0])

    def check(self) -> bool:
        """Whether the SQL, run anew over the rows, gives the same figures."""
        again = self.result.table.sql(self.sql)
        own = self.to_frame()
        return len(again) >= len(own) and all(
            _alike(own[name].tolist(), again[name].tolist()[: len(own)]) for name in own.columns
        )

    def _about(self) -> Table:
        return self.result.table

    def _caveats(self) -> list[str]:
        return [sentence(name, facts) for name, facts in self.notes]

    def _line(self) -> Timeline | None:
        return self.result.line

    def _asked(self) -> dict[str, Any]:
        wanted = self.result.wanted
        return {
            "measures": [measure.name for measure in wanted.measures],
            "by": [column.name for column in wanted.by],
            "grain": wanted.grain,
            "cycle": wanted.cycle,
            "period": None if wanted.span is None else wanted.span.to_dict(),
            "baseline": None if wanted.baseline is None else wanted.baseline.to_dict(),
            "order": wanted.order,
            "top": wanted.top,
        }

    def _summed(self, length: str, technical: bool) -> Summary:
        return said.totals_summary(self.result, self.where, [condition_words(one) for one in self.rest])

    def _heading(self) -> str:
        return f"Total of {self.result.measure.name}, {self.result.counted:,} rows"

    def to_frame(self) -> pd.DataFrame:
        """The figures: a column for each label, for the period, for each measure; baseline, change, share if asked."""
        import pandas as pd

        return pd.DataFrame([list(row) for row in self.result.rows], columns=list(self.result.heads))

    @in_voice
    def tables(self) -> tuple[TextTable, ...]:
        """The figures as a table of text; none for a single figure."""
        return said.totals_table(self.result)

    def _figures(self) -> dict[str, Any]:
        found = self.result
        return {
            "columns": list(found.heads),
            "rows": [dict(zip(found.heads, map(_json, row), strict=True)) for row in found.rows],
            "chart": chart_kind(found, self.kind),
            "groups": found.groups,
            "counted": found.counted,
            "sql": found.sql,
        }

    @in_voice
    def chart(self, *, ax: Axes | None = None) -> Chart:
        """Lines over periods, bars of labels, bars side by side of two. Raises LookupError for a single figure."""
        with onto(ax):
            return draw_totals(self.result, self.headline.rstrip("."), self.kind)

    def _pages(self, title: str | None) -> Model:
        from ..reports.total_report import total_report

        try:
            chart = self.chart()
        except LookupError:
            chart = None
        return total_report(self.result, self.summary(), chart, self.tables(), title)


def _alike(first: list[Any], second: list[Any]) -> bool:
    return all(
        (a is None or a != a) == (b is None or b != b)
        and (
            a is None
            or a != a
            or (
                abs(float(a) - float(b)) <= 1e-9 * max(1.0, abs(float(a)))
                if _number(a) and _number(b)
                else str(a)[:10] == str(b)[:10]
            )
        )
        for a, b in zip(first, second, strict=True)
    )


def _number(value: Any) -> bool:
    return isinstance(value, int | float) or hasattr(value, "as_tuple")


def _json(value: Any) -> Any:
    return str(value)[:10] if hasattr(value, "isoformat") else value


@dataclass(frozen=True, slots=True, kw_only=True)
class TotalRequest(Request):
    """Measures added up; see `total` for the fields."""

    call: ClassVar[str] = "total"
    command: ClassVar[str] = "total"
    options: ClassVar[Mapping[str, str]] = {
        "measures": "-m", "by": "-b", "time": "-t", "grain": "-g", "where": "-w", "top": "-n",
    }  # fmt: skip

    measures: tuple[str, ...] | None = None
    by: tuple[str, ...] | None = None
    time: str | None = None
    grain: str | None = None
    cycle: str | None = None
    period: str | None = None
    baseline: str | None = None
    per: str | None = None
    share: bool = False
    running: bool = False
    order: str | None = None
    ranked_by: str = "value"
    top: int | None = None
    above: float | None = None
    below: float | None = None
    kind: str | None = None

    def _answered(self, table: Table) -> Total:
        # Amounts of two currencies, or of what was and what was planned, are not added; rows may be counted.
        added = [text for text in self.measures or () if not text.lower().startswith("count(")]
        table, notes = of_one_kind(table, self.by or (), added) if added else (table, ())
        wanted, line = wanted_of(
            table, measures=self.measures, by=self.by, time=self.time, grain=self.grain, cycle=self.cycle,
            period=self.period, baseline=self.baseline, per=self.per, share=self.share, running=self.running,
            order=self.order, ranked_by=self.ranked_by, top=self.top, above=self.above, below=self.below,
        )  # fmt: skip
        where, rest = conditions_of(table)
        return Total(result=totals(table, wanted, line), where=where, rest=rest, kind=self.kind, notes=notes)


@voiced
def total(
    source: Any,
    measures: Sequence[str] | str | None = None,
    *,
    by: Sequence[str] | str | None = None,
    time: str | None = None,
    grain: str | None = None,
    cycle: str | None = None,
    period: str | None = None,
    baseline: str | None = None,
    per: str | None = None,
    share: bool = False,
    running: bool = False,
    order: str | None = None,
    ranked_by: str = "value",
    top: int | None = None,
    above: float | None = None,
    below: float | None = None,
    kind: str | None = None,
    where: str | None = None,
    progress: Callable[[str], None] | None = None,
    locale: str | None = None,
    names: Mapping[str, str] | None = None,
) -> Total:
    """Measures added up by labels and periods, with the SELECT that gives the figures again.

    Parameters
    ----------
    source
        Anything `ga.read` takes, or a `Table`.
    measures
        SQL aggregates or bare column names, also `median(column)`; the number of rows by default. Levels (balances) are
        those of the last moment of each period, never added over time.
    by
        Columns to break down by.
    time, grain
        The column of dates; day, week, month, quarter or year to break down by.
    cycle
        A part of the calendar to break down by: weekday, month of the year, quarter of the year.
    period, baseline
        A span as for `explain_change`, and one to set it against: `previous`, `year-ago` or a span. An unfinished
        span is set against as many days.
    per
        A grain: the average of the totals of its whole periods.
    share, running
        Each group's share of all of them; sums so far, over the periods.
    order, ranked_by, top
        descending or ascending by the figure (`value`), its `change` or `change_pct`; how many groups.
    above, below
        Only groups whose figure is more, or less, than this.
    kind
        The kind of chart, as for `draw`; lines over time and bars of labels by default.
    where
        An SQL condition; only the rows that meet it take part.
    progress
        Called with a line of text: what is being done, how far it is, how long it will take.
    locale, names
        The language of the result, and what its columns are called there (see `speaking`); of the caller by default.

    Returns
    -------
    Total
        Sums, counts and averages in the measure's unit; missing values take no part. `sql` gives them again.

    Raises
    ------
    AlmanacError
        One of its subclasses: a column or period that is not there, a share of what does not add up.
    """
    asked = TotalRequest(
        source=source, measures=several(measures), by=several(by), time=time, grain=grain, cycle=cycle, period=period,
        baseline=baseline, per=per, share=share, running=running, order=order, ranked_by=ranked_by, top=top,
        above=above, below=below, kind=kind, where=where,
    )  # fmt: skip
    found: Total = asked.run(progress)
    return found
