"""`ga.relate`: how two columns of numbers go together."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, ClassVar

from ..analysis.relation import Relation
from ..analysis.relation import relate as run_relate
from ..charts import Chart
from ..charts import comparison_charts as charts
from ..charts.caller_axes import onto
from ..reports import Report as Model
from ..tables import Table
from ..text import Summary
from ..text import comparison_sentences as said
from ..text.text_tables import TextTable
from ..text.text_tables.outcome_tables import relation_table
from .request import Request
from .result import Result
from .result_language import in_voice, voiced

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.axes import Axes


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class Related(Result):
    """Two columns of numbers; `result` holds correlations, the straight line, the shape and the points drawn."""

    format: ClassVar[str] = "golden-almanac/relation/1"

    result: Relation

    def _about(self) -> Table:
        return self.result.table

    def _asked(self) -> dict[str, Any]:
        return {"x": self.result.x.name, "y": self.result.y.name}

    def _summed(self, length: str, technical: bool) -> Summary:
        return said.relation_summary(self.result)

    def _heading(self) -> str:
        return f"{self.result.y.name} by {self.result.x.name}, {self.result.n:,} rows"

    def to_frame(self) -> pd.DataFrame:
        """Averages in bins of about equally many rows: x, y, error, rows."""
        import pandas as pd

        return pd.DataFrame(
            list(self.result.shape.curve), columns=[self.result.x.name, self.result.y.name, "error", "rows"]
        )

    @in_voice
    def tables(self) -> tuple[TextTable, ...]:
        """The averages along the first column, as a table of text."""
        return (relation_table(self.result),)

    def _figures(self) -> dict[str, Any]:
        result = self.result
        shape = result.shape
        return {
            "n": result.n,
            "pearson": dict(zip(("r", "low", "high", "p"), result.pearson, strict=True)),
            "spearman": dict(zip(("r", "low", "high", "p"), result.spearman, strict=True)),
            "line": {
                "intercept": result.intercept,
                "slope": result.slope,
                "error": result.slope_error,
                "residual_sd": result.residual_sd,
            },
            "shape": {
                "name": shape.name,
                "bend": shape.bend,
                "cut": None if shape.cut is None else shape.cut.at,
                "cut_p": None if shape.cut is None else shape.cut.p,
            },
            "bins_p": result.bins_p,
            "bins": [dict(zip(("x", "y", "error", "rows"), point, strict=True)) for point in shape.curve],
        }

    @in_voice
    def chart(self, *, ax: Axes | None = None) -> Chart:
        """The scatter with the fitted line, its band, and averages of bins."""
        with onto(ax):
            return charts.draw_relation(self.result, self.headline.rstrip("."))

    def _pages(self, title: str | None) -> Model:
        from ..reports.outcome_reports import relation_report

        return relation_report(self.result, self.summary(), self.chart(), title)


@dataclass(frozen=True, slots=True, kw_only=True)
class RelateRequest(Request):
    """How two columns of numbers go together; see `relate` for the fields."""

    call: ClassVar[str] = "relate"
    command: ClassVar[str] = "relate"
    options: ClassVar[Mapping[str, str]] = {"x": "-x", "y": "-y", "where": "-w"}

    x: str
    y: str

    def _answered(self, table: Table) -> Related:
        return Related(result=run_relate(table, self.x, self.y))


@voiced
def relate(
    source: Any,
    x: str,
    y: str,
    *,
    where: str | None = None,
    locale: str | None = None,
    names: Mapping[str, str] | None = None,
) -> Related:
    """How `y` goes with `x`: correlations with intervals, the straight line with its band, the shape.

    Parameters
    ----------
    source
        Anything `ga.read` takes, or a `Table`.
    x, y
        Columns of numbers; rows where one of them is missing take no part.
    where
        An SQL condition; only the rows that meet it take part.
    locale, names
        The language of the result, and what its columns are called there (see `speaking`); of the caller by default.

    Returns
    -------
    Related
        Pearson's and Spearman's correlation, -1 to 1, with 95% ranges (Fisher 1921; Bonett & Wright 2000); the slope in
        units of `y` for one of `x`; steady, a step, levelling off or a turn, by BIC (Schwarz 1978).

    Raises
    ------
    ColumnError
        A column is not there, holds no numbers, never varies, or has fewer than ten rows in common with the other.
    """
    related: Related = RelateRequest(source=source, x=x, y=y, where=where).run()
    return related
