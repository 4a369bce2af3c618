"""`ga.find_drivers`: what goes with an outcome."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, ClassVar

from ..analysis.drivers import Condition, Driver, Effect, Found, Segment, driver_of
from ..analysis.drivers import find as run_find
from ..charts import Chart
from ..charts import driver_charts as charts
from ..charts.caller_axes import onto
from ..reports import Report as Model
from ..sql.expressions import quote_name
from ..tables import Table
from ..text import Summary
from ..text import driver_sentences as said
from ..text.core_sentences import retold
from ..text.text_tables import TextTable
from ..text.text_tables.outcome_tables import drivers_tables
from .request import Request, several
from .result import Result
from .result_language import in_one_palette, in_voice, voiced

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.axes import Axes


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class Drivers(Result):
    """What goes with an outcome. `found.drivers` are the factors with a clear effect, most important first."""

    format: ClassVar[str] = "golden-almanac/drivers/1"

    found: Found

    @property
    def drivers(self) -> tuple[Driver, ...]:
        return self.found.drivers

    @property
    def segments(self) -> tuple[Segment, ...]:
        """Slices that stand out and share no row, best first; `found.every_segment` holds all that are sure."""
        return self.found.segments

    def _about(self) -> Table:
        return self.found.outcome.table

    def _asked(self) -> dict[str, Any]:
        about = self.found.outcome
        return {
            "outcome": about.name,
            "kind": about.kind,
            "event": about.event,
            "measure": about.measure.name,
            "factors": [factor.name for factor in self.found.factors],
            "toward": self.found.toward,
        }

    def _summed(self, length: str, technical: bool) -> Summary:
        return said.drivers_summary(self.found)

    def _caveats(self) -> list[str]:
        return said.caveats(self.found)

    def _heading(self) -> str:
        about = self.found.outcome
        return f"Drivers of {about.name} ({about.kind}, {about.n:,} rows)"

    def _face(self) -> pd.DataFrame:
        return self.to_frame().drop(columns=["sql"])

    def to_frame(self) -> pd.DataFrame:
        """One row an effect: factor, level, effect, low, high, per, p, q, importance, cut, unadjusted."""
        import pandas as pd

        rows = [_driver(driver, effect, self.found) for driver in self.found.drivers for effect in driver.effects]
        columns = list(_COLUMNS)
        return pd.DataFrame([{name: row[name] for name in columns} for row in rows], columns=columns)

    def segments_frame(self, *, every: bool = False) -> pd.DataFrame:
        """One row a segment: sql, n, share, value, overall, lift, estimate, low, high."""
        import pandas as pd

        names = ["sql", "n", "share", "value", "overall", "lift", "estimate", "estimate_n", "low", "high", "p"]
        kept = self.found.every_segment if every else self.found.segments
        return pd.DataFrame([{name: getattr(one, name) for name in names} for one in kept], columns=names)

    def _figures(self) -> dict[str, Any]:
        found = self.found
        about = found.outcome
        return {
            "overall": {"n": about.n, "value": about.overall, "foretold": found.foretold, "errors": found.errors},
            "drivers": [_driver(driver, effect, found) for driver in found.drivers for effect in driver.effects],
            "no_clear_effect": [one.factor.name for one in found.unclear],
            "unclear": [
                {"factor": one.factor.name, "p": one.p, "q": one.q, "reason": retold(one.reason)}
                for one in found.unclear
            ],
            "left_out": [{"factor": one.factor, "reason": retold(one.reason)} for one in found.left_out],
            "segments": [_segment(segment) for segment in found.segments],
            "every_segment": [_segment(one) for one in found.every_segment],
        }

    @in_voice
    def tables(self, most: int = 12) -> tuple[TextTable, ...]:
        """Effects, segments, factors without a clear effect and those left out, as tables of text."""
        return drivers_tables(self.found, most)

    @in_voice
    def chart(self, factor: str | None = None, *, kind: str = "effects", ax: Axes | None = None) -> Chart:
        """All effects with their intervals; of one `factor` its levels or its curve; `kind="segments"` the segments.

        Raises RequestError for a factor that is no driver, LookupError where there is nothing to draw.
        """
        with onto(ax):
            if factor is not None:
                return charts.draw_driver(self.found, driver_of(self.found, factor))
            summary = self.summary()
            if kind == "segments":
                first = self.found.segments[0] if self.found.segments else None
                made = charts.draw_segments(self.found, said.segment(first, self.found)) if first else None
            else:
                made = charts.draw_effects(self.found, summary.headline.rstrip("."))
            if made is None:
                raise LookupError("nothing was found, so there is nothing to draw")
            return made

    @in_voice
    @in_one_palette
    def charts(self) -> tuple[Chart, ...]:
        """The effects, each driver, the segments; what there is to draw."""
        if not self.found.drivers and not self.found.segments:
            return ()
        made = [self.chart()] if self.found.drivers else []
        made += [self.chart(driver.factor.name) for driver in self.found.drivers]
        return (*made, *([self.chart(kind="segments")] if self.found.segments else []))

    def _pages(self, title: str | None) -> Model:
        from ..reports.driver_report import drivers_report

        return drivers_report(self.found, self.summary(), self.caveats(), title)


_COLUMNS = (
    "factor",
    "level",
    "effect",
    "low",
    "high",
    "unit",
    "per",
    "step",
    "per_step",
    "p",
    "q",
    "importance",
    "cut",
    "shape",
    "unadjusted",
    "unadjusted_low",
    "unadjusted_high",
    "odds_ratio",
    "n",
    "value",
    "direction",
    "sql",
)


def _driver(driver: Driver, effect: Effect, found: Found) -> dict[str, Any]:
    cut = None
    if driver.shape is not None and driver.shape.cut is not None:
        at = driver.shape.cut
        column = quote_name(driver.factor.column)
        cut = {
            "at": at.at,
            "p": at.p,
            "difference": at.difference,
            "n_below": at.n_below,
            "n_above": at.n_above,
            "below": f"{column} <= {at.at!r}",
            "above": f"{column} > {at.at!r}",
        }
    return {
        "factor": effect.factor,
        "level": effect.level,
        "effect": effect.effect,
        "low": effect.low,
        "high": effect.high,
        "unit": "probability" if found.outcome.yes_no else found.outcome.measure.unit,
        "per": effect.per,
        "step": effect.step,
        "per_step": effect.per_step,
        "p": effect.p,
        "q": driver.q,
        "importance": driver.importance,
        "cut": cut,
        "shape": None if driver.shape is None else {"name": driver.shape.name, "bend": driver.shape.bend},
        "unadjusted": effect.unadjusted,
        "unadjusted_low": effect.unadjusted_low,
        "unadjusted_high": effect.unadjusted_high,
        "odds_ratio": effect.odds_ratio,
        "n": effect.n,
        "value": effect.value,
        "direction": effect.direction,
        "sql": effect.sql,
    }


def _segment(segment: Segment) -> dict[str, Any]:
    return {
        "where": _where(segment.conditions),
        "sql": segment.sql,
        "conditions": [{"column": part.column, "op": part.op, "value": part.value} for part in segment.conditions],
        "n": segment.n,
        "share": segment.share,
        "value": segment.value,
        "overall": segment.overall,
        "lift": segment.lift,
        "estimate": segment.estimate,
        "estimate_n": segment.estimate_n,
        "low": segment.low,
        "high": segment.high,
        "p": segment.p,
        "direction": segment.direction,
    }


def _where(conditions: tuple[Condition, ...]) -> dict[str, Any]:
    """The slice as columns and their values; of dates' parts and rare labels only the SQL tells."""
    made: dict[str, Any] = {}
    for condition in conditions:
        if condition.op in ("=", "in"):
            made[condition.factor] = list(condition.value) if isinstance(condition.value, tuple) else [condition.value]
            continue
        known = made.setdefault(condition.factor, {})
        # Both ends are included: the least value above a bound is the first that is in.
        known["to" if condition.op == "<=" else "from"] = condition.value if condition.op == "<=" else condition.next
    return made


@dataclass(frozen=True, slots=True, kw_only=True)
class DriversRequest(Request):
    """What goes with an outcome; see `find_drivers` for the fields."""

    call: ClassVar[str] = "find_drivers"
    command: ClassVar[str] = "drivers"
    options: ClassVar[Mapping[str, str]] = {"factors": "--factor", "where": "-w"}

    outcome: str
    factors: tuple[str, ...] | None = None
    event: str | None = None
    toward: str = "both"

    def _answered(self, table: Table) -> Drivers:
        return Drivers(found=run_find(table, self.outcome, self.factors, event=self.event, toward=self.toward))


@voiced
def find_drivers(
    source: Any,
    outcome: str,
    factors: Sequence[str] | str | None = None,
    *,
    event: str | None = None,
    toward: str = "both",
    where: str | None = None,
    progress: Callable[[str], None] | None = None,
    locale: str | None = None,
    names: Mapping[str, str] | None = None,
) -> Drivers:
    """What goes with an outcome: effects, cut points and segments.

    Parameters
    ----------
    source
        Anything `ga.read` takes, or a `Table`.
    outcome
        A column of numbers; a yes/no column, or one with two labels; a rate such as `sum(revenue) / sum(passengers)`;
        or
        an SQL expression over a row, such as `delay_min > 15`.
    factors
        Columns that may go with it; by default all of numbers, labels and dates (as month and weekday).
    event
        The label that counts as yes, where the outcome is a column of labels.
    toward
        `higher` or `lower` for one direction of interest, `both` by default.
    where
        An SQL condition; only the rows that meet it take part.

    progress
        Called with a line of text: what is being done, how far it is, how long it will take.
    locale, names
        The language of the result, and what its columns are called there (see `speaking`); of the caller by default.

    Returns
    -------
    Drivers
        Effects in the outcome's unit with 95% ranges. Rows with a missing outcome take no part; a missing label is one
        of its own, a missing number counts as the usual one.

    Effects are least squares beside all other factors with HC3 errors (MacKinnon & White 1985), or by weeks where rows
    of one week lean on each other; cut points are tested as the best of all (Hothorn & Lausen 2003); segments are found
    on one half and estimated on the other (Athey & Imbens 2016).

    Raises
    ------
    AlmanacError
        One of its subclasses: the outcome is constant, known in fewer than 30 rows, or a column is not there.
    """
    asked = DriversRequest(
        source=source, outcome=outcome, factors=several(factors), event=event, toward=toward, where=where
    )
    drivers: Drivers = asked.run(progress)
    return drivers
