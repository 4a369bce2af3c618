"""What several implications look at: slices put together, and whether what is left of a movement goes on."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from ...aggregation import PERIOD, Survey
from ...aggregation.measures import Measure
from ...findings import Finding, Slice
from ...stats.segmented_paths import choose_paths
from ...stats.series_batch import Pooled, prepare
from ..detectors.divergence import off_path
from ..detectors.relative_series import against
from ..detectors.tested_series import MIRROR
from ..known_series import known_series


def goes_on(survey: Survey, finding: Finding, y: Any) -> bool:
    """Whether a finding's claim still shows in a series, shape (known periods,), the same way round."""
    return go_on(survey, finding.definition.movement == "departure", [finding.direction], np.atleast_2d(y))[0]


def go_on(survey: Survey, departures: bool, directions: Sequence[str | None], y: Any) -> list[bool]:
    """Whether claims still show in series, shape (series, known periods), each the same way round as before; all are
    `departures`, or all paths."""
    line = survey.timeline
    assert line is not None
    periods = known_series(survey)
    prepared = prepare(line.grain, periods.numbers, periods.filled(y))
    signs = [1.0 if direction == "up" else -1.0 for direction in directions]
    if departures:
        found = [off_path(own, prepared.season(at), [], 0.0) for at, own in enumerate(prepared.y)]
        return [p <= MIRROR and gap * sign > 0 for (p, gap), sign in zip(found, signs, strict=True)]
    paths = choose_paths(prepared, Pooled(phi=0.0, belief=1.0), calibrated=False)
    return [path.p <= MIRROR and (path.slope + path.jump) * sign > 0 for path, sign in zip(paths, signs, strict=True)]


def moving(first: Finding, second: Finding) -> bool:
    """True when both speak of movements that began at about the same time."""
    if first.definition.movement == second.definition.movement == "departure":
        return first.period == second.period
    paths = first.definition.movement == second.definition.movement == "path"
    if not paths or first.period is None or second.period is None:
        return False
    apart = abs(int((first.period.start - second.period.start).astype(np.int64)))
    return apart <= 0.2 * max(first.period.days, second.period.days)


def put_together(survey: Survey, measure: Measure, by: str, inside: list[int], outside: list[int]) -> Any:
    """The tested series of several labels taken together against several others."""
    cells = survey.cells(by, PERIOD)

    def fold(terms: Any) -> Any:
        values = cells.linear(terms)[:, known_series(survey).span]
        return [values[codes].sum(axis=0) for codes in (inside, outside)]

    series = against(measure, fold(measure.top), fold(measure.bottom) if measure.bottom else None)
    return None if series is None else series[2]


def label(where: Slice) -> str | None:
    return where.conditions[0][1]
