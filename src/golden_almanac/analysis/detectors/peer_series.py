"""The series of a measure, whole and by slice, each slice set against the rest of its parent.

A growing company has no twelve growing regions: what is tested of a slice is how it moves against
its siblings. Shared by the detectors that read series; computed once a survey.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from ...aggregation import PERIOD, Cells, Survey
from ...aggregation.hierarchies import parent_codes
from ...aggregation.measures import Measure
from ...findings import Slice
from ...stats.autocorrelated_fits import Floats, ols
from ...stats.segmented_paths import LEAST_PERIODS, Path, Pooled, Prepared, choose_path, pooled_phi, prepare, stepped_at
from ..row_memory import rows_stand_alone
from ..trading_days import period_weights
from .before_after import series_of_others
from .relative_series import LEAST_EVENTS, against, each_row, eventful, sampling, tested

#: Rows in the median period below which a slice's series is noise and gaps.
LEAST_ROWS = 5.0
#: A slice whose movement, once the slices already told are left out of the rest, is no surer than
#: this, is their mirror image.
MIRROR = 0.01
#: The share of a series' room for error that is given to what the amount per row shows.
_AID = 0.2
#: A path as sure as this needs no other series to show it.
_NO_AID = 1e-7
#: Tests less sure than this are never told; their figures need not be worked out.
UNLIKELY = 0.1


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Series:
    """One series over the complete periods, ready to be tested.

    `own` are the measure's values; `rest` those of the rest of the parent (None for the whole table);
    `y` is what is tested: log, log ratio, or difference; `log` says which. `besides` are slices left
    out of the rest because they move by themselves; `season` are the seasonal columns chosen.
    """

    measure: Measure
    by: str | None
    where: Slice
    parent: Slice
    code: int
    own: Floats
    rest: Floats | None
    y: Floats
    log: bool
    rows: Floats
    reach: float
    path: Path
    implied_by: Slice | None = None
    besides: tuple[Slice, ...] = ()
    season: Floats | None = None


def all_series(survey: Survey) -> list[Series]:
    """Every series worth testing, with its path; computed once and kept with the survey."""
    if "series" not in survey._cache:
        line = survey.timeline
        serieses: list[Series] = []
        if line is not None and line.complete_count >= LEAST_PERIODS:
            for measure in survey.measures:
                whole = _whole(survey, measure)
                if whole is not None:
                    serieses.append(whole)
                parts = [part for column in survey.dimensions for part in _parts(survey, measure, column.name)]
                serieses += _with_paths(survey, parts)
        survey._cache["series"] = serieses
    return survey._cache["series"]  # type: ignore[no-any-return]


def period_numbers(survey: Survey) -> npt.NDArray[np.int64]:
    """Numbers of the complete periods; shape (complete periods,)."""
    line = survey.timeline
    assert line is not None
    return np.arange(line.first, line.last + 1)[line.complete]


def _whole(survey: Survey, measure: Measure) -> Series | None:
    cells = survey.cells(PERIOD)
    assert survey.timeline is not None
    span = survey.timeline.complete
    own = cells.value(measure)[span]
    rows = cells.rows[span]
    if np.isnan(own).any() or np.median(rows) < 1:
        return None
    if measure.share and min(np.median(own * rows), np.median((1 - own) * rows)) < LEAST_EVENTS:
        return None
    worth = period_weights(survey, measure)
    y, log = tested(measure, own if worth is None else own / worth, None)
    if not np.ptp(y) > 0:
        return None
    prepared = prepare(survey.timeline.grain, period_numbers(survey), y)
    return Series(
        measure=measure,
        by=None,
        where=Slice(),
        parent=Slice(),
        code=-1,
        own=own,
        rest=None,
        y=y,
        log=log,
        rows=rows,
        reach=1.0,
        path=choose_path(
            prepared, sampling=sampling(cells, measure, span, log) if rows_stand_alone(survey, measure) else None
        ),
    )


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Part:
    measure: Measure
    by: str
    label: str | None
    code: int
    parent: Slice
    own: Floats
    rest: Floats
    y: Floats
    log: bool
    rows: Floats
    reach: float
    family: tuple[int, ...]
    each_row: Floats | None = None
    sampling: float | None = None


def _parts(survey: Survey, measure: Measure, by: str) -> Iterator[_Part]:
    if measure.kind == "other":
        return
    line = survey.timeline
    assert line is not None
    cells = survey.cells(by, PERIOD)
    span = line.complete
    for family, parent in families(survey, by):
        # A label that begins or ends on the way would make all its siblings seem to fall or rise.
        steady = [code for code in family if cells.rows[code, span].min() >= 1]
        for code in steady:
            rows = cells.rows[code, span]
            # One row a period throughout is a table already added up, not a thin one.
            thin = np.median(rows) < LEAST_ROWS and np.ptp(rows) > 0
            if thin or not eventful(measure, cells, code, span):
                continue
            rest_codes = [other for other in steady if other != code]
            if not rest_codes:
                continue
            series = against(cells, measure, code, rest_codes, span)
            if series is None:
                continue
            own, rest, y, log = series
            yield _Part(
                measure=measure,
                by=by,
                label=cells.labels[0][code],
                code=code,
                parent=parent,
                own=own,
                rest=rest,
                y=y,
                log=log,
                rows=rows,
                reach=reach(survey, cells, measure, code),
                family=tuple(steady),
                each_row=each_row(cells, measure, code, rest_codes, span) if log else None,
                sampling=sampling(cells, measure, span, log, ([code], rest_codes))
                if rows_stand_alone(survey, measure)
                else None,
            )


def all_others(survey: Survey, series: Series) -> Floats | None:
    """What the rest of the parent did, period by period, as whoever adds up all the others finds it: those that begin
    or end on the way among them, which no test is made against. None for the whole table."""
    if series.rest is None:
        return None
    others = series_of_others(survey, series.measure, series.where, series.parent, series.besides)
    return others if np.isfinite(others).all() else series.rest


def families(survey: Survey, by: str) -> list[tuple[list[int], Slice]]:
    """The labels of a dimension that are siblings: those of one parent label, or all of them.

    A label alone in its family is the same rows as its parent, and is left out.
    """
    told = survey.told(by)
    above = survey.parents.get(by)
    if above is None:
        every = [int(code) for code in np.flatnonzero(told)]
        return [(every, Slice())] if len(every) > 1 else []
    up = parent_codes(survey.table, by, above)
    slices = []
    for code, label in enumerate(survey.labels(above)):
        family = [int(child) for child in np.flatnonzero((up == code) & told)]
        if len(family) > 1:
            slices.append((family, Slice(((above, label),))))
    return slices


def reach(survey: Survey, cells: Cells, measure: Measure, code: int) -> float:
    """The share of the whole that a slice makes: of the measure if it adds up, else of the rows."""
    if measure.additive:
        by_code = cells.linear(measure.top).sum(axis=tuple(range(1, cells.rows.ndim)))
        whole = float(np.abs(by_code).sum())
        return float(abs(by_code[code]) / whole) if whole else 0.0
    rows = cells.rows.sum(axis=tuple(range(1, cells.rows.ndim)))
    return float(rows[code] / rows.sum()) if rows.sum() else 0.0


def _with_paths(survey: Survey, parts: list[_Part]) -> list[Series]:
    line = survey.timeline
    assert line is not None
    numbers = period_numbers(survey)
    prepared = [prepare(line.grain, numbers, part.y) for part in parts]
    phi = pooled_phi(prepared)
    each_row = [None if part.each_row is None else prepare(line.grain, numbers, part.each_row) for part in parts]
    row_phi = pooled_phi([one for one in each_row if one is not None])
    found = [
        replace(_series(part, _path(one, phi, aid, row_phi, part.sampling)), season=one.season)
        for part, one, aid in zip(parts, prepared, each_row, strict=True)
    ]
    return _mirrors(survey, parts, found, phi)


def _path(
    prepared: Prepared, phi: Pooled | None, each_row: Prepared | None, row_phi: Pooled | None, sampling: float | None
) -> Path:
    """The path of a series; a step in the amount per row, less noisy than the sum, also shows where to look.

    Its place is then known from elsewhere: the sum must only agree there. Looking twice is paid for by weights.
    """
    path = choose_path(prepared, phi, sampling)
    if each_row is None:
        return path
    path = replace(path, p=min(1.0, path.p / (1 - _AID)))
    if path.p <= _NO_AID or path.p >= UNLIKELY:
        return path
    aid = choose_path(each_row, row_phi)
    if aid.shape != "step" or aid.p > MIRROR:
        return path
    there = stepped_at(prepared, aid.start, path.phi)
    p = min(1.0, max(aid.p, there.p) / _AID)
    return replace(there, p=p) if p < path.p and there.jump * aid.jump > 0 else path


def _series(part: _Part, path: Path) -> Series:
    where = Slice(((part.by, part.label),))
    return Series(
        measure=part.measure,
        by=part.by,
        where=where,
        parent=part.parent,
        code=part.code,
        own=part.own,
        rest=part.rest,
        y=part.y,
        log=part.log,
        rows=part.rows,
        reach=part.reach,
        path=path,
    )


def _mirrors(survey: Survey, parts: list[_Part], serieses: list[Series], phi: Pooled | None) -> list[Series]:
    """Tell the slices that move by themselves from those that only mirror them.

    When one of three regions grows, the other two lose share; and when two of four grow, each hides
    the other. So the surest slice is named first, its siblings are tested again without it, and so on
    until those left no longer move against each other. A slice first seen in a later round is set against
    the siblings that are left, and its p-value pays for the rounds.
    """
    result = list(serieses)
    families_found: dict[tuple[str, str, tuple[int, ...]], list[int]] = {}
    for place, part in enumerate(parts):
        families_found.setdefault((part.measure.name, part.by, part.family), []).append(place)
    for places in families_found.values():
        leaders: list[int] = []
        current = {place: serieses[place] for place in places}
        while True:
            moving = sorted((p for p in current if current[p].path.p <= MIRROR), key=lambda p: (current[p].path.p, p))
            if not moving or len(leaders) >= len(places) - 1:
                break
            # Whom to name first: the one of the three surest that leaves the fewest of them still moving; of such the
            # one that itself moved, rather than the one that stood still while others did.
            near = moving[:3]
            left = {
                p: sum(
                    _still_moves(survey, parts, [*leaders, p], q, current[q], phi, serieses[q].season)
                    for q in near
                    if q != p
                )
                for p in near
            }
            leader = min(near, key=lambda p: (left[p], _stands_still(current[p]), current[p].path.p, p))
            leaders.append(leader)
            result[leader] = current.pop(leader)
            again = {p: _without(survey, parts, leaders, p, phi, serieses[p].season) for p in current}
            current = {p: one for p, one in again.items() if one is not None}
        for place in places:
            if leaders and place not in leaders and serieses[place].path.p <= MIRROR:
                first = Slice(((parts[leaders[0]].by, parts[leaders[0]].label),))
                result[place] = replace(serieses[place], implied_by=first)
    return result


def _stands_still(series: Series) -> bool:
    """Whether a slice's own movement is less than half of that against its siblings."""
    own = np.log(series.own) if series.log else series.own
    n, place = own.size, series.path.start
    time = np.arange(n, dtype=np.float64)
    seasonal = np.empty((n, 0)) if series.season is None else series.season
    claimed = {
        "line": [time],
        "step": [(time >= place).astype(np.float64)],
        "bend": [np.maximum(time - place, 0.0), np.minimum(time, place)],
    }[series.path.shape]
    design = np.column_stack([np.ones(n), *claimed, seasonal])
    moved, against = (float(ols(design, values).beta[1]) for values in (own, series.y))
    return moved * against < 0.5 * against * against


def _without(
    survey: Survey, parts: list[_Part], leaders: list[int], place: int, phi: Pooled | None, season: Floats | None
) -> Series | None:
    """A slice against its siblings without the leaders; its p-value times the number of looks."""
    part, line = parts[place], survey.timeline
    assert line is not None
    gone = [parts[leader].code for leader in leaders]
    rest = [code for code in part.family if code != part.code and code not in gone]
    again = against(survey.cells(part.by, PERIOD), part.measure, part.code, rest, line.complete) if rest else None
    if again is None:
        return None
    own, rest_values, y, log = again
    path = choose_path(prepare(line.grain, period_numbers(survey), y, season), phi, part.sampling)
    path = replace(path, p=min(1.0, path.p * (len(leaders) + 1)))
    besides = tuple(Slice(((part.by, survey.labels(part.by)[code]),)) for code in gone)
    return replace(_series(part, path), own=own, rest=rest_values, y=y, log=log, besides=besides, season=season)


def _still_moves(
    survey: Survey,
    parts: list[_Part],
    leaders: list[int],
    place: int,
    now: Series,
    phi: Pooled | None,
    season: Floats | None,
) -> bool:
    again = _without(survey, parts, leaders, place, phi, season)
    if again is None or again.path.p > MIRROR:
        return False
    return bool(np.sign(again.path.slope + again.path.jump) == np.sign(now.path.slope + now.path.jump))
