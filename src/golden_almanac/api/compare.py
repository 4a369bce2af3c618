"""`ga.compare`: groups set against each other by the test that fits."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, ClassVar

from ..aggregation.measures import Measure, parse_measure
from ..analysis.comparison import Compared, Group, Sized
from ..analysis.comparison import compare as run_compare
from ..charts import Chart
from ..charts import comparison_charts as charts
from ..charts.caller_axes import onto
from ..reports import Report as Model
from ..tables import Table
from ..text import Summary
from ..text import comparison_sentences as said
from ..text.core_sentences import retold
from ..text.languages import say
from ..text.text_tables import TextTable
from ..text.text_tables.outcome_tables import comparison_tables
from .request import Request
from .result import Result
from .result_language import in_voice, voiced

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.axes import Axes


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class Comparison(Result):
    """A comparison of groups; `result` holds the test with its reason, effect, groups and pairs."""

    format: ClassVar[str] = "golden-almanac/comparison/1"

    table: Table
    result: Compared
    measure: Measure | None

    def _about(self) -> Table:
        return self.table

    def _asked(self) -> dict[str, Any]:
        result = self.result
        return {"outcome": result.outcome, "by": result.by, "paired": result.paired}

    def _summed(self, length: str, technical: bool) -> Summary:
        return said.comparison_summary(self.result, self.measure)

    def _heading(self) -> str:
        return f"Comparison of {self.result.outcome} by {self.result.by}"

    def to_frame(self) -> pd.DataFrame:
        """One row a group: label, n, mean, median, sd, q1, q3, missing; all rows last."""
        import pandas as pd

        return pd.DataFrame([_group(group) for group in (*self.result.groups, self.result.overall)])

    def pairs_frame(self) -> pd.DataFrame:
        """One row a pair: a, b, difference, low, high, p (corrected for their number)."""
        import pandas as pd

        names = ["a", "b", "difference", "low", "high", "p"]
        return pd.DataFrame(
            [{name: getattr(pair, name) for name in names} for pair in self.result.test.pairs], columns=names
        )

    def crosstab(self) -> pd.DataFrame:
        """Counts of the outcome's labels by group. Raises LookupError for an outcome of numbers."""
        import pandas as pd

        if self.result.table is None:
            raise LookupError("an outcome of numbers has no crosstab")
        rows, columns, counts = self.result.table
        return pd.DataFrame(counts.astype(int), index=pd.Index(rows, name=self.result.by), columns=list(columns))

    def _figures(self) -> dict[str, Any]:
        result = self.result
        test = result.test
        df: Any = None if not test.df else test.df[0] if len(test.df) == 1 else list(test.df)
        return {
            "test": {"name": test.name, "why": retold(result.why), "statistic": test.statistic, "df": df, "p": test.p},
            "effect": {"name": test.effect_name, **_sized(test.effect)},
            "difference": None if test.difference is None else _sized(test.difference),
            "groups": [_group(group) for group in result.groups],
            "overall": _group(result.overall),
            "pairs": [
                {"a": p.a, "b": p.b, "difference": p.difference, "low": p.low, "high": p.high, "p": p.p}
                for p in test.pairs
            ],
            "crosstab": None
            if result.table is None
            else {
                "rows": list(result.table[0]),
                "columns": list(result.table[1]),
                "counts": result.table[2].astype(int).tolist(),
            },
            "assumptions": [retold(text) for text in result.assumptions],
            "meaning": f"{said.meaning(result, self.measure)}.",
        }

    @in_voice
    def tables(self, most: int = 12) -> tuple[TextTable, ...]:
        """The groups (or the rows of each pair of labels) and the pairs of groups, as tables of text."""
        return comparison_tables(self.result, most)

    @in_voice
    def assumptions(self) -> list[str]:
        """What the test takes for granted, and what the data say to that."""
        return [retold(text) for text in self.result.assumptions]

    def _caveats(self) -> list[str]:
        return [say("Left out: {names}.", names=retold(text)) for text in self.result.left_out]

    @in_voice
    def chart(self, *, ax: Axes | None = None) -> Chart:
        """Boxes for numbers, shares with intervals for a yes/no outcome, a crosstab for labels."""
        with onto(ax):
            return charts.draw_comparison(self.table, self.result, self.measure, self.headline.rstrip("."))

    def _pages(self, title: str | None) -> Model:
        from ..reports.outcome_reports import comparison_report

        return comparison_report(
            self.table, self.result, self.measure, self.summary(), self.chart(), self.caveats(), title
        )


def _group(group: Group) -> dict[str, Any]:
    return {name: getattr(group, name) for name in ("label", "n", "mean", "median", "sd", "q1", "q3", "missing")}


def _sized(sized: Sized) -> dict[str, float | None]:
    return {"value": sized.value, "low": sized.low, "high": sized.high}


@dataclass(frozen=True, slots=True, kw_only=True)
class CompareRequest(Request):
    """A comparison of groups; see `compare` for the fields."""

    call: ClassVar[str] = "compare"
    command: ClassVar[str] = "compare"
    options: ClassVar[Mapping[str, str]] = {"outcome": "-m", "by": "-b", "where": "-w"}

    outcome: str
    by: str
    paired: str | None = None
    event: str | None = None
    test: str | None = None

    def _answered(self, table: Table) -> Comparison:
        result = run_compare(table, self.outcome, self.by, paired=self.paired, event=self.event, test=self.test)
        measure = None
        if result.kind in ("numbers", "pairs") and any(column.name == result.outcome for column in table.columns):
            measure = parse_measure(f'avg("{result.outcome}")', table)
        return Comparison(table=table, result=result, measure=measure)


@voiced
def compare(
    source: Any,
    outcome: str,
    by: str,
    *,
    paired: str | None = None,
    event: str | None = None,
    test: str | None = None,
    where: str | None = None,
    progress: Callable[[str], None] | None = None,
    locale: str | None = None,
    names: Mapping[str, str] | None = None,
) -> Comparison:
    """Compare an outcome between the groups of a column, by the test that fits.

    Parameters
    ----------
    source
        Anything `ga.read` takes, or a `Table`.
    outcome
        A column of numbers, of yes/no, or of labels (then the two columns are set in a crosstab).
    by
        The column whose labels are the groups; groups of fewer than three rows take no part.
    paired
        The column that says which rows of two groups belong together.
    event
        The label that counts as yes.
    test
        One of the tests by name, instead of the one that would be chosen.
    where
        An SQL condition; only the rows that meet it take part.

    progress
        Called with a line of text: what is being done, how far it is, how long it will take.
    locale, names
        The language of the result, and what its columns are called there (see `speaking`); of the caller by default.

    Returns
    -------
    Comparison
        Test, effect, difference in the outcome's unit with its 95% range, pairs. Rows with a missing outcome or group
        take no part. All tests are two-sided; sources stand in `docs/compare.md`.

    Raises
    ------
    AlmanacError
        One of its subclasses: too few rows or groups, pairs that are not unique, a column that is not there.
    """
    asked = CompareRequest(source=source, outcome=outcome, by=by, paired=paired, event=event, test=test, where=where)
    comparison: Comparison = asked.run(progress)
    return comparison
