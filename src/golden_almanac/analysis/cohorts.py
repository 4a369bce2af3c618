"""Cohorts: those who joined in one period, followed through the periods after it.

Of each cohort the share that was active at each age, and what was counted of a member; periods that are not over, or
that lie in the future, are blank.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from ..aggregation.measures import Measure, parse_measure
from ..engine.arrow_arrays import floats, wholes
from ..sql.expressions import quote_name
from ..stats.share_ranges import wilson_ranges
from ..stats.survival import Survival, kaplan_meier
from ..support.errors import ColumnError, PeriodError, RequestError
from ..tables import Column, Grain, Table, Timeline
from .cohort_log import Cohort, Floats, MemberPeriods
from .odd_cohorts import LEAST_COHORTS, LEAST_MEMBERS, OddCohort, normal_p, odd_cohorts
from .one_kind import Note, of_one_kind
from .scan_pipeline import timeline_for

#: Members without a hole between their first and last period, from which members are said to end once.
_ONCE = 0.97
#: Cohorts, and ages, that are followed at most.
_MOST = 240
#: How sure a change of the mix of newcomers must be, and how large.
_MIXED, _LEAST_SHIFT = 0.005, 0.02


@dataclass(frozen=True, slots=True, kw_only=True)
class NewcomerShift:
    """A label whose share of newcomers changed from the earlier half of the periods to the later one."""

    column: str
    label: str
    before: float
    now: float
    p: float


@dataclass(frozen=True, slots=True, kw_only=True)
class CohortTable:
    """`cohorts` by period of joining; `pooled` is the share active by age over all of them, of `observed` members;
    `half_life` the age at which it falls to a half. `early` activities lay before their member joined, `unfinished`
    ones in a period that is not over: both are left out. `founders` members were there in the first period of a log
    that says nothing of joining, and may have joined earlier. `sql` gives members and activities by cohort and age."""

    table: Table
    member: Column
    active: Column
    joined: Column | None
    grain: Grain
    measure: Measure | None
    cohorts: tuple[Cohort, ...]
    pooled: Floats
    observed: Floats
    half_life: float | None
    odd: tuple[OddCohort, ...]
    survival: Survival | None
    shifts: tuple[NewcomerShift, ...]
    members: int
    early: int
    unfinished: int
    founders: int
    sql: str
    notes: tuple[Note, ...] = ()

    @property
    def ages(self) -> int:
        return int(self.pooled.size)

    @property
    def followed(self) -> tuple[Cohort, ...]:
        """The cohorts that all together are told of: without founders, where others joined later."""
        later = self.cohorts[1:] if self.founders else self.cohorts
        return later if any(one.size for one in later) else self.cohorts


def cohorts_of(
    table: Table,
    *,
    member: str,
    active: str,
    joined: str | None = None,
    grain: str | None = None,
    measure: str | None = None,
    by: Sequence[str] = (),
) -> CohortTable:
    """The cohorts of a log of activities. Raises ColumnError, PeriodError, RequestError."""
    if table.minimum > 1:
        raise RequestError(
            "Cohorts", member, f"left out where groups of fewer than {table.minimum} rows are not shown: they follow "
            "members one by one"
        )  # fmt: skip
    # What members bring is added up: of one currency, and of what was, not of what was planned.
    table, notes = of_one_kind(table, by, [measure]) if measure is not None else (table, ())
    who, when = table.column(member, "the members"), table.column(active, "the days of activity")
    since = None if joined is None else table.column(joined, "the days of joining")
    for column in (when, since):
        if column is not None and column.type not in ("date", "datetime"):
            raise ColumnError(column.name, f"The column {column.name!r} holds {column.type}, not dates.", "Name dates.")
    if who.name in (when.name, since and since.name):
        raise RequestError("The members", who.name, "another column than their dates")
    line = timeline_for(table, when.name, grain or "month")
    if line is None:
        raise PeriodError(f"{when.name} holds no dates, so no cohort can be told. Name the column of activity.")
    told = None if measure is None else _measure(measure, table)
    asked = [table.column(name, "--by") for name in by]
    found = _asked(table, who, when, since, line, told, asked)
    return replace(_made(table, who, when, since, line, told, asked, found), notes=notes)


def _measure(text: str, table: Table) -> Measure:
    measure = parse_measure(text, table)
    if measure.kind != "additive" or measure.level or len(measure.top) != 1:
        raise RequestError("The measure", text, "a sum or a count, which a member can have a part of")
    return measure


def _asked(
    table: Table, who: Column, when: Column, since: Column | None, line: Timeline, told: Measure | None,
    by: Sequence[Column],
) -> Any:  # fmt: skip
    """Each member in each period: its code, the first day of the period (none: no activity), what was measured, the
    day of joining, and labels."""
    member = table.label_sql(who.name)
    period = f"CAST({line.calendar.sql(line.grain, quote_name(when.name))} AS DATE)"
    columns = [f"{member} AS member", f"{period} AS period"]
    columns.append(f"{'NULL' if told is None else told.sql} AS value")
    columns.append("NULL AS joined" if since is None else f"min(CAST({quote_name(since.name)} AS DATE)) AS joined")
    columns += [f"min({table.label_sql(one.name)}) AS label{place}" for place, one in enumerate(by)]
    return table.store.query(
        f"SELECT {', '.join(columns)} FROM source WHERE {quote_name(who.name)} IS NOT NULL GROUP BY 1, 2"
    )


def _made(
    table: Table, who: Column, when: Column, since: Column | None, line: Timeline, told: Measure | None,
    by: Sequence[Column], found: Any,
) -> CohortTable:  # fmt: skip
    import pyarrow as pa

    encoded = found.column("member").combine_chunks().dictionary_encode()
    encoded = encoded.chunk(0) if isinstance(encoded, pa.ChunkedArray) else encoded
    member, count = wholes(encoded.indices).astype(np.intp), len(encoded.dictionary)
    if count == 0:
        raise PeriodError(f"{who.name} names nobody, so there are no cohorts.")
    calendar, missing = line.calendar, np.iinfo(np.int64).min
    known = ~_nulls(found.column("period"))
    number = np.full(member.size, missing)
    days = _days(found.column("period"))
    number[known] = calendar.number(line.grain, days[known])
    last = line.first + line.complete.stop - 1
    if since is None:
        start = np.full(count, np.iinfo(np.int64).max)
        np.minimum.at(start, member[known], number[known])
    else:
        own = ~_nulls(found.column("joined"))
        start = np.full(count, np.iinfo(np.int64).max)
        np.minimum.at(start, member[own], calendar.number(line.grain, _days(found.column("joined"))[own]))
    usable = start < np.iinfo(np.int64).max
    if not (usable & (start <= last)).any():
        raise PeriodError(f"Nobody joined in a period that is over ({line.grain.value}). Ask by a shorter period.")
    age = number - start[member]
    early = known & usable[member] & (age < 0)
    late = known & (number > last)
    kept = known & usable[member] & (age >= 0) & (number <= last) & (start[member] <= last)
    first = int(start[usable].min())
    size = min(_MOST, last - first + 1)
    if last - first + 1 > _MOST:
        raise PeriodError(f"There are {last - first + 1} cohorts ({line.grain.value}). Ask by a longer period.")
    cohort = np.where(usable & (start <= last), start - first, -1)
    values = np.nan_to_num(floats(found.column("value"))) if told is not None else np.zeros(member.size)
    pairs = MemberPeriods(member=member[kept], age=age[kept], value=values[kept], cohort=cohort, last=size - 1 - cohort)
    cohorts = _cohorts(pairs, line, first, size)
    founders = cohorts[0].size if since is None and cohorts else 0
    # Those of the first period of a log may have joined long before.
    compared = [place for place in range(size) if not (since is None and place == 0)]
    survival = _survival(pairs, set(compared))
    # Where nobody joined later, they are all that there is to tell of.
    several = [cohorts[place] for place in compared if cohorts[place].size]
    pooled, observed = _pooled(several or list(cohorts), size)
    return CohortTable(
        table=table,
        member=who,
        active=when,
        joined=since,
        grain=line.grain,
        measure=told,
        cohorts=cohorts,
        pooled=pooled,
        observed=observed,
        half_life=_half_life(pooled),
        odd=odd_cohorts(pairs, cohorts, compared, size, once=survival is not None),
        survival=survival,
        shifts=_shifts(found, member, cohort, compared, by),
        members=int((cohort >= 0).sum()),
        early=int(np.unique(member[early]).size),
        unfinished=int(late.sum()),
        founders=founders,
        sql=_check_sql(table, who, when, since, line, told),
    )


def _nulls(column: Any) -> npt.NDArray[np.bool_]:
    import pyarrow as pa

    return wholes(column.is_null().cast(pa.int8())).astype(bool)


def _days(column: Any) -> npt.NDArray[np.datetime64]:
    import pyarrow as pa

    from ..engine.arrow_arrays import days

    return days(column.cast(pa.date32()))


def _cohorts(pairs: MemberPeriods, line: Timeline, first: int, size: int) -> tuple[Cohort, ...]:
    sizes = np.bincount(pairs.cohort[pairs.cohort >= 0], minlength=size)
    place = pairs.cohort[pairs.member] * size + pairs.age
    active = np.bincount(place, minlength=size * size).reshape(size, size).astype(float)
    value = np.bincount(place, weights=pairs.value, minlength=size * size).reshape(size, size)
    future = np.arange(size)[None, :] > (size - 1 - np.arange(size))[:, None]
    active[future] = np.nan
    value[future] = np.nan
    made = []
    for row in range(size):
        low, high = wilson_ranges(active[row], np.full(size, float(sizes[row])))
        made.append(
            Cohort(
                period=line.calendar.period(line.grain, first + row),
                size=int(sizes[row]),
                active=active[row],
                low=low,
                high=high,
                value=value[row],
            )
        )
    return tuple(made)


def _pooled(cohorts: Sequence[Cohort], size: int) -> tuple[Floats, Floats]:
    """The share active by age over cohorts in which that age is over, and of how many members; NaN where there is
    none."""
    active = np.array([one.active for one in cohorts]).reshape(-1, size)
    sizes = np.array([[one.size] for one in cohorts], dtype=float)
    seen = np.isfinite(active)
    n = (seen * sizes).sum(axis=0)
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.where(n > 0, np.nansum(active, axis=0) / n, np.nan), n


def _half_life(pooled: Floats) -> float | None:
    """The age at which half are left, between two ages in proportion; None where more are, or where too few were there
    from the beginning."""
    below = np.flatnonzero(pooled <= 0.5)
    if not below.size or below[0] == 0:
        return None
    place = int(below[0])
    above, under = float(pooled[place - 1]), float(pooled[place])
    return place - 1 + (above - 0.5) / (above - under)


def _survival(pairs: MemberPeriods, compared: set[int]) -> Survival | None:
    """How long members stay, where they end once: hardly any has a hole between its first and last period."""
    count = pairs.cohort.size
    ages = np.bincount(pairs.member, minlength=count)
    last = np.full(count, -1)
    np.maximum.at(last, pairs.member, pairs.age)
    own = np.isin(pairs.cohort, list(compared)) & (ages > 0)
    if own.sum() < LEAST_MEMBERS:
        return None
    longer = own & (last >= 2)
    if not longer.any() or (ages[longer] == last[longer] + 1).mean() < _ONCE:
        return None
    gone = last[own] < pairs.last[own]
    return kaplan_meier(last[own] + 1, gone)


def _shifts(
    found: Any, member: npt.NDArray[np.intp], cohort: npt.NDArray[np.int64], compared: Sequence[int],
    by: Sequence[Column],
) -> tuple[NewcomerShift, ...]:  # fmt: skip
    """Labels whose share of newcomers changed between the halves of the periods."""
    from ..engine.arrow_arrays import encoded

    if len(compared) < LEAST_COHORTS:
        return ()
    middle = compared[len(compared) // 2]
    looked: list[NewcomerShift] = []
    tested = 0
    for place, column in enumerate(by):
        codes, labels = encoded(found.column(f"label{place}"))
        own = np.full(cohort.size, -1)
        own[member] = codes
        inside = np.isin(cohort, list(compared)) & (own >= 0)
        halves = [np.bincount(own[inside & side], minlength=len(labels)).astype(float)
                  for side in (cohort < middle, cohort >= middle)]  # fmt: skip
        totals = [half.sum() for half in halves]
        if min(totals) < LEAST_MEMBERS:
            continue
        for code, label in enumerate(labels):
            if label is None:
                continue
            tested += 1
            shares = [half[code] / total for half, total in zip(halves, totals, strict=True)]
            both = (halves[0][code] + halves[1][code]) / sum(totals)
            error = np.sqrt(both * (1 - both) * (1 / totals[0] + 1 / totals[1]))
            p = normal_p((shares[1] - shares[0]) / error) if error else 1.0
            looked.append(NewcomerShift(column=column.name, label=label, before=shares[0], now=shares[1], p=p))
    kept = [one for one in looked if one.p * max(tested, 1) <= _MIXED and abs(one.now - one.before) >= _LEAST_SHIFT]
    told: list[NewcomerShift] = []
    for one in sorted(kept, key=lambda one: (-abs(one.now - one.before), -one.now, one.column, one.label)):
        # Of two labels what one gains the other loses: one of them is told.
        gain = one.now - one.before
        if not any(two.column == one.column and abs(two.now - two.before + gain) < 1e-9 for two in told):
            told.append(one)
    return tuple(told)


def _check_sql(
    table: Table, who: Column, when: Column, since: Column | None, line: Timeline, told: Measure | None
) -> str:
    """Active members, and what was measured of them, by cohort and period, for anyone to run over the source."""
    name, day = quote_name(who.name), quote_name(when.name)
    kept = f"{name} IS NOT NULL" + ("" if table.where is None else f" AND ({table.where})")
    joined = f"min(CAST({day if since is None else quote_name(since.name)} AS DATE))"
    period = f"CAST({line.calendar.sql(line.grain, day)} AS DATE)"
    cohort = f"CAST({line.calendar.sql(line.grain, 'j.joined')} AS DATE)"
    # What lies in a period that is not over takes no part.
    end = line.period(line.complete.stop - 1).end
    own, added = ("", "") if told is None else (f", {told.sql} AS value", ", sum(a.value) AS value")
    return (
        f"WITH j AS (SELECT {name} AS member, {joined} AS joined FROM source WHERE {kept} GROUP BY 1), "
        f"a AS (SELECT {name} AS member, {period} AS period{own} FROM source WHERE {kept} "
        f"AND CAST({day} AS DATE) <= DATE '{end}' GROUP BY 1, 2) "
        f"SELECT {cohort} AS cohort, a.period AS period, count(*) AS active{added} "
        f"FROM j JOIN a ON a.member = j.member WHERE a.period >= {cohort} GROUP BY 1, 2 ORDER BY 1, 2"
    )
