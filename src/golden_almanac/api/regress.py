"""`ga.regress`: a linear regression with its full table and what its residuals say."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, ClassVar

from ..analysis.regression import Regression
from ..analysis.regression import regress as run_regress
from ..charts import Chart
from ..charts import comparison_charts as charts
from ..charts.caller_axes import onto
from ..reports import Report as Model
from ..tables import Table
from ..text import Summary
from ..text import comparison_sentences as said
from ..text.core_sentences import retold
from ..text.text_tables import TextTable
from ..text.text_tables.outcome_tables import fit_line, regression_tables
from .request import Request, several
from .result import Result
from .result_language import in_one_palette, in_voice, voiced

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.axes import Axes


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class Regressed(Result):
    """A regression; `result` holds coefficients, fit, residuals and leverage."""

    format: ClassVar[str] = "golden-almanac/regression/1"

    table: Table
    result: Regression

    @property
    def equation(self) -> str:
        """The fitted equation as text, coefficients to six digits."""
        return said.equation(self.result)

    def _about(self) -> Table:
        return self.table

    def _asked(self) -> dict[str, Any]:
        result = self.result
        return {"outcome": result.outcome.name, "factors": list(result.factors), "intercept": result.intercept}

    def _summed(self, length: str, technical: bool) -> Summary:
        return said.regression_summary(self.result)

    def _heading(self) -> str:
        return self.equation

    def _caveats(self) -> list[str]:
        return [*self.warnings(), *self.bases()]

    def to_frame(self) -> pd.DataFrame:
        """One row a term: term, estimate, error, error_hc3, t, p, low, high, vif."""
        import pandas as pd

        return pd.DataFrame([_coefficient(coefficient) for coefficient in self.result.coefficients])

    def residuals(self) -> pd.DataFrame:
        """One row for each that took part: fitted, residual, leverage; the index is the row's number in the file."""
        import pandas as pd

        result = self.result
        numbers = result.outcome.table.row_numbers()[result.rows]
        return pd.DataFrame(
            {"fitted": result.fitted, "residual": result.residual, "leverage": result.leverage},
            index=pd.Index(numbers, name="row"),
        )

    @in_voice
    def warnings(self) -> list[str]:
        return said.warnings(self.result)

    @in_voice
    def bases(self) -> list[str]:
        """Which label the others of a column are told against."""
        return [retold(text) for text in self.result.bases]

    @in_voice
    def tables(self) -> tuple[TextTable, ...]:
        """The terms, as a table of text."""
        return regression_tables(self.result)

    @in_voice
    def fit_line(self) -> str:
        """How well it fits, in one line."""
        return fit_line(self.result)

    def _figures(self) -> dict[str, Any]:
        result = self.result
        return {
            "coefficients": [_coefficient(c) for c in result.coefficients],
            "fit": {
                "n": result.n,
                "r2": result.r2,
                "adjusted_r2": result.adjusted_r2,
                "f": result.f,
                "df": list(result.df),
                "p": result.p,
                "residual_sd": result.residual_sd,
                "condition": result.condition,
            },
            "equation": self.equation,
            "diagnostics": [{"name": name, **facts} for name, facts in result.notes],
        }

    @in_voice
    def chart(self, *, kind: str = "coefficients", ax: Axes | None = None) -> Chart:
        """Coefficients with their intervals, or `residuals` over the fit. Raises RequestError for another kind."""
        with onto(ax):
            return charts.draw_regression(self.result, kind, self.headline.rstrip("."))

    @in_voice
    @in_one_palette
    def charts(self) -> tuple[Chart, ...]:
        return self.chart(), self.chart(kind="residuals")

    def _pages(self, title: str | None) -> Model:
        from ..reports.outcome_reports import regression_report

        return regression_report(self.table, self.result, self.summary(), self.equation, self.warnings(), title)


def _coefficient(one: Any) -> dict[str, Any]:
    return {
        name: getattr(one, name) for name in ("term", "estimate", "error", "error_hc3", "t", "p", "low", "high", "vif")
    }


@dataclass(frozen=True, slots=True, kw_only=True)
class RegressRequest(Request):
    """A linear regression; see `regress` for the fields."""

    call: ClassVar[str] = "regress"
    command: ClassVar[str] = "regress"
    options: ClassVar[Mapping[str, str]] = {"factors": "--factor", "intercept": "--no-intercept", "where": "-w"}

    outcome: str
    factors: tuple[str, ...]
    intercept: bool = True

    def _answered(self, table: Table) -> Regressed:
        found = run_regress(table, self.outcome, list(self.factors), intercept=self.intercept)
        return Regressed(table=table, result=found)


@voiced
def regress(
    source: Any,
    outcome: str,
    factors: Sequence[str] | str,
    *,
    intercept: bool = True,
    where: str | None = None,
    progress: Callable[[str], None] | None = None,
    locale: str | None = None,
    names: Mapping[str, str] | None = None,
) -> Regressed:
    """Fit a linear regression of the outcome on the factors by least squares.

    Parameters
    ----------
    source
        Anything `ga.read` takes, or a `Table`.
    outcome
        A column of numbers (or yes/no), or an SQL expression over a row.
    factors
        Columns (labels are told against their first), or SQL expressions such as `pow(load, 2)`. Rows without one of
        them are left out.
    intercept
        False for a fit through nought.
    where
        An SQL condition; only the rows that meet it take part.

    progress
        Called with a line of text: what is being done, how far it is, how long it will take.
    locale, names
        The language of the result, and what its columns are called there (see `speaking`); of the caller by default.

    Returns
    -------
    Regressed
        Coefficients in the outcome's unit for one of the term's; rows with a missing value take no part.

    QR with iterative refinement in doubled arithmetic (Björck 1967); whole powers of columns keep all their digits.
    Robust errors are HC3 (MacKinnon & White 1985).

    Raises
    ------
    AlmanacError
        One of its subclasses: too few rows for the terms, a column that is not there or holds no numbers.
    """
    asked = RegressRequest(
        source=source, outcome=outcome, factors=several(factors) or (), intercept=intercept, where=where
    )
    regressed: Regressed = asked.run(progress)
    return regressed
