"""What was, against what was planned for the same days: actual against plan, budget, forecast, target or last year.

All that a change is taken apart by works on two spans of days. So the rows of the plan are moved by four hundred
years, after which the calendar repeats itself to the day of the week, and what was is compared with that span; nothing
of it is shown, and the SQL behind the figures speaks of the scenario and the days as they stand in the source.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ...aggregation import Survey
from ...aggregation.measure_names import spoken
from ...aggregation.measures import Measure, lead_measure
from ...engine.held_store import Held
from ...sql.expressions import quote_name
from ...support.errors import PeriodError, RequestError
from ...tables import Period, Role, Table, Timeline
from ...tables.meaning.scenarios import Scenarios, scenario_of, scenarios_in, scenarios_of
from .compared_periods import resolve_period
from .explanation import Explanation, explain

#: Days after which the Gregorian calendar repeats itself.
_FOUR_CENTURIES = 146_097


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """What a baseline names: a label of a column of scenarios, or a column beside the one that is measured. `name` is
    what it is called."""

    name: str
    scenarios: Scenarios | None = None
    beside: str = ""
    column: str = ""


def plan_asked_for(table: Table, baseline: str | None, lead: Callable[[Table], Measure]) -> Plan | None:
    """The plan that a baseline names; None where it names none. `lead` gives the measure that is compared.

    Raises RequestError where it names a scenario that the table does not have.
    """
    if baseline is None or baseline in ("previous", "year-ago"):
        return None
    plans = scenarios_of(table)
    label = None if plans is None else _meant(plans.kinds, baseline)
    if plans is not None and label is not None:
        if label == plans.read:
            raise RequestError("The baseline", baseline, f"another scenario than the one reported on ({plans.read})")
        return Plan(name=label, scenarios=plans)
    beside = {column.name: scenarios_in(column.name)[0] for column in table.columns if column.beside}
    if plans is None and beside:
        measure = lead(table)
        own = [part.column for _, part in measure.top] if measure.additive else []
        known = {name: kind for name, kind in beside.items() if own == [table.column(name).beside]}
        column = _meant(known, baseline)
        if column is not None:
            return Plan(name=spoken(column), beside=table.column(column).beside, column=column)
    if scenario_of(baseline) is not None:
        there = ", ".join(plans.kinds if plans is not None else beside) or "none"
        raise RequestError("The baseline", baseline, f"a scenario that {table.name} has ({there})")
    return None


def _meant(kinds: dict[str, str], asked: str) -> str | None:
    """The label or column that is meant: by itself, or by the kind of scenario where one is of it."""
    same = [label for label in kinds if label.casefold() == asked.casefold()]
    kind = scenario_of(asked)
    alike = [label for label, own in kinds.items() if own == kind] if kind is not None else []
    return same[0] if same else alike[0] if len(alike) == 1 else None


def against_plan(
    table: Table,
    plan: Plan,
    survey_of: Callable[[Table, str | None, str | None], Survey],
    period: str | None,
    identity: str | None,
) -> Explanation:
    """The change from the plan to what was, of the leading measure. `survey_of(table, time, grain)` makes the survey
    that is asked for."""
    if not table.store.abilities.in_order:
        raise RequestError("The baseline", plan.name, "a period: a table left in its file is not compared with a plan")
    # A plan goes on where what was ends, in rows of its own or beside nothing.
    was = table.filter(f"{quote_name(plan.beside)} IS NOT NULL") if plan.column else table
    own = survey_of(was, None, None)
    (now, cut), line = resolve_period(own, period), own.timeline
    assert line is not None
    moved = _labels_moved(table, plan, line) if plan.scenarios is not None else _column_moved(table, plan, line)
    survey = survey_of(moved, line.column, line.grain.value)
    shift = np.timedelta64(_FOUR_CENTURIES, "D")
    planned = replace(
        now,
        start=now.start - shift,
        end=now.end - shift,
        name=plan.name,
        sql=_told(table, plan, plan.name, line, now),
        stands_on=(now.start, now.end),
        stands_in=(plan.beside, plan.column) if plan.column else None,
    )
    told = now if plan.scenarios is None else replace(now, sql=_told(table, plan, plan.scenarios.read, line, now))
    measure = lead_measure(own.measures)
    try:
        found = explain(survey, measure, told, planned, cut, identity=identity)
    except PeriodError as problem:
        raise PeriodError(
            f"{plan.name}, or what it is compared with, has no rows from {now.start} to {now.end}. "
            "Choose a period that has both."
        ) from problem
    return as_planned(replace(found, survey=replace(found.survey, source=(table, line))))


def as_planned(found: Explanation) -> Explanation:
    """A change from a plan without what only periods of the same series tell: what is usual, and how many rows there
    are. Volume and price stay where columns hold them."""
    factors = found.factors
    if factors is not None and (factors.units is None or found.baseline.stands_in is not None):
        factors = None
    return replace(found, expected=None, forecast=None, volume_rate=(), factors=factors)


def _told(table: Table, plan: Plan, label: str, line: Timeline, span: Period) -> str:
    """The rows of a scenario in a span, as the source has them."""
    days = f"CAST({quote_name(line.column)} AS DATE) BETWEEN DATE '{span.start}' AND DATE '{span.end}'"
    return days if plan.scenarios is None else f"{table.equals(plan.scenarios.column, label)} AND {days}"


def _labels_moved(table: Table, plan: Plan, line: Timeline) -> Table:
    """What was and the plan, whose rows are four centuries back; the scenario is no dimension any longer."""
    assert plan.scenarios is not None
    column = plan.scenarios.column
    both = table.filter(f"{table.equals(column, plan.scenarios.read)} OR {table.equals(column, plan.name)}")
    codes, labels = both.codes(column)
    days = _back(both.days(line.column), codes == labels.index(plan.name))
    return _with(both, both.arrow, line.column, days, column)


def _column_moved(table: Table, plan: Plan, line: Timeline) -> Table:
    """Every row twice: as it is, and four centuries back with the plan's figure in the place of the measured one."""
    import pyarrow as pa

    both = [table.arrow.column(name) for name in (plan.beside, plan.column)]
    place, common = table.arrow.column_names.index(plan.beside), pa.float64()
    if len({one.type for one in both}) == 1:
        common = both[0].type
    arrow, planned = (table.arrow.set_column(place, plan.beside, one.cast(common)) for one in both)
    days = table.days(line.column)
    back = _back(np.concatenate([days, days]), np.arange(2 * days.size) >= days.size)
    return _with(table, pa.concat_tables([arrow, planned]), line.column, back, plan.column)


def _back(days: np.ndarray, which: np.ndarray) -> np.ndarray:
    return np.where(which, days - np.timedelta64(_FOUR_CENTURIES, "D"), days)


def _with(table: Table, arrow: Any, time: str, days: np.ndarray, unasked: str) -> Table:
    """A table of these rows, on these days, in which one column is not looked at."""
    import pyarrow as pa

    arrow = arrow.set_column(arrow.column_names.index(time), time, pa.array(days.astype("datetime64[D]")))
    columns = tuple(
        replace(one, role=Role.IGNORED)
        if one.name == unasked
        else replace(one, type="date")
        if one.name == time
        else one
        for one in table.columns
    )
    return replace(table, store=Held(arrow), columns=columns, where=None, _cache={})
