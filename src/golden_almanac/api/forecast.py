"""`ga.forecast`: what to expect of a measure, with ranges, and how it is made."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, ClassVar

from ..analysis.forecast import Outlook, Wanted, foretell
from ..analysis.scan_pipeline import survey_of
from ..charts import Chart
from ..charts import forecast_charts as charts
from ..charts.caller_axes import onto
from ..findings import Check, Note, Slice
from ..findings.checks import one_row, over
from ..reports import Report as Model
from ..support.errors import RequestError
from ..tables import Grain, Table, Timeline
from ..text import Summary
from ..text import forecast_sentences as said
from ..text.languages import say
from ..text.text_tables import TextTable
from .read_notes import as_notes
from .request import Request
from .result import Result
from .result_language import in_one_palette, in_voice, voiced

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.axes import Axes


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class Forecast(Result):
    """What to expect of a measure; `result` holds the path, its ranges, the candidates, the parts."""

    format: ClassVar[str] = "golden-almanac/forecast/1"

    result: Outlook

    @property
    def sql(self) -> str:
        """The SELECT that gives the past that is carried on: `table.sql(found.sql)`."""
        return self.result.sql

    def check(self) -> bool:
        """Whether the past comes out again from the SQL, run anew over the rows."""
        again = self.result.table.sql(self.sql)
        came = {str(row[0])[:10]: row[1] for row in again.itertuples(index=False)}
        holes = {str(one.start) for one in self.result.holes}
        return all(
            str(one.start) in holes or abs(float(came[str(one.start)]) - value) <= 1e-9 * max(1.0, abs(value))
            for one, value in zip(self.result.periods, self.result.history, strict=True)
        )

    def _about(self) -> Table:
        return self.result.table

    def _line(self) -> Timeline | None:
        return self.result.line

    def _asked(self) -> dict[str, Any]:
        found = self.result
        return {
            "measure": found.measure.name,
            "periods": len(found.ahead),
            "grain": found.grain.value,
            "by": None if found.by is None else found.by.name,
            "target": None if found.target is None else found.target.value,
        }

    def _summed(self, length: str, technical: bool) -> Summary:
        return said.forecast_summary(self.result)

    def _heading(self) -> str:
        found = self.result
        return f"Forecast of {found.measure.name}, {len(found.ahead)} periods by {found.grain.value}"

    def _caveats(self) -> list[str]:
        return said.forecast_caveats(self.result)

    def to_frame(self) -> pd.DataFrame:
        """One row a period ahead, and of parts a row for each label: period, value, low80, high80, low95, high95,
        year_before; the values in the measure's unit."""
        import pandas as pd

        found = self.result
        rows = [_figures(one) for one in found.ahead]
        if found.by is None:
            return pd.DataFrame(rows)
        name = found.by.name
        told = [{name: "", **row} for row in rows]
        told += [
            {name: part.label if part.label is not None else "(others)", **_figures(one)}
            for part in found.parts
            for one in part.ahead
        ]
        return pd.DataFrame(told)

    @in_voice
    def tables(self) -> tuple[TextTable, ...]:
        """The periods ahead with their ranges; by label, if asked."""
        return said.forecast_tables(self.result)

    def _figures(self) -> dict[str, Any]:
        found = self.result
        apart = found.components
        return {
            "forecast": [_figures(one) for one in found.ahead],
            "total": None
            if found.total is None
            else {name: value for name, value in _figures(found.total).items() if name != "period"},
            "method": found.plain or "weighted combination",
            "candidates": [{"method": one.name, "mase": one.mase, "weight": one.weight} for one in found.candidates],
            "accuracy": {
                "origins": found.origins,
                "mase": found.own,
                "naive_mase": found.naive,
                "by_horizon": list(found.errors),
            },
            "components": {
                "factors": apart.factors,
                "trend": apart.trend,
                "level": list(map(float, apart.level)),
                "season": list(map(float, apart.season)),
                "events": list(map(float, apart.events)),
                "remainder": list(map(float, apart.remainder)),
            },
            "history": [
                {"period": str(one.start), "value": value}
                for one, value in zip(found.periods, found.history, strict=True)
            ],
            "parts": [{"label": part.label, "forecast": [_figures(one) for one in part.ahead]} for part in found.parts],
            "reconciled": found.reconciled,
            "taken_into_account": [
                {
                    "kind": one.kind,
                    "start": str(one.period.start),
                    "end": str(one.period.end),
                    "value": one.value,
                    "expected": one.expected,
                }
                for one in found.disturbances
            ],
            "events": [
                {
                    "name": one.name,
                    "seen": one.seen,
                    "effect": one.effect,
                    "periods": [str(period.start) for period in one.ahead],
                }
                for one in found.events
            ],
            "target": None
            if found.target is None
            else {
                "value": found.target.value,
                "year": found.target.year.to_dict(),
                "reached": found.target.reached,
                "expected": found.target.expected,
                "factor": found.target.factor,
                "met": found.target.met,
                "tried": found.target.tried,
            },
            "sql": found.sql,
            "findings": [self._finding()],
        }

    def _finding(self) -> dict[str, Any]:
        """The forecast as one finding of the kind `forecast`: the sum over the periods ahead, or the first of them. Its
        check is the last complete period of the past."""
        found, told = self.result, self.summary()
        one = found.total or found.ahead[0]
        before = one.year_before
        key = f"{found.measure.name} {one.period.start} {one.period.end} {found.table.where}"
        last = found.periods[-1]
        check = None
        if not found.measure.level:
            sql = one_row({"value": over(found.measure, found.table, Slice(), found.line.column, last)})
            check = Check(sql=sql, expect={"value": found.history[-1]}).to_dict()
        return {
            "id": f"forecast-{hashlib.sha256(key.encode()).hexdigest()[:10]}",
            "kind": "forecast",
            "measure": found.measure.name,
            "by": None,
            "where": {},
            "sql": found.table.where,
            "period": one.period.to_dict(),
            "baseline": None if before is None else one.period.year_ago().to_dict(),
            "direction": None
            if before is None
            else "up"
            if one.value > before
            else "down"
            if one.value < before
            else "flat",
            "figures": {
                **{name: value for name, value in _figures(one).items() if name not in ("period", "year_before")},
                "baseline": before,
                "change": None if before is None else one.value - before,
                "change_pct": None if not before else 100 * (one.value / before - 1),
            },
            "test": None,
            "score": None,
            "headline": told.headline,
            "detail": told.text,
            "check": check,
            "notes": [],
            "related": [],
        }

    @in_voice
    def chart(self, *, ax: Axes | None = None) -> Chart:
        """The past, the path with both ranges, and the year before."""
        with onto(ax):
            return charts.draw_forecast(self.result, self.headline.rstrip("."))

    @in_voice
    @in_one_palette
    def charts(self) -> tuple[Chart, ...]:
        """The forecast; what the past is made of; errors by horizon, where they are known."""
        made = [self.chart(), charts.draw_components(self.result, say("What the past is made of"))]
        if len(self.result.errors) > 1 and max(self.result.errors) > 0:
            made.append(charts.draw_errors(self.result, say("How much it missed by, by how far ahead")))
        return tuple(made)

    def _pages(self, title: str | None) -> Model:
        from ..reports.forecast_report import forecast_report

        return forecast_report(self.result, self.summary(), self.charts(), self.tables(), self.caveats(), title)


def _figures(one: Any) -> dict[str, Any]:
    return {
        "period": str(one.period.start),
        "value": one.value,
        "low80": one.low80,
        "high80": one.high80,
        "low95": one.low95,
        "high95": one.high95,
        "year_before": one.year_before,
    }


@dataclass(frozen=True, slots=True, kw_only=True)
class ForecastRequest(Request):
    """What to expect of a measure; see `forecast` for the fields."""

    call: ClassVar[str] = "forecast"
    command: ClassVar[str] = "forecast"
    options: ClassVar[Mapping[str, str]] = {"measure": "-m", "by": "-b", "time": "-t", "grain": "-g", "where": "-w"}
    one_thread: ClassVar[bool] = True

    measure: str
    periods: int = 6
    by: str | None = None
    time: str | None = None
    grain: str | None = None
    events: Any = None
    target: float | None = None

    def _answered(self, table: Table) -> Forecast:
        if self.grain is not None and self.grain not in tuple(Grain):
            raise RequestError("The grain", self.grain, "one of " + ", ".join(Grain))
        wanted = Wanted(periods=self.periods, by=self.by, events=as_notes(self.events), target=self.target)
        survey = survey_of(
            table, measures=[self.measure], by=[] if self.by is None else [self.by], time=self.time, grain=self.grain
        )
        return Forecast(result=foretell(survey, survey.measures[0], wanted))


@voiced
def forecast(
    source: Any,
    measure: str,
    periods: int = 6,
    *,
    by: str | None = None,
    time: str | None = None,
    grain: str | None = None,
    events: str | os.PathLike[str] | Sequence[Note] | None = None,
    target: float | None = None,
    where: str | None = None,
    progress: Callable[[str], None] | None = None,
    locale: str | None = None,
    names: Mapping[str, str] | None = None,
) -> Forecast:
    """What to expect of a measure in the periods ahead, with ranges of 80% and 95%.

    Some fifteen methods (exponential smoothing by AICc, theta, autoregression, plain guesses) forecast from many points
    of the past; each is weighted by its errors there, and the ranges are those of the errors that the whole procedure
    made (rolling origins, Tashman 2000; split conformal quantiles, Vovk et al. 2005). Where nothing beats the last
    value or the mean, that is the forecast, and it is said.

    Parameters
    ----------
    source
        Anything `ga.read` takes, or a `Table`.
    measure
        An SQL aggregate or a bare column name. A ratio is forecast as numerator over denominator, a count stays whole,
        a share within 0 and 1.
    periods
        How many periods ahead, 1 to 120, from the one behind the last complete one.
    by
        A column whose labels are forecast too (twenty, and the others together); of what adds up, they agree with the
        whole.
    time, grain
        The column of dates; day, week, month, quarter or year.
    events
        Known events, past and to come: a note log (see `read_notes`) or a list of notes. Those of one text are alike;
        what such events did before is expected again.
    target
        A value for the year that the forecast falls into: what is left to do for it is reckoned.
    where
        An SQL condition; only the rows that meet it take part.
    progress
        Called with a line of text: what is being done, how far it is, how long it will take.
    locale, names
        The language of the result, and what its columns are called there (see `speaking`); of the caller by default.

    Returns
    -------
    Forecast
        Values in the measure's unit; missing values take no part, periods without rows are filled in and told.

    Raises
    ------
    AlmanacError
        One of its subclasses: no dates, fewer than eight complete periods, a column that is not there, events of one
        name that overlap.
    """
    asked = ForecastRequest(
        source=source,
        measure=measure,
        periods=periods,
        by=by,
        time=time,
        grain=grain,
        events=events,
        target=target,
        where=where,
    )
    found: Forecast = asked.run(progress)
    return found
