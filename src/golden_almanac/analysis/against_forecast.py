"""What was, against what was foretold of it from the periods before: the forecast as a baseline of a change."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from scipy.special import erfc

from ..aggregation import Only, Survey
from ..aggregation.measures import lead_measure
from ..findings import Slice
from ..sql.expressions import quote_name
from ..support.errors import PeriodError
from ..tables import Period, Table
from ..tables.meaning.scenarios import scenario_of
from .change.breakdowns import Breakdown, ranked
from .change.compared_periods import resolve_period
from .change.contributions import additive, captured, farthest
from .change.expected_change import Expected
from .change.explaining_slices import NOTHING
from .change.explanation import Explanation
from .forecast import Ahead, Outlook, Wanted, foretell

_FORECAST = "forecast"
#: Standard errors in half a range of 95%.
_HALF = 1.959964


def is_forecast(baseline: str | None) -> bool:
    """Whether a baseline asks for what was foretold, where the table has no scenario of that kind."""
    return baseline is not None and scenario_of(baseline) == _FORECAST


def against_forecast(
    table: Table, survey_of: Callable[[Table, str | None, str | None], Survey], period: str | None
) -> Explanation:
    """The change from what was foretold of a period, knowing only what came before it, to what it came to.

    `survey_of(table, time, grain)` makes the survey that is asked for. Of a sum the labels of every dimension are
    foretold too, and what they missed by adds up to what the whole did. Raises PeriodError where the period is
    unfinished, is none of the grain, or has too little before it.
    """
    own = survey_of(table, None, None)
    (now, cut), line = resolve_period(own, period), own.timeline
    assert line is not None
    if cut is not None:
        raise PeriodError(
            f"{now.start} to {now.end} is unfinished, and a forecast is of whole periods. Choose a complete one."
        )
    measure = lead_measure(own.measures)
    before = table.filter(f"CAST({quote_name(line.column)} AS DATE) < DATE '{now.start}'")
    past = survey_of(before, line.column, line.grain.value)
    periods = _periods(own, past, now)
    whole = foretell(past, measure, Wanted(periods=periods))
    told = whole.ahead[0] if periods == 1 else whole.total
    if told is None:
        raise PeriodError(f"{measure.name} is no sum: it is set against the forecast of one {line.grain.value} only.")
    kept = own.kept(Only((), (now.start, now.end)))
    value, rows = float(kept.cells().value(measure)), int(kept.cells().rows)
    if not rows or not np.isfinite(value):
        raise PeriodError(f"There are no rows from {now.start} to {now.end}. Choose a period that has some.")
    return Explanation(
        survey=own,
        measure=measure,
        where=Slice(),
        period=now,
        baseline=replace(now, foretold=True),
        cut_days=None,
        value=value,
        before=told.value,
        rows=rows,
        rows_before=rows,
        breakdowns=_breakdowns(own, past, now, told, periods) if measure.additive and not measure.level else (),
        volume_rate=(),
        expected=None,
        forecast=_expected(told, value),
        chance=None,
        smallest=NOTHING,
        factors=None,
        bridge=(),
    )


def _periods(own: Survey, past: Survey, now: Period) -> int:
    """How many periods ahead of the past the span reaches. Raises PeriodError where it does not begin right behind it
    or does not end with a period."""
    line, before = own.timeline, past.timeline
    assert line is not None
    if before is None or not before.complete_count:
        raise PeriodError(f"There are no complete periods before {now.start} to foretell from. Choose a later period.")
    first = before.first + before.complete.stop
    ahead = [line.calendar.period(line.grain, first + step) for step in range(120)]
    ends = [place for place, one in enumerate(ahead, start=1) if one.end == now.end]
    if ahead[0].start != now.start or not ends:
        raise PeriodError(
            f"{now.start} to {now.end} is not made of whole periods ({line.grain.value}) right behind those that are "
            "known. Choose one of the grain."
        )
    return ends[0]


def _expected(told: Ahead, value: float) -> Expected:
    """The range of the forecast as that of the change from it."""
    half = (told.high95 - told.low95) / 2
    error = half / _HALF
    apart = abs(value - told.value)
    p = float(erfc(apart / error / np.sqrt(2))) if error > 0 else float(apart == 0)
    return Expected(
        change=0.0,
        low=told.low95 - told.value,
        high=told.high95 - told.value,
        basis="the forecast made before the period",
        p=p,
    )


def _breakdowns(own: Survey, past: Survey, now: Period, told: Ahead, periods: int) -> tuple[Breakdown, ...]:
    """What the labels of each dimension missed by."""
    found = []
    for column in own.dimensions:
        if column.name not in {one.name for one in past.dimensions}:
            continue
        try:
            outlook = foretell(past, lead_measure(past.measures), Wanted(periods=periods, by=column.name))
        except PeriodError:
            # Groups too small to tell of.
            continue
        made = _missed(own, outlook, column.name, now, told)
        if made is not None:
            found.append(made)
    return ranked(found, NOTHING)


def _missed(own: Survey, outlook: Outlook, by: str, now: Period, told: Ahead) -> Breakdown | None:
    measure = lead_measure(own.measures)
    cells = own.kept(Only((), (now.start, now.end))).cells(by)
    came = measure.factor * np.nan_to_num(cells.linear(measure.top))
    (labels,) = cells.labels
    foretold = {part.label: sum(one.value for one in part.ahead) for part in outlook.parts}
    together = sum(foretold.values())
    # What the labels make together is that of the whole by itself.
    scale = told.value / together if together else 1.0
    named = [label for label in foretold if label is not None]
    values = {label: float(came[labels.index(label)]) if label in labels else 0.0 for label in named}
    rest = float(came.sum()) - sum(values.values())
    wanted: list[str | None] = [*named]
    if None in foretold or abs(rest) > 1e-9 * max(1.0, abs(float(came.sum()))):
        wanted.append(None)
    if len(wanted) < 2:
        return None
    before = np.array([scale * foretold.get(label, 0.0) for label in wanted])
    after = np.array([rest if label is None else values[label] for label in wanted])
    there = np.ones(len(wanted))
    parts = additive(wanted, before, after, there, there)
    changes, total = after - before, float(before.sum())
    return Breakdown(
        by=by,
        captured=captured(changes, before, np.zeros(len(parts)), total),
        farthest=farthest(changes, before, total),
        contributions=tuple(sorted(parts, key=lambda part: (-abs(part.change), part.label or ""))),
    )
