"""The series of a measure, whole and by slice, each slice set against the rest of its parent.

A growing company has no twelve growing regions: what is tested of a slice is how it moves against
its siblings. Shared by the detectors that read series; computed once a survey.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from ...aggregation import PERIOD, Survey
from ...aggregation.measures import Measure
from ...findings import Slice
from ...stats.autocorrelated_fits import Floats, ols
from ...stats.segmented_paths import CALM, LEAST_PERIODS, Path, choose_path, choose_paths, stepped_at
from ...stats.series_batch import Batch, Pooled, pooled_memory, prepare
from ..known_series import known_of, known_series, period_numbers
from ..row_memory import rows_stand_alone
from ..trading_days import period_weights
from .before_after import series_of_others
from .families import families, shares_of_whole
from .relative_series import LEAST_EVENTS, against_each, each_row, eventful, sampling, sampling_each, tested

#: Rows in the median period below which a slice's series is noise and gaps.
LEAST_ROWS = 5.0
#: A slice whose movement, once the slices already told are left out of the rest, is no surer than
#: this, is their mirror image.
MIRROR = 0.01
#: The share of a series' room for error that is given to what the amount per row shows.
_AID = 0.2
#: A path as sure as this needs no other series to show it.
_NO_AID = 1e-7
#: A slice that left the middle so many times farther than the other surest ones did is named first.
_CLEARLY = 3.0
#: A leader that makes less of its family than this leaves those calm that were.
_SMALL_LEADER = 0.05
#: Tests less sure than this are never told; their figures need not be worked out.
UNLIKELY = 0.1


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Series:
    """One series over the complete periods, ready to be tested.

    `own` are the measure's values, NaN in holes; `rest` those of the rest of the parent (None for the whole table);
    `y` is what is tested, holes filled: log, log ratio, or difference; `log` says which. `besides` are slices left
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


def _whole(survey: Survey, measure: Measure) -> Series | None:
    cells = survey.cells(PERIOD)
    assert survey.timeline is not None
    every = cells.value(measure)
    periods = known_series(survey) if measure.kind not in ("mean", "ratio") else known_of(survey, every)
    if periods is None:
        return None
    own, rows = every[periods.span], cells.rows[periods.span]
    if own.size < LEAST_PERIODS or np.isnan(own).any() or np.median(rows) < 1:
        return None
    if measure.share and min(np.median(own * rows), np.median((1 - own) * rows)) < LEAST_EVENTS:
        return None
    worth = period_weights(survey, measure)
    y, log = tested(measure, own if worth is None else own / worth[periods.known], None)
    if not np.ptp(y) > 0:
        return None
    y = periods.filled(y)
    prepared = prepare(survey.timeline.grain, period_numbers(survey), y)
    return Series(
        measure=measure,
        by=None,
        where=Slice(),
        parent=Slice(),
        code=-1,
        own=periods.spread(own),
        rest=None,
        y=y,
        log=log,
        rows=cells.rows[survey.timeline.complete],
        reach=1.0,
        path=choose_path(
            prepared,
            sampling=sampling(cells, measure, periods.span, log) if rows_stand_alone(survey, measure) else None,
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
    sampling: float = np.nan


def _parts(survey: Survey, measure: Measure, by: str) -> Iterator[_Part]:
    if measure.kind == "other":
        return
    line = survey.timeline
    assert line is not None
    cells = survey.cells(by, PERIOD)
    periods = known_series(survey)
    span = periods.span
    if np.count_nonzero(periods.known) < LEAST_PERIODS:
        return
    reaches = shares_of_whole(survey, cells, measure)
    for family, parent in families(survey, by):
        # A label that begins or ends on the way would make all its siblings seem to fall or rise.
        steady = [code for code in family if cells.rows[code, span].min() >= 1]
        if len(steady) < 2:
            continue
        rows = cells.rows[steady][:, span]
        # One row a period throughout is a table already added up, not a thin one.
        thin = (np.median(rows, axis=1) < LEAST_ROWS) & (np.ptp(rows, axis=1) > 0)
        found = against_each(cells, measure, steady, span)
        per_row = each_row(cells, measure, steady, span)
        own, rest, y = periods.spread(found.own), periods.spread(found.rest), periods.filled(found.y)
        per_row = None if per_row is None else periods.filled(per_row)
        variance = sampling_each(cells, measure, steady, span, found.log) if rows_stand_alone(survey, measure) else None
        for at, code in enumerate(steady):
            if thin[at] or not found.usable[at] or not eventful(measure, cells, code, span):
                continue
            mine = None if per_row is None or not found.log[at] else per_row[at]
            yield _Part(
                measure=measure,
                by=by,
                label=cells.labels[0][code],
                code=code,
                parent=parent,
                own=own[at],
                rest=rest[at],
                y=y[at],
                log=bool(found.log[at]),
                rows=cells.rows[code, line.complete],
                reach=float(reaches[code]),
                family=tuple(steady),
                each_row=None if mine is None or np.isnan(mine).any() else mine,
                sampling=np.nan if variance is None else float(variance[at]),
            )


def all_others(survey: Survey, series: Series) -> Floats | None:
    """What the rest of the parent did, period by period, as whoever adds up all the others finds it: those that begin
    or end on the way among them, which no test is made against. None for the whole table."""
    if series.rest is None:
        return None
    others = series_of_others(survey, series.measure, series.where, series.parent, series.besides)
    periods = known_series(survey)
    others = np.where(periods.known, others, np.nan)
    return others if np.isfinite(others[periods.known]).all() else series.rest


def _with_paths(survey: Survey, parts: list[_Part]) -> list[Series]:
    """The series of one measure, with their paths."""
    line = survey.timeline
    assert line is not None
    if not parts:
        return []
    numbers = period_numbers(survey)
    batch = prepare(line.grain, numbers, np.stack([part.y for part in parts]))
    sampling = np.array([part.sampling for part in parts])
    phi = pooled_memory(batch, sampling)
    paths = choose_paths(batch, phi, sampling)
    paths = _aided(survey, parts, batch, paths)
    found = [
        replace(_series(part, path), season=batch.season(place))
        for place, (part, path) in enumerate(zip(parts, paths, strict=True))
    ]
    return _mirrors(survey, parts, found, batch, phi)


def _aided(survey: Survey, parts: list[_Part], batch: Batch, paths: list[Path]) -> list[Path]:
    """The paths of series; a step in the amount per row, less noisy than the sum, also shows where to look.

    Its place is then known from elsewhere: the sum must only agree there. Looking twice is paid for by weights.
    """
    line = survey.timeline
    assert line is not None
    per_row = {place: part.each_row for place, part in enumerate(parts) if part.each_row is not None}
    if not per_row:
        return paths
    told = list(per_row)
    rows = prepare(line.grain, period_numbers(survey), np.stack(list(per_row.values())))
    row_phi = pooled_memory(rows)
    paths = list(paths)
    for place in told:
        paths[place] = replace(paths[place], p=min(1.0, paths[place].p / (1 - _AID)))
    looked = [at for at, place in enumerate(told) if _NO_AID < paths[place].p < UNLIKELY]
    if not looked:
        return paths
    for at, aid in zip(looked, choose_paths(rows.at(np.array(looked)), row_phi), strict=True):
        place = told[at]
        if aid.shape != "step" or aid.p > MIRROR:
            continue
        there = stepped_at(batch, place, aid.start, paths[place].phi)
        p = min(1.0, max(aid.p, there.p) / _AID)
        if p < paths[place].p and there.jump * aid.jump > 0:
            paths[place] = replace(there, p=p)
    return paths


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


def _mirrors(
    survey: Survey, parts: list[_Part], serieses: list[Series], batch: Batch, phi: Pooled | None
) -> list[Series]:
    """Tell the slices that move by themselves from those that only mirror them.

    When one of three regions grows, the other two lose share; and when two of four grow, each hides
    the other. So the surest slice is named first, its siblings are tested again without it, and so on
    until those left no longer move against each other. A slice first seen in a later round is set against
    the siblings that are left, and its p-value pays for the rounds.
    """
    result = list(serieses)
    families_found: dict[tuple[str, tuple[int, ...]], list[int]] = {}
    for place, part in enumerate(parts):
        families_found.setdefault((part.by, part.family), []).append(place)
    for places in families_found.values():
        rounds = _Rounds(survey, parts, batch, phi)
        together = sum(parts[place].reach for place in places)
        leaders: list[int] = []
        current = {place: serieses[place] for place in places}
        while True:
            moving = sorted((p for p in current if current[p].path.p <= MIRROR), key=lambda p: (current[p].path.p, p))
            if not moving or len(leaders) >= len(places) - 1:
                break
            # Whom to name first: the one of the three surest that leaves the fewest of them still moving; of such the
            # one that itself moved, rather than the one that stood still while others did.
            near = moving[:3]
            leader = _departed({p: current[p] for p in near}, [current[p] for p in current])
            if leader is None:
                left = {p: rounds.still_moving([*leaders, p], {q: current[q] for q in near if q != p}) for p in near}
                leader = min(near, key=lambda p: (left[p], _stands_still(current[p]), current[p].path.p, p))
            named = current.pop(leader)
            if leaders:
                named = rounds.without(leaders, [leader], calibrated=True)[leader]
                if named.path.p > MIRROR:
                    continue
            leaders.append(leader)
            result[leader] = named
            # Without a small one, what was calm stays calm.
            large = parts[leader].reach >= _SMALL_LEADER * together
            again = [p for p in current if large or current[p].path.p <= MIRROR]
            current |= rounds.without(leaders, again)
        for place in places:
            if leaders and place not in leaders and serieses[place].path.p <= MIRROR:
                first = Slice(((parts[leaders[0]].by, parts[leaders[0]].label),))
                result[place] = replace(serieses[place], implied_by=first)
    return result


def _departed(near: dict[int, Series], family: list[Series]) -> int | None:
    """Which of the surest slices left the middle of how all of them moved, clearly farther than the others; None where
    none did. With a large one that slips and a small one that grows fifteenfold, either is the mirror of the other by
    what it leaves behind; it is the small one that went."""
    away: dict[int, float] = {}
    for place, series in near.items():
        if len(family) < 3 or any(one.log != series.log for one in family):
            return None
        moved = np.array([_moved(series, one.own) for one in family])
        weights = np.sqrt(np.array([max(one.reach, 0.0) for one in family]))
        if not np.isfinite(moved).all():
            return None
        order = np.argsort(moved, kind="stable")
        middle = moved[order][np.searchsorted(np.cumsum(weights[order]), weights.sum() / 2)]
        away[place] = abs(_moved(series, series.own) - float(middle))
    first, *others = sorted(away, key=lambda place: (-away[place], place))
    return first if all(away[first] >= _CLEARLY * away[other] for other in others) else None


def _moved(series: Series, values: Floats, *, raw: bool = True) -> float:
    """How far some values, raw or as they are tested, moved in all in the shape that a series claims; its season is
    taken off."""
    with np.errstate(divide="ignore", invalid="ignore"):
        values = np.log(values) if series.log and raw else values
    known = np.isfinite(values)
    n, place = values.size, series.path.start
    time = np.arange(n, dtype=np.float64)
    seasonal = np.empty((n, 0)) if series.season is None else series.season
    claimed = {
        "line": [time],
        "step": [(time >= place).astype(np.float64)],
        "bend": [np.maximum(time - place, 0.0), np.minimum(time, place)],
        "stretch": [np.clip(time - place, 0.0, (series.path.stop or n - 1) - place)],
    }[series.path.shape]
    design = np.column_stack([np.ones(n), *claimed, seasonal])
    if known.sum() <= design.shape[1]:
        return float("nan")
    return float(ols(design[known], values[known]).beta[1]) * float(np.ptp(claimed[0]))


def _stands_still(series: Series) -> bool:
    """Whether a slice's own movement is less than half of that against its siblings."""
    moved, against = _moved(series, series.own), _moved(series, series.y, raw=False)
    return moved * against < 0.5 * against * against


@dataclass(frozen=True, slots=True, eq=False)
class _Rounds:
    """Slices of one family, tested again without those that are named already."""

    survey: Survey
    parts: list[_Part]
    batch: Batch
    phi: Pooled | None

    def without(self, leaders: list[int], places: list[int], *, calibrated: bool = False) -> dict[int, Series]:
        """Each slice against its siblings without the leaders, its p-value times the number of looks; a slice that
        can no longer be set against any is as it was, and sure of nothing."""
        if not places:
            return {}
        survey, line = self.survey, self.survey.timeline
        assert line is not None
        first = self.parts[places[0]]
        gone = {self.parts[leader].code for leader in leaders}
        members = [code for code in first.family if code not in gone]
        cells = survey.cells(first.by, PERIOD)
        periods = known_series(survey)
        found = against_each(cells, first.measure, members, periods.span)
        all_own, all_rest, all_y = periods.spread(found.own), periods.spread(found.rest), periods.filled(found.y)
        at = {code: row for row, code in enumerate(members)}
        rows = np.array([at[self.parts[place].code] for place in places])
        use = found.usable[rows] if len(members) > 1 else np.zeros(rows.size, dtype=bool)
        kept, rows = [place for place, one in zip(places, use, strict=True) if one], rows[use]
        nothing = {
            place: replace(self._before(place), path=CALM) for place, one in zip(places, use, strict=True) if not one
        }
        if not kept:
            return nothing
        own = self.batch.at(np.array(kept))
        again = prepare(line.grain, period_numbers(survey), all_y[rows], (own.designs, own.which))
        sampling = np.array([self.parts[place].sampling for place in kept])
        paths = choose_paths(again, self.phi, sampling, calibrated=calibrated)
        labels = survey.labels(first.by)
        besides = tuple(Slice(((first.by, labels[self.parts[leader].code]),)) for leader in leaders)
        looks = len(leaders) + 1
        return nothing | {
            place: replace(
                self._before(place, replace(path, p=min(1.0, path.p * looks))),
                own=all_own[row],
                rest=all_rest[row],
                y=all_y[row],
                log=bool(found.log[row]),
                besides=besides,
                season=own.season(number),
            )
            for number, (place, row, path) in enumerate(zip(kept, rows, paths, strict=True))
        }

    def still_moving(self, leaders: list[int], others: dict[int, Series]) -> int:
        """How many of the others still move the same way without the leaders."""
        again = self.without(leaders, list(others))
        return sum(
            one.path.p <= MIRROR and np.sign(one.path.slope + one.path.jump) == np.sign(now.path.slope + now.path.jump)
            for one, now in ((again[place], now) for place, now in others.items())
        )

    def _before(self, place: int, path: Path | None = None) -> Series:
        return _series(self.parts[place], path or CALM)
