"""What several implications look at: slices put together, and whether what is left of a movement goes on."""

from __future__ import annotations

from typing import Any

import numpy as np

from ...aggregation import PERIOD, Cells, PartCells, Survey
from ...aggregation.measures import Measure
from ...findings import Finding, Slice
from ...stats.segmented_paths import choose_paths
from ...stats.series_batch import Pooled, prepare
from ..detectors.divergence import off_path
from ..detectors.peer_series import MIRROR, period_numbers
from ..detectors.relative_series import against


def goes_on(survey: Survey, finding: Finding, y: Any) -> bool:
    """Whether a finding's claim still shows in a series, the same way round."""
    line = survey.timeline
    assert line is not None
    sign = 1.0 if finding.direction == "up" else -1.0
    prepared = prepare(line.grain, period_numbers(survey), y)
    if finding.definition.movement == "departure":
        p, gap = off_path(prepared.y[0], prepared.season(), [], 0.0)
        return p <= MIRROR and gap * sign > 0
    path = choose_paths(prepared, Pooled(phi=0.0, belief=1.0), calibrated=False)[0]
    return path.p <= MIRROR and (path.slope + path.jump) * sign > 0


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
    order = [inside, outside]

    def fold(array: Any) -> Any:
        return np.stack([array[codes].sum(axis=0) for codes in order])

    parts = {
        part: PartCells(count=fold(one.count), total=fold(one.total), squares=fold(one.squares))
        for part, one in cells.parts.items()
    }
    both = Cells(keys=cells.keys, labels=(("inside", "outside"), cells.labels[1]), rows=fold(cells.rows), parts=parts)
    assert survey.timeline is not None
    series = against(both, measure, 0, [1], survey.timeline.complete)
    return None if series is None else series[2]


def label(where: Slice) -> str | None:
    return where.conditions[0][1]
