"""`ga.cohorts`: those who joined together, followed through the periods after it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import TYPE_CHECKING, Any, ClassVar

import numpy as np

from ..analysis.cohort_log import Cohort
from ..analysis.cohorts import CohortTable, cohorts_of
from ..charts import Chart
from ..charts.caller_axes import onto
from ..charts.cohort_charts import draw_curves, draw_triangle
from ..reports import Report as Model
from ..tables import Table
from ..text import Summary
from ..text import cohort_sentences as said
from ..text.text_tables import TextTable
from .request import Request, several
from .result import Result
from .result_language import in_one_palette, in_voice, voiced

if TYPE_CHECKING:
    import pandas as pd
    from matplotlib.axes import Axes


@dataclass(frozen=True, slots=True, kw_only=True, eq=False, repr=False)
class Cohorts(Result):
    """Cohorts by period of joining; `result` holds each, what they do together, and which differ."""

    format: ClassVar[str] = "golden-almanac/cohorts/1"

    result: CohortTable

    @property
    def sql(self) -> str:
        """The SELECT that gives the active members of every cohort and period again."""
        return self.result.sql

    def _about(self) -> Table:
        return self.result.table

    def _asked(self) -> dict[str, Any]:
        found = self.result
        return {
            "member": found.member.name,
            "active": found.active.name,
            "joined": None if found.joined is None else found.joined.name,
            "grain": found.grain.value,
            "measure": None if found.measure is None else found.measure.name,
        }

    def _summed(self, length: str, technical: bool) -> Summary:
        return said.cohort_summary(self.result, length)

    def _heading(self) -> str:
        return f"Cohorts of {self.result.member.name}, by {self.result.grain.value}"

    def _caveats(self) -> list[str]:
        return said.cohort_caveats(self.result)

    def to_frame(self) -> pd.DataFrame:
        """One row a cohort and age that is over: cohort (its first day), members, age, active, share, low, high (of its
        95% range), value and value_per_member where a measure was asked for."""
        import pandas as pd

        rows = [
            {
                "cohort": str(one.period.start), "members": one.size, "age": age, "active": int(one.active[age]),
                "share": float(one.share[age]), "low": float(one.low[age]), "high": float(one.high[age]),
                "value": None if self.result.measure is None else float(one.value[age]),
                "value_per_member": None if self.result.measure is None else float(one.per_member[age]),
            }
            for one in self.result.cohorts if one.size
            for age in range(self.result.ages) if np.isfinite(one.active[age])
        ]  # fmt: skip
        frame = pd.DataFrame(rows)
        return frame.drop(columns=["value", "value_per_member"]) if self.result.measure is None else frame

    @in_voice
    def tables(self) -> tuple[TextTable, ...]:
        """A row a cohort: its members, and the share active by age; all together last."""
        return (said.cohort_table(self.result),)

    def _cohort(self, one: Cohort) -> dict[str, Any]:
        """A cohort with its ages that are over."""
        measured = self.result.measure is not None
        return {
            "cohort": str(one.period.start),
            "size": one.size,
            "ages": [
                {"age": age, "active": int(one.active[age]), "rate": float(one.share[age]), "low": float(one.low[age]),
                 "high": float(one.high[age])}
                | ({"value": float(one.value[age]), "value_per_member": float(one.per_member[age])} if measured else {})
                for age in range(self.result.ages) if np.isfinite(one.active[age])
            ],
        }  # fmt: skip

    def _figures(self) -> dict[str, Any]:
        found = self.result
        left = found.survival
        return {
            "sql": self.sql,
            "cohorts": [self._cohort(one) for one in found.cohorts if one.size],
            "pooled": [
                {"age": age, "members": int(found.observed[age]), "share": float(share)}
                for age, share in enumerate(found.pooled) if np.isfinite(share)
            ],
            "half_life": found.half_life,
            "odd": [{**asdict(one), "period": str(one.period.start)} for one in found.odd],
            "survival": None
            if left is None
            else [
                {"age": age + 1, "at_risk": int(left.at_risk[age]), "ended": int(left.ended[age]),
                 "left": float(left.left[age]), "low": float(left.low[age]), "high": float(left.high[age])}
                for age in range(left.left.size)
            ],
            "newcomers": [asdict(one) for one in found.shifts],
            "left_out": {"early": found.early, "unfinished": found.unfinished, "founders": found.founders},
        }  # fmt: skip

    @in_voice
    def chart(self, *, ax: Axes | None = None) -> Chart:
        """The triangle of shares by cohort and age."""
        with onto(ax):
            return draw_triangle(self.result, self.headline.rstrip("."))

    @in_voice
    @in_one_palette
    def charts(self) -> tuple[Chart, ...]:
        """The triangle, and the curves with the odd ones lit where there are a few."""
        if sum(one.size > 0 for one in self.result.cohorts) < 3:
            return (self.chart(),)
        return (self.chart(), draw_curves(self.result, self.headline.rstrip(".")))

    def _pages(self, title: str | None) -> Model:
        from ..reports.cohort_report import cohort_report

        return cohort_report(self.result, self.summary(), self.charts(), self.caveats(), title)


@dataclass(frozen=True, slots=True, kw_only=True)
class CohortsRequest(Request):
    """Cohorts; see `cohorts` for the fields."""

    call: ClassVar[str] = "cohorts"
    command: ClassVar[str] = "cohorts"
    options: ClassVar[Mapping[str, str]] = {"measure": "-m", "by": "-b", "grain": "-g", "where": "-w"}

    member: str
    active: str
    joined: str | None = None
    grain: str | None = None
    measure: str | None = None
    by: tuple[str, ...] | None = None

    def _answered(self, table: Table) -> Cohorts:
        found = cohorts_of(
            table, member=self.member, active=self.active, joined=self.joined, grain=self.grain,
            measure=self.measure, by=self.by or (),
        )  # fmt: skip
        return Cohorts(result=found)


@voiced
def cohorts(
    source: Any,
    member: str,
    active: str,
    *,
    joined: str | None = None,
    grain: str | None = None,
    measure: str | None = None,
    by: Sequence[str] | str | None = None,
    where: str | None = None,
    progress: Callable[[str], None] | None = None,
    locale: str | None = None,
    names: Mapping[str, str] | None = None,
) -> Cohorts:
    """Follow those who joined in one period through the periods after it: how many are still active, what they bring,
    which cohorts differ, and who the newcomers are.

    Parameters
    ----------
    source
        Anything `ga.read` takes, or a `Table`: a log with a row an activity, perhaps with the columns of a table of
        members beside it (`joins`).
    member
        The column that names who was active.
    active
        The dates of activity; missing where a member was never active.
    joined
        The dates of joining; by default a member joins with the first activity.
    grain
        day, week, month (the default), quarter or year.
    measure
        A sum or a count, told a member: "revenue", "count(*)".
    by
        Columns of members: whether the mix of newcomers changed is told by their labels.
    where
        An SQL condition; only the rows that meet it take part.
    progress
        Called with a line of text: what is being done, how far it is, how long it will take.
    locale, names
        The language of the result, and what its columns are called there (see `speaking`); of the caller by default.

    Returns
    -------
    Cohorts
        Shares of members with 95% ranges (Wilson 1927), half-life in periods, survival where members end once (Kaplan &
        Meier 1958, Greenwood's range); ages that are not over are blank. A cohort is said to differ by the log-rank
        test (Mantel 1966) where members end once, else by how many ages its members were active at, in one family.

    Raises
    ------
    AlmanacError
        One of its subclasses: no dates, nobody who joined in a period that is over, a measure that is no sum.
    """
    asked = CohortsRequest(
        source=source, member=member, active=active, joined=joined, grain=grain, measure=measure, by=several(by),
        where=where,
    )  # fmt: skip
    found: Cohorts = asked.run(progress)
    return found
