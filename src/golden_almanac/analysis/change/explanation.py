"""A change between two periods, set against its usual movement and taken apart.

Periods of unequal length are compared like with like: when the period reported on is unfinished, the
baseline is cut to the same number of days.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np

from ...aggregation import PERIOD, Only, Survey, level_rows, unrecorded
from ...aggregation.hierarchies import parents
from ...aggregation.measures import Measure
from ...findings import Slice
from ...sql.expressions import quote_name
from ...support.errors import PeriodError
from ...tables import Period
from ...tables.disclosure import folded
from ..like_for_like import LikeForLike, like_for_like
from ..trading_days import CalendarEffect, calendar_effect
from .breakdowns import Breakdown, breakdown_of, ranked
from .contributions import factors
from .expected_change import Expected, expected_change, forecast_change, possible
from .explaining_slices import NOTHING, Named, Smallest, name_slices
from .label_evidence import Evidence
from .price_volume_mix import Component, Factors, bridge, identities_of, split
from .row_chance import Events, chance_of, events_of

#: A factor makes the whole of a change when it has so much of it.
_NEARLY_ALL = 0.8
#: A change is not called even where one label strays from its share by more than so much of it, nor where one that came
#: or went makes so much of it.
_EVEN, _CAME = 0.5, 0.1
#: A change is called even only where a label that strays by as much again as was expected of it would have been seen.
_MOST_NOTICED = 1.0
#: A slice is told beside a usual change when its own movement is so much of the whole.
_OWN = 0.03
#: One of two dimensions must be so sure for that.
_SURE_CROSSED = 0.001


class Missing(NamedTuple):
    """The run of days without rows in one of two spans compared: in the period itself, or in the baseline."""

    days: Period
    in_baseline: bool


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Explanation:
    """A change and what it is made of. `cut_days` is set when the baseline was cut to so many days.

    `chance` is set where the change of an average is no more than the spread of its rows makes. `smallest` holds the
    slices named, `factors` volume, mix and price, `bridge` the columns that the measure is a sum of, `expected` what
    earlier comparisons and `forecast` what the series before the period led one to expect. `like_for_like` is set where
    labels came or ended, `calendar` where days tell amounts, `events` for rates of yes and no. Where one of the spans
    is `missing` days, nothing is judged: like is not compared with like.
    """

    survey: Survey
    measure: Measure
    where: Slice
    period: Period
    baseline: Period
    cut_days: int | None
    value: float
    before: float
    rows: int
    rows_before: int
    breakdowns: tuple[Breakdown, ...]
    volume_rate: tuple[tuple[str, float], ...]
    expected: Expected | None
    forecast: Expected | None
    chance: Expected | None
    smallest: Smallest
    factors: Factors | None
    bridge: tuple[Component, ...]
    like_for_like: LikeForLike | None = None
    calendar: CalendarEffect | None = None
    missing: Missing | None = None
    events: Events | None = None

    @property
    def change(self) -> float:
        return self.value - self.before

    @property
    def named(self) -> tuple[Named, ...]:
        """The slices that the change is explained by; of a usual change those that moved on their own all the same,
        by as much as matters beside the whole."""
        found = self.smallest.slices
        if self.usual is None or not self.usual.usual:
            return found
        least = _OWN * abs(self.before)
        return tuple(one for one in found if abs(one.excess) >= least and _plain(one))

    @property
    def offset(self) -> bool:
        """Whether the slices named went both ways and so made up for each other."""
        return self.smallest.offset and bool(self.named)

    @property
    def usual(self) -> Expected | None:
        """What the change is judged by: earlier comparisons, else the forecast, else that it is no more than chance. A
        range wider than the figure holds anything: by it nothing is called usual."""
        name = self.judged_by
        return None if name is None else getattr(self, name)

    @property
    def judged_by(self) -> str | None:
        """The name of the field that `usual` is."""
        order = ["expected", "forecast", "chance"]
        if self.events is not None and self.events.few:
            # What few events make by chance alone, no range of rates can tell.
            order.insert(0, order.pop())
        told = (name for name in order if getattr(self, name) is not None)
        return next((name for name in told if not self._useless(getattr(self, name))), None)

    @property
    def cannot_judge(self) -> bool:
        """Whether earlier comparisons are known and differ by more than the figure itself."""
        return self.usual is None and any(one is not None for one in (self.expected, self.forecast))

    def _useless(self, by: Expected) -> bool:
        if self.measure.share:
            return by.usual and by is not self.chance and by.high - by.low > max(self.before, self.value)
        return by.usual and min(self.before, self.value) > 0 and by.high - by.low > abs(self.before)

    @property
    def verdict(self) -> str:
        """What explains the change first: `season`, `usual`, `offset`, `slices`, `mix`, `new and ended`, `even`, or
        `nothing` where there was no column to look along, the rows do not tell where, or days are missing."""
        usual = self.usual
        if self.offset:
            return "offset"
        if usual is not None and usual.usual:
            return "season" if usual.season else "usual"
        if not self.named:
            noticed = self.noticed
            most = min(self._moved, _MOST_NOTICED) if self.measure.additive else self._moved
            return "even" if self._seems_even and noticed is not None and noticed <= most else "nothing"
        if all(one.status != "kept" for one in self.named):
            return "new and ended"
        return "mix" if self.named[0].how == "mix" else "slices"

    def of_chance(self, asked: Collection[str] = ()) -> tuple[str, ...]:
        """The dimensions that show no more than chance makes, but those asked for; one is left where all do."""
        told = [one.by for one in self.breakdowns if not one.of_chance or one.by in asked]
        return tuple(one.by for one in self.breakdowns[0 if told else 1 :] if one.by not in told)

    @property
    def looked_along(self) -> tuple[Evidence, ...]:
        """The dimensions by which a label of a tenth of the whole would have been noticed had it not followed the
        change; where there is none, those that come nearest to it. None where labels stray, came or went."""
        told = [one for one in self.smallest.evidence if one.noticed is not None]
        if not told or not self._seems_even:
            return ()
        told.sort(key=lambda one: (one.noticed or 0.0, one.by))
        return tuple([one for one in told if (one.noticed or 0.0) <= self._moved] or told[:1])

    @property
    def noticed(self) -> float | None:
        """How far a label that holds a tenth of the whole must have strayed from the others to be noticed, four times
        in five, by any of the dimensions `looked_along`: of a sum relative to what was expected of it, of an average in
        the measure's unit."""
        return max((one.noticed or 0.0 for one in self.looked_along), default=None)

    @property
    def _seems_even(self) -> bool:
        came = (
            part.status != "kept" and abs(part.change) > _CAME * abs(self.change)
            for one in self.breakdowns
            for part in one.contributions
        )
        close = all(one.farthest <= _EVEN for one in self.breakdowns)
        return self.smallest.searched and not self.named and self.missing is None and close and not any(came)

    @property
    def _moved(self) -> float:
        """The change, on the scale of `noticed`: a label that stayed where it was strays by so much."""
        if not self.measure.additive:
            return abs(self.change)
        return abs(self.before / self.value - 1) if self.value else 1.0

    @property
    def through(self) -> str | None:
        """The factor that makes nearly all of the change: volume, price, rate or mix; None where none does."""
        if self.factors is None or not self.change:
            return None
        return next((name for name, part in self.factors.parts if part / self.change >= _NEARLY_ALL), None)

    @property
    def change_pct(self) -> float | None:
        """Change in percent; None on a zero, negative or tiny base, and for shares (use points)."""
        return percent(self.value, self.before) if self.measure.in_percent else None


def _plain(part: Named) -> bool:
    """Whether a slice is plain, or sure, enough to be told where the whole asks for no explanation."""
    crossed = len(part.where.conditions)
    return crossed == 1 or (crossed == 2 and part.p <= _SURE_CROSSED)


def percent(value: float, base: float) -> float | None:
    """The change in percent, or None where a percentage would mislead: a base that is not positive,
    or tiny against the value."""
    if not base > 0 or value < 0 or base < 0.001 * abs(value):
        return None
    return 100 * (value / base - 1)


def _disclosed(survey: Survey, where: Slice, spans: tuple[Period, Period]) -> Survey:
    """The survey with labels put together that have too few rows in one of the periods to be told of (see
    `tables.disclosure`); as it is where groups have no least size."""
    table, line = survey.table, survey.timeline
    if table.minimum < 2 or line is None:
        return survey
    inside = where.sql(table) if where.conditions else "TRUE"
    day = f"CAST({quote_name(line.column)} AS DATE)"
    conditions = [f"({inside}) AND {day} BETWEEN DATE '{period.start}' AND DATE '{period.end}'" for period in spans]
    kept = folded(table, table.minimum, conditions)
    dimensions = tuple(kept.column(column.name) for column in survey.dimensions)
    return replace(survey, table=kept, dimensions=dimensions, parents=parents(kept, dimensions), finer=None, _cache={})


def explain(
    survey: Survey,
    measure: Measure,
    now: Period,
    then: Period,
    cut: int | None = None,
    where: Slice | None = None,
    *,
    thorough: bool = True,
    apart: bool = True,
    identity: str | None = None,
) -> Explanation:
    """Take the change of a measure between two periods apart. Raises PeriodError when one holds no rows.

    Unless `thorough`, only the contributions and what is usual are worked out; unless taken `apart`, only what is
    usual. `identity` states what the measure's column is made of; without it the table is searched.
    """
    where = where or Slice()
    whole = survey
    if measure.level:
        # What a level changed by is its end against its end.
        survey = level_rows.for_spans(survey, measure, now, then)
    survey = _disclosed(survey, where, (then, now))
    # Who had rows at all, the ends of two periods do not tell; labels that were put together have none to compare.
    present = whole if measure.level and survey.table.minimum < 2 else survey
    both = [survey.kept(Only(where.conditions, (span.start, span.end))) for span in (then, now)]
    counts = _counts(both, (then, now), where)
    value0, value1 = _values(both, (then, now), measure)
    breakdowns = _breakdowns(measure, where, both) if apart else []
    slices = name_slices(survey, measure, where, now, then, value0, value1) if thorough else NOTHING
    # A level is known at its ends; a plan stands on the very days of what was.
    missing = None if measure.level or then.name else _missing(whole, now, then)
    expected = forecast = chance = None
    events = events_of(measure, (both[0].cells(), both[1].cells()))
    if missing is None:
        expected = expected_change(survey, measure, where, now, then, value0, value1)
        forecast = forecast_change(survey, measure, where, now, then, value0, value1) if thorough and not cut else None
        positive = measure.additive and measure.factor > 0 and _never_negative(survey, measure, where)
        expected, forecast = (possible(one, measure, value0, positive=positive) for one in (expected, forecast))
        chance = chance_of(measure, value1 - value0, (both[0].cells(), both[1].cells()), events)
    product = sums = None
    if thorough:
        product, sums = identities_of(survey, measure, identity)
    return Explanation(
        survey=survey,
        measure=measure,
        where=where,
        period=now,
        baseline=then,
        cut_days=cut,
        value=value1,
        before=value0,
        rows=counts[1],
        rows_before=counts[0],
        breakdowns=ranked(breakdowns, slices),
        volume_rate=() if measure.level else _volume_rate(measure, value0, value1, counts),
        expected=expected,
        forecast=forecast,
        chance=chance,
        smallest=slices,
        factors=split(survey, measure, where, now, then, product) if thorough and not measure.level else None,
        bridge=bridge(survey, measure, where, now, then, sums) if thorough else (),
        # What was planned stands on the very days of what was: nothing came since, and no day is missing.
        like_for_like=None if then.name or not thorough else like_for_like(present, measure, where, then, now, survey),
        calendar=None if then.name else calendar_effect(whole, measure, now, then, value1, value0),
        missing=missing,
        events=events,
    )


def _counts(both: Sequence[Survey], spans: tuple[Period, Period], where: Slice) -> list[int]:
    """The rows of each side. Raises PeriodError where there are none, or fewer than a group may have."""
    counts = [int(part.cells().rows) for part in both]
    for part, count, span in zip(both, counts, spans, strict=True):
        if 0 < count < part.table.minimum:
            raise PeriodError(
                f"There are fewer than {part.table.minimum} rows from {span.start} to {span.end}, the least that a "
                "group may have. Choose a longer period."
            )
        if count == 0:
            raise PeriodError(
                f"There are no rows from {span.start} to {span.end}"
                + (f" for {where.label}" if where.conditions else "")
                + ". Choose a period that has some."
            )
    return counts


def _values(both: Sequence[Survey], spans: tuple[Period, Period], measure: Measure) -> tuple[float, float]:
    """The measure on each side. Raises PeriodError where no row has it."""
    before, after = (float(part.cells().value(measure)) for part in both)
    for value, span in zip((before, after), spans, strict=True):
        if not np.isfinite(value):
            raise PeriodError(
                f"{measure.name} has no value from {span.start} to {span.end}: every row there lacks it. "
                "Choose another period or measure."
            )
    return before, after


def _breakdowns(measure: Measure, where: Slice, both: Sequence[Survey]) -> list[Breakdown]:
    """The change by each dimension that it can be broken down by."""
    if measure.kind == "other":
        return []
    fixed = {column for column, _ in where.conditions}
    made = [breakdown_of(measure, column.name, both) for column in both[0].dimensions if column.name not in fixed]
    return [one for one in made if one is not None]


def with_slices(explanation: Explanation) -> Explanation:
    """The same with the slices that explain it, for one that was not worked out thoroughly."""
    found = name_slices(
        explanation.survey,
        explanation.measure,
        explanation.where,
        explanation.period,
        explanation.baseline,
        explanation.before,
        explanation.value,
    )
    return replace(explanation, smallest=found, breakdowns=ranked(explanation.breakdowns, found))


def _missing(survey: Survey, now: Period, then: Period) -> Missing | None:
    """What only one of the spans lacks: a closing that comes every year turns no comparison."""
    lacking = [unrecorded(survey, span) for span in (now, then)]
    found = [Missing(days, bool(at)) for at, days in enumerate(lacking) if days is not None]
    return found[0] if len(found) == 1 else None


def _never_negative(survey: Survey, measure: Measure, where: Slice) -> bool:
    cells = survey.kept(Only(where.conditions)).cells(PERIOD)
    return bool((np.nan_to_num(cells.linear(measure.top)) >= 0).all())


def _volume_rate(measure: Measure, value0: float, value1: float, counts: list[int]) -> tuple[tuple[str, float], ...]:
    """A sum as rows times amount per row: how much of the change is more rows, how much is more per row."""
    if not measure.additive or len(measure.top) != 1 or measure.top[0][1].kind != "sum":
        return ()
    n0, n1 = (float(count) for count in counts)
    split = factors(value0, value1, (n0, value0 / n0), (n1, value1 / n1))
    return () if split is None else (("volume", split[0]), ("rate", split[1]))
