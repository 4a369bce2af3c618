"""What was, against what was planned for the same days: actual against plan, budget, forecast, target or last year.

All that a change is taken apart by works on two spans of days. So the rows of the plan are moved by four hundred
years, after which the calendar repeats itself to the day of the week, and what was is compared with that span; nothing
of it is shown, and the SQL behind the figures speaks of the scenario and the days as they stand in the source.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from ...aggregation import Survey
from ...aggregation.measures import lead_measure
from ...engine.held_store import Held
from ...sql.expressions import quote_name
from ...support.errors import PeriodError, RequestError
from ...tables import Period, Role, Table, Timeline
from ...tables.meaning.scenarios import Scenarios, scenario_of, scenarios_of
from .compared_periods import resolve_periods
from .explanation import Explanation, explain

#: Days after which the Gregorian calendar repeats itself.
_FOUR_CENTURIES = 146_097


def plan_asked_for(table: Table, baseline: str | None) -> tuple[Scenarios, str] | None:
    """The scenarios of a table and the label that a baseline names; None where it names none.

    Raises RequestError where it names a scenario that the table does not have.
    """
    if baseline is None or baseline in ("previous", "year-ago"):
        return None
    plans = scenarios_of(table)
    label = None if plans is None else _label(plans, baseline)
    if plans is not None and label is not None:
        if label == plans.read:
            raise RequestError("The baseline", baseline, f"another scenario than the one reported on ({plans.read})")
        return plans, label
    if scenario_of(baseline) is not None:
        there = "none" if plans is None else ", ".join(plans.kinds)
        raise RequestError("The baseline", baseline, f"a scenario that {table.name} has ({there})")
    return None


def _label(plans: Scenarios, asked: str) -> str | None:
    """The label that is meant: by itself, or by the kind of scenario where one label is of it."""
    same = [label for label in plans.kinds if label.casefold() == asked.casefold()]
    kind = scenario_of(asked)
    alike = [label for label, own in plans.kinds.items() if own == kind] if kind is not None else []
    return same[0] if same else alike[0] if len(alike) == 1 else None


def against_plan(
    table: Table,
    plans: Scenarios,
    label: str,
    survey_of: Callable[[Table, str | None, str | None], Survey],
    period: str | None,
    identity: str | None,
) -> Explanation:
    """The change from the plan to what was, of the leading measure. `survey_of(table, time, grain)` makes the survey
    that is asked for."""
    if not table.store.abilities.in_order:
        raise RequestError("The baseline", label, "a period: a table left in its file is not compared with a scenario")
    own = survey_of(table, None, None)
    line = own.timeline
    now, _, _ = resolve_periods(own, period, "previous")
    assert line is not None
    both = table.filter(f"{table.equals(plans.column, plans.read)} OR {table.equals(plans.column, label)}")
    moved = _moved(both, plans.column, label, line.column)
    survey = survey_of(moved, line.column, line.grain.value)
    shift = np.timedelta64(_FOUR_CENTURIES, "D")
    planned = replace(
        now,
        start=now.start - shift,
        end=now.end - shift,
        name=label,
        sql=_told(table, plans, label, line, now),
        stands_on=(now.start, now.end),
    )
    told = replace(now, sql=_told(table, plans, plans.read, line, now))
    measure = lead_measure(own.measures)
    try:
        found = explain(survey, measure, told, planned, identity=identity)
    except PeriodError as problem:
        raise PeriodError(
            f"{label} or {plans.read} has no rows from {now.start} to {now.end}. Choose a period that has both."
        ) from problem
    # How many rows a plan has says nothing; volume and price do where columns hold them.
    factors = found.factors if found.factors is not None and found.factors.units is not None else None
    survey = replace(found.survey, source=(table, line))
    return replace(found, survey=survey, expected=None, forecast=None, volume_rate=(), factors=factors)


def _told(table: Table, plans: Scenarios, label: str, line: Timeline, span: Period) -> str:
    """The rows of a scenario in a span, as the source has them."""
    time = quote_name(line.column)
    days = f"CAST({time} AS DATE) BETWEEN DATE '{span.start}' AND DATE '{span.end}'"
    return f"{table.equals(plans.column, label)} AND {days}"


def _moved(table: Table, column: str, label: str, time: str) -> Table:
    """The table with the rows of one scenario four centuries back, and the scenario no dimension any longer."""
    import pyarrow as pa

    codes, labels = table.codes(column)
    planned = codes == labels.index(label)
    days = table.days(time)
    days = np.where(planned, days - np.timedelta64(_FOUR_CENTURIES, "D"), days)
    arrow = table.arrow
    place = arrow.column_names.index(time)
    arrow = arrow.set_column(place, time, pa.array(days.astype("datetime64[D]")))
    columns = tuple(
        replace(one, role=Role.IGNORED)
        if one.name == column
        else replace(one, type="date")
        if one.name == time
        else one
        for one in table.columns
    )
    return replace(table, store=Held(arrow), columns=columns, where=None, _cache={})
