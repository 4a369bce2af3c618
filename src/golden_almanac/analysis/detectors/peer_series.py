"""The series of a measure, whole and by slice, each slice set against the rest of its parent.

A growing company has no twelve growing regions: what is tested of a slice is how it moves against
its siblings. Shared by the detectors that read series; computed once a survey.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np
import numpy.typing as npt

from ...aggregation import PERIOD, Cells, Survey
from ...aggregation.measures import Measure
from ...findings import Slice
from ...stats.autocorrelated_fits import Floats
from ...stats.false_discovery import UNLIKELY, worth_a_look
from ...stats.segmented_paths import LEAST_PERIODS, Path, choose_path, choose_paths, stepped_at
from ...stats.series_batch import Batch, Pooled, pooled_memory, prepare
from ..known_series import Span, known_of, known_series, period_numbers
from ..row_memory import rows_stand_alone
from ..trading_days import period_weights
from .before_after import series_of_others
from .families import families, shares_of_whole
from .relative_series import LEAST_EVENTS, Relatives, against_all, each_row, eventful, sampling, sampling_each, tested
from .sibling_rounds import without_mirrors
from .tested_series import MIRROR, Part, Series, with_path

#: Rows in the median period below which a slice's series is noise and gaps.
LEAST_ROWS = 5.0
#: The share of a series' room for error that is given to what the amount per row shows.
_AID = 0.2
#: A path as sure as this needs no other series to show it.
_NO_AID = 1e-7


def all_series(survey: Survey) -> list[Series]:
    """Every series worth testing, with its path; computed once and kept with the survey."""
    if "series" not in survey._cache:
        line = survey.timeline
        serieses: list[Series] = []
        if line is not None and line.complete_count >= LEAST_PERIODS:
            parts: dict[Measure, list[Part]] = {measure: [] for measure in survey.measures}
            for column in survey.dimensions:
                for part in _parts(survey, column.name):
                    parts[part.measure].append(part)
            sliced = iter(_with_paths(survey, list(parts.values())))
            for measure, of_measure in parts.items():
                whole = _whole(survey, measure)
                serieses += [] if whole is None else [whole]
                serieses += [next(sliced) for _ in of_measure]
        survey._cache["series"] = serieses
    return survey._cache["series"]  # type: ignore[no-any-return]


def unlikely(survey: Survey) -> float:
    """The p-value from which the path of a slice can no longer be told, so many as there are."""
    return worth_a_look(sum(one.by is not None for one in all_series(survey)))


def _whole(survey: Survey, measure: Measure) -> Series | None:
    cells = survey.cells(PERIOD)
    assert survey.timeline is not None
    every = cells.value(measure)
    periods = known_series(survey) if measure.kind not in ("mean", "ratio") else known_of(survey, every)
    if periods is None or periods.mostly_holes:
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


def _parts(survey: Survey, by: str) -> Iterator[Part]:
    """The slices by a dimension of all measures, family by family."""
    measures = [one for one in survey.measures if one.kind != "other"]
    periods = known_series(survey)
    if not measures or np.count_nonzero(periods.known) < LEAST_PERIODS or periods.mostly_holes:
        return
    cells, span = survey.cells(by, PERIOD), periods.span
    for family, parent in families(survey, by):
        for there, alike in _steady(cells, measures, family, span).items():
            steady = list(there)
            if len(steady) < 2:
                continue
            rows = cells.rows[steady][:, span]
            # One row a period throughout is a table already added up, not a thin one.
            thin = (np.median(rows, axis=1) < LEAST_ROWS) & (np.ptp(rows, axis=1) > 0)
            if thin.all():
                continue
            found = against_all(cells, alike, steady, span)
            per_row = each_row(cells, alike, steady, span)
            variance = sampling_each(cells, alike, steady, span, [one.log for one in found])
            for at, measure in enumerate(alike):
                alone = rows_stand_alone(survey, measure)
                yield from _of_family(
                    survey, by, parent, measure, steady, thin, found[at], per_row[at], variance[at] if alone else None
                )


def _steady(
    cells: Cells, measures: Sequence[Measure], family: Sequence[int], span: Span
) -> dict[tuple[int, ...], list[Measure]]:
    """The labels of a family that are there in every period, with the measures that they are there for.

    A label that begins or ends on the way would make all its siblings seem to fall or rise; one whose rows have no
    value for a while says nothing of what it was then, least of all that it was nought.
    """
    here = [code for code in family if cells.rows[code, span].min() >= 1]
    found: dict[tuple[int, ...], list[Measure]] = {}
    for measure in measures:
        known = np.ones(len(here), dtype=bool)
        if measure.additive:
            known &= cells.known(measure.top)[here][:, span].all(axis=1)
        found.setdefault(tuple(code for code, kept in zip(here, known, strict=True) if kept), []).append(measure)
    return found


def _of_family(
    survey: Survey,
    by: str,
    parent: Slice,
    measure: Measure,
    steady: Sequence[int],
    thin: npt.NDArray[np.bool_],
    found: Relatives,
    per_row: Floats | None,
    variance: Floats | None,
) -> Iterator[Part]:
    """The slices of one family and measure that can be tested: not `thin`, and eventful enough."""
    line = survey.timeline
    assert line is not None
    cells, periods = survey.cells(by, PERIOD), known_series(survey)
    own, rest, y = periods.spread(found.own), periods.spread(found.rest), periods.filled(found.y)
    per_row = None if per_row is None else periods.filled(per_row)
    reaches, family = shares_of_whole(survey, cells, measure), tuple(steady)
    for at, code in enumerate(steady):
        if thin[at] or not found.usable[at] or not eventful(measure, cells, code, periods.span):
            continue
        mine = None if per_row is None or not found.log[at] else per_row[at]
        yield Part(
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
            family=family,
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


def _with_paths(survey: Survey, parts_of: Sequence[Sequence[Part]]) -> list[Series]:
    """The series of all measures, whose parts are given one measure after the other, with their paths."""
    line = survey.timeline
    assert line is not None
    parts = [part for those in parts_of for part in those]
    if not parts:
        return []
    batch = prepare(line.grain, period_numbers(survey), np.stack([part.y for part in parts]))
    sampling = np.array([part.sampling for part in parts])
    measures = np.repeat(np.arange(len(parts_of)), [len(those) for those in parts_of])
    pooled = _pooled(batch, measures, sampling)
    paths = _aided(survey, parts, batch, measures, choose_paths(batch, pooled, sampling))
    found = [
        with_path(part, path, batch.season(place)) for place, (part, path) in enumerate(zip(parts, paths, strict=True))
    ]
    return without_mirrors(survey, parts, found, batch, pooled)


def _pooled(batch: Batch, measures: npt.NDArray[np.intp], sampling: Floats | None = None) -> list[Pooled | None]:
    """What the siblings of each series know of it: those of the same measure, numbered in `measures`."""
    known: dict[int, Pooled | None] = {}
    for measure in np.unique(measures):
        places = np.flatnonzero(measures == measure)
        known[int(measure)] = pooled_memory(batch.at(places), None if sampling is None else sampling[places])
    return [known[int(measure)] for measure in measures]


def _aided(
    survey: Survey, parts: Sequence[Part], batch: Batch, measures: npt.NDArray[np.intp], paths: list[Path]
) -> list[Path]:
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
    pooled = _pooled(rows, measures[told])
    paths = list(paths)
    for place in told:
        paths[place] = replace(paths[place], p=min(1.0, paths[place].p / (1 - _AID)))
    looked = [at for at, place in enumerate(told) if _NO_AID < paths[place].p < UNLIKELY]
    if not looked:
        return paths
    aids = choose_paths(rows.at(np.array(looked)), [pooled[at] for at in looked])
    for at, aid in zip(looked, aids, strict=True):
        place = told[at]
        if aid.shape != "step" or aid.p > MIRROR:
            continue
        there = stepped_at(batch, place, aid.start, paths[place].phi)
        p = min(1.0, max(aid.p, there.p) / _AID)
        if p < paths[place].p and there.jump * aid.jump > 0:
            paths[place] = replace(there, p=p)
    return paths
