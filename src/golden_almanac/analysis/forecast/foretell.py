"""The forecast of a measure: its past, cleaned of what is known, carried on by the procedure, put back and bounded."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ...aggregation import Survey
from ...aggregation.measures import Measure
from ...findings import Note
from ...stats.forecasting.origins import Origins
from ...stats.forecasting.procedure import SEASONS, Procedure, procedure
from ...stats.forecasting.ranges import LEVELS, Ranges, ranges
from ...support.errors import RequestError
from ...tables import Grain, Period
from . import known_events
from .components import components_of
from .disturbances import without_disturbances
from .outlook import Ahead, Candidate, Components, Floats, Outlook, Part, Target
from .past import Past, check_one_series, history_sql, past_of
from .reconciliation import agreed
from .targets import target_of
from .wanted import Wanted

#: Times that events and what is usual beside them are told apart.
_ROUNDS = 4


@dataclass(frozen=True, slots=True)
class _Path:
    """Paths of the measure at all origins, shape (series, origins, horizon), the model's standard errors at the end,
    shape (series, horizon), and how parts and whole were made to agree."""

    values: Floats
    path: Floats
    model: Floats
    origins: Origins
    agreed: str | None = None


def foretell(survey: Survey, measure: Measure, wanted: Wanted) -> Outlook:
    """What to expect of a measure. Raises PeriodError, RequestError, ColumnError, SourceError."""
    known_events.check_apart(wanted.events)
    by = None if wanted.by is None else survey.table.column(wanted.by, "what to break down by")
    if by is None:
        check_one_series(survey, measure)
    told = past_of(survey, measure, by)
    past, disturbances = without_disturbances(told, wanted.events)
    line = told.survey.timeline
    assert line is not None
    # The last complete period, and those behind it: an unfinished one is the first that is forecast.
    ahead = tuple(
        line.calendar.period(line.grain, line.first + line.complete.stop + step) for step in range(wanted.periods)
    )
    past, effects = _without_events(past, ahead, wanted.events)
    top = procedure(past.tops, line.grain.value, wanted.periods, known=_holidays(past, ahead))
    bottom = None if past.bottoms is None else procedure(past.bottoms, line.grain.value, wanted.periods)
    path = _path(past, top, bottom)
    errors = path.origins.errors(path.values, path.path)
    if effects.events:
        # Only what is to come has them: of the past they were taken out.
        last = path.path.copy()
        last[:, -1] *= effects.ahead
        path = replace(path, path=last, model=path.model * effects.ahead)
    spread = ranges(path.values, path.origins, errors, path.model)
    bounds = _bounds(told)
    whole = _is_whole(told)
    made = [_ahead(path, spread, row, told, ahead, bounds, whole=whole) for row in range(path.values.shape[0])]
    if whole and path.agreed is not None:
        # Whole things agree once they are whole.
        made[0] = tuple(
            replace(one, value=sum(part[place].value for part in made[1:])) for place, one in enumerate(made[0])
        )
    found = top.found
    plain = top.plain[0] if bottom is None else None
    outlook = Outlook(
        table=survey.table,
        line=line,
        measure=measure,
        grain=line.grain,
        periods=told.periods,
        history=tuple(map(float, told.values[0])),
        ahead=made[0],
        total=_total(path, errors, made[0], bounds, whole=whole)
        if measure.kind == "additive" and not measure.level
        else None,
        candidates=_candidates(top),
        form=found.forms[0],
        plain=plain,
        own=float(found.own[0]) if plain is None else float(found.mase[found.names.index(plain), 0]),
        naive=_naive(top),
        naive_ranges=spread.naive,
        origins=path.origins.count - 1,
        errors=_by_horizon(errors[0], told.values[0]),
        components=_components(past, effects, top.origins.season),
        disturbances=disturbances,
        events=effects.events,
        parts=tuple(
            Part(label=label, history=tuple(map(float, told.values[row])), ahead=made[row])
            for row, label in enumerate(told.labels, start=1)
        ),
        by=by,
        reconciled=path.agreed,
        target=None,
        holes=tuple(one for one, hole in zip(told.periods, told.holes, strict=True) if hole),
        unfinished=line.period(line.count - 1) if line.partial_last else None,
        sql=history_sql(survey, measure),
        short=told.size < wanted.periods or (_season_of(line.grain) > 1 and told.size < 2 * _season_of(line.grain)),
    )
    return outlook if wanted.target is None else replace(outlook, target=_target(wanted.target, outlook, path))


def _season_of(grain: Grain) -> int:
    return SEASONS[grain.value]


def _without_events(
    past: Past, ahead: tuple[Period, ...], events: Sequence[Note]
) -> tuple[Past, known_events.EventEffects]:
    """The past without what known events of the whole did to it."""
    listed = [event for event in events if not event.where]
    if not listed:
        return past, known_events.EventEffects(np.ones(past.size), np.ones(len(ahead)), ())
    values = past.values[0]
    effects = known_events.EventEffects(np.ones(past.size), np.ones(len(ahead)), ())
    for _ in range(_ROUNDS):
        # What was usual is told without the events, and the events against what was usual.
        apart = components_of(values / effects.past, _season(past))
        if apart.factors:
            remainder = values / np.maximum(apart.level * apart.season, 1e-12)
        else:
            usual = apart.level + apart.season
            remainder = 1 + (values - usual) / max(float(np.abs(values).mean()), 1e-12)
        effects = known_events.effects_of(values, remainder, past.periods, ahead, listed)
    return replace(past, tops=past.tops / effects.past), effects


def _season(past: Past) -> int:
    line = past.survey.timeline
    assert line is not None
    season = _season_of(line.grain)
    return season if past.size >= 2 * season + 4 else 1


def _holidays(past: Past, ahead: tuple[Period, ...]) -> Floats | None:
    """Days of the country's holidays as a column, of daily series; None where no country is set."""
    line = past.survey.timeline
    assert line is not None
    if line.grain is not Grain.DAY or line.calendar.holidays is None:
        return None
    names = line.calendar.holiday_names(past.periods[0].start, ahead[-1].end)
    column = np.array([one.start in names for one in (*past.periods, *ahead)], dtype=float)
    return column[:, None] if column[: past.size].any() else None


def _path(past: Past, top: Procedure, bottom: Procedure | None) -> _Path:
    """The measure from the forecasts of what it is made of; parts and whole made to agree where they add up."""
    origins = top.origins
    values = past.values
    if bottom is not None:
        path = past.made(top.path, bottom.path)
        path = np.where(np.isfinite(path), path, values[:, origins.ends - 1, None])
        return _Path(values, path, _of_ratio(past, path[:, -1], top, bottom), origins)
    path, model = past.made(top.path, None), abs(past.measure.factor) * top.model
    if past.measure.kind == "additive" and values.shape[0] > 1:
        path, how = agreed(values, path, origins)
        return _Path(values, path, model, origins, how)
    return _Path(values, path, model, origins)


def _of_ratio(past: Past, path: Floats, top: Procedure, bottom: Procedure) -> Floats:
    """The standard errors of a ratio from those of its parts, which go together as their changes did (delta method)."""
    one = top.model / np.maximum(np.abs(top.path[:, -1]), 1e-12)
    other = bottom.model / np.maximum(np.abs(bottom.path[:, -1]), 1e-12)
    assert past.bottoms is not None
    together = np.array([_together(a, b) for a, b in zip(past.tops, past.bottoms, strict=True)])[:, None]
    made: Floats = np.abs(path) * np.sqrt(np.maximum(one**2 + other**2 - 2 * together * one * other, 0.0))
    return made


def _together(top: Floats, bottom: Floats) -> float:
    if top.size < 4 or np.ptp(np.diff(top)) == 0 or np.ptp(np.diff(bottom)) == 0:
        return 0.0
    return float(np.corrcoef(np.diff(top), np.diff(bottom))[0, 1])


def _bounds(past: Past) -> tuple[float | None, float | None]:
    """Nothing below nought of what never was; a share within 0 and 1."""
    if past.measure.share:
        return 0.0, 1.0
    return (0.0 if np.nanmin(past.values[0]) >= 0 else None), None


def _is_whole(past: Past) -> bool:
    """Whether the measure counts whole things."""
    counts = past.measure.kind == "additive" and past.measure.unit is None
    return counts and bool((past.tops == np.round(past.tops)).all())


def _ahead(
    path: _Path,
    spread: Ranges,
    row: int,
    past: Past,
    ahead: tuple[Period, ...],
    bounds: tuple[float | None, float | None],
    *,
    whole: bool,
) -> tuple[Ahead, ...]:
    return tuple(
        _point(
            period,
            float(path.path[row, -1, step]),
            [float(spread.half[level][row, step]) for level in LEVELS],
            bounds,
            whole=whole,
            before=_year_before(past, row, period),
        )
        for step, period in enumerate(ahead)
    )


def _point(
    period: Period,
    value: float,
    half: list[float],
    bounds: tuple[float | None, float | None],
    *,
    whole: bool,
    before: float | None,
) -> Ahead:
    lows, highs = [value - one for one in half], [value + one for one in half]
    if whole:
        value, lows, highs = (
            float(round(value)),
            [float(np.floor(one)) for one in lows],
            [float(np.ceil(one)) for one in highs],
        )
    low, high = bounds

    def kept(number: float) -> float:
        number = number if low is None else max(low, number)
        return number if high is None else min(high, number)

    return Ahead(
        period=period,
        value=kept(value),
        low80=kept(lows[0]),
        high80=kept(highs[0]),
        low95=kept(lows[1]),
        high95=kept(highs[1]),
        year_before=before,
    )


def _year_before(past: Past, row: int, period: Period) -> float | None:
    """The same period a year before, where the past has it."""
    wanted = period.year_ago().start
    place = next(
        (place for place, one in enumerate(past.periods) if one.start == wanted and not past.holes[place]), None
    )
    return None if place is None else float(past.values[row, place])


def _total(
    path: _Path, errors: Floats, ahead: tuple[Ahead, ...], bounds: tuple[float | None, float | None], *, whole: bool
) -> Ahead:
    """The sum over the periods ahead, with ranges of its own: of the errors of sums, not sums of ranges."""
    summed = np.cumsum(errors[:1], axis=2)
    model = path.model[:1]
    # Errors of neighbouring periods go together in part: between the root of the squares and the sum.
    along = (np.sqrt(np.cumsum(model**2, axis=1)) + np.cumsum(model, axis=1)) / 2
    spread = ranges(np.cumsum(path.values[:1], axis=1), path.origins, summed, along)
    if spread.naive:
        single = ranges(path.values[:1], path.origins, errors[:1], model)
        spread = Ranges(
            {
                level: (np.sqrt((half**2).cumsum(axis=1)) + half.cumsum(axis=1)) / 2
                for level, half in single.half.items()
            },
            naive=True,
        )
    before = [one.year_before for one in ahead]
    known = [value for value in before if value is not None]
    first = ahead[0].period
    span = replace(first, end=ahead[-1].period.end, grain=first.grain if len(ahead) == 1 else None)
    half = [float(spread.half[level][0, -1]) for level in LEVELS]
    value = sum(one.value for one in ahead)
    return _point(span, value, half, bounds, whole=whole, before=sum(known) if len(known) == len(before) else None)


def _candidates(found: Procedure) -> tuple[Candidate, ...]:
    listed = [
        Candidate(name=name, mase=float(found.found.mase[place, 0]), weight=float(found.found.weights[place, 0, -1]))
        for place, name in enumerate(found.found.names)
    ]
    return tuple(sorted(listed, key=lambda one: (one.mase if np.isfinite(one.mase) else np.inf, one.name)))


def _naive(found: Procedure) -> float:
    name = "last season" if "last season" in found.found.names else "last value"
    return float(found.found.mase[found.found.names.index(name), 0])


def _by_horizon(errors: Floats, values: Floats) -> tuple[float, ...]:
    """Mean absolute errors by horizon as shares of the mean level; only where some are known."""
    level = max(float(np.abs(values).mean()), 1e-12)
    made = []
    for column in np.abs(errors[:-1]).T:
        known = column[np.isfinite(column)]
        if known.size < 2:
            break
        made.append(float(known.mean()) / level)
    return tuple(made)


def _components(past: Past, effects: known_events.EventEffects, season: int) -> Components:
    found = components_of(past.values[0], season)
    if not effects.events and np.allclose(effects.past, 1.0):
        return found
    events = effects.past if found.factors else past.values[0] * (effects.past - 1)
    return replace(found, events=events)


def _target(value: float, outlook: Outlook, path: _Path) -> Target:
    if outlook.measure.kind != "additive" or outlook.measure.level:
        raise RequestError("The target", value, "one of a measure that adds up over the year")
    if outlook.grain is Grain.YEAR:
        raise RequestError("The target", value, "asked for by a shorter period than a year")
    foretold = path.path[0, :-1, 0]
    came = path.values[0, path.origins.ends[:-1]]
    surprises = np.where(foretold > 0, came / np.where(foretold > 0, foretold, 1.0), np.nan)[-24:]
    return target_of(value, outlook.periods, np.array(outlook.history), outlook.ahead, surprises)
