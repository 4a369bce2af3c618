"""Series that stepped twice: two stories in one slice, at different dates."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np

from ...aggregation import Survey
from ...findings import Slice
from ...stats.segmented_paths import Path
from ...stats.series_batch import Batch, Pooled, pooled_memory, prepare, seasonal_part
from ...stats.step_pairs import StepPair, best_step_pairs
from ..known_series import period_numbers
from .peer_series import all_series
from .tested_series import MIRROR, Series

#: Of the pair of steps, the less sure one must be as sure as this to be told.
_SURE = 0.01
#: By so much more than their parameters the two steps must lower the information criterion (Schwarz 1978).
_MARGIN = 6.0


class Step(NamedTuple):
    """One of the two steps of a series, its place in `series.path`, and the places between which levels are told."""

    series: Series
    first: int
    last: int

    @property
    def sure(self) -> bool:
        return self.series.path.p <= _SURE


def stepped_twice(survey: Survey) -> list[Step]:
    """The steps of series that two steps fit far better than one line, bend or step does, of the surest series of each
    family (what its siblings then show is its mirror image): both steps where they are sure, else one that tells that
    it was looked for. Made once a survey."""
    if "step pairs" not in survey._cache:
        survey._cache["step pairs"] = _stepped_twice(survey)
    return survey._cache["step pairs"]  # type: ignore[no-any-return]


def told_by_two(survey: Survey) -> frozenset[tuple[str, Slice]]:
    """The series, by measure and slice, of which two steps are told: no line, bend or single step is."""
    return frozenset((one.series.measure.name, one.series.where) for one in stepped_twice(survey) if one.sure)


def _stepped_twice(survey: Survey) -> list[Step]:
    line = survey.timeline
    looked_at = [series for series in all_series(survey) if series.implied_by is None]
    if line is None or not looked_at:
        return []
    batch = prepare(line.grain, period_numbers(survey), np.stack([series.y for series in looked_at]))
    # As in the first look, the parts of a measure know together how long they remember.
    of_measure: dict[str, list[int]] = {}
    for at, one in enumerate(looked_at):
        if one.by is not None:
            of_measure.setdefault(one.measure.name, []).append(at)
    memory = {name: pooled_memory(batch.at(np.array(places))) for name, places in of_measure.items()}
    pooled = [None if one.by is None else memory[one.measure.name] for one in looked_at]
    looked: dict[tuple[str, str | None, str], list[tuple[Series, StepPair]]] = {}
    for series, found in zip(looked_at, _pairs(batch, pooled), strict=True):
        if found is not None and _far_better(series, found):
            looked.setdefault((series.measure.name, series.by, series.parent.label), []).append((series, found))
    made = []
    for family in looked.values():
        series, pair = min(family, key=lambda one: one[1].p)
        # The surest of a family pays for the others.
        pair = pair._replace(p=min(1.0, pair.p * len(family)))
        # What is not sure of either counts as one test.
        made += _steps(series, pair)[: 2 if pair.p <= _SURE else 1]
    return made


def _pairs(batch: Batch, pooled: Sequence[Pooled | None]) -> list[StepPair | None]:
    """The surest pair of steps of each series of a batch, its season taken off."""
    found: list[StepPair | None] = [None] * batch.count
    for season, places in batch.groups():
        values = batch.calm[places] - seasonal_part(batch.calm[places], season)
        for place, pair in zip(
            places, best_step_pairs(values, season, [pooled[int(place)] for place in places]), strict=True
        ):
            found[int(place)] = pair
    return found


def _far_better(series: Series, pair: StepPair) -> bool:
    """Whether two steps leave far less of a series than what is told of it; anything does where nothing is."""
    path, n = series.path, series.y.size
    if path.p > MIRROR or not path.noise > 0 or not pair.noise > 0:
        return path.p > MIRROR
    return 2 * n * float(np.log(path.noise / pair.noise)) > 3 * float(np.log(n)) + _MARGIN


def _steps(series: Series, pair: StepPair) -> list[Step]:
    a, b = pair.places
    made = []
    for at, (first, last) in enumerate(((0, b - 1), (a, series.y.size - 1))):
        path = Path(
            shape="step",
            start=pair.places[at],
            slope=0.0,
            jump=pair.jumps[at],
            p=pair.p,
            error=pair.errors[at],
            df=pair.df,
            noise=pair.noise,
            phi=pair.phi,
            statistic=pair.statistics[at],
            season=series.path.season,
        )
        made.append(Step(replace(series, path=path), first, last))
    return made
