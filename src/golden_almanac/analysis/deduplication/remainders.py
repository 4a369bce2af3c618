"""What several implications look at: slices put together, and whether what is left of a movement goes on."""

from __future__ import annotations

from collections.abc import Generator, Iterable, Sequence
from typing import Any, NamedTuple, TypeVar

import numpy as np

from ...aggregation import PERIOD, Survey
from ...aggregation.measures import Measure
from ...findings import Finding, Slice
from ...stats.autocorrelated_fits import Floats
from ...stats.segmented_paths import choose_paths
from ...stats.series_batch import Pooled, prepare
from ...support.side_by_side import side_by_side
from ..detectors.divergence import off_path
from ..detectors.relative_series import against
from ..detectors.tested_series import MIRROR
from ..known_series import known_series

One = TypeVar("One")


class Remainder(NamedTuple):
    """What is left of a movement: a series, shape (known periods,), in which a departure of the last periods is looked
    for, or else a path; `memory` as `choose_paths` has it for siblings."""

    y: Floats
    departure: bool = False
    memory: Pooled | None = Pooled(phi=0.0, belief=1.0)


#: Something that is decided by remainders: asks which way each still moves, is told 1, −1, or 0 where it does not.
Deciding = Generator[list[Remainder], list[float], One]


def decided(survey: Survey, jobs: Iterable[Deciding[One]]) -> list[One]:
    """What each job decides; the remainders that all of them ask for are looked at together, each once."""
    return side_by_side(jobs, lambda asked: _ways(survey, asked))


def goes_on(finding: Finding, y: Floats) -> Deciding[bool]:
    """Whether a finding's claim still shows in a series, shape (known periods,), the same way round."""
    (way,) = yield [remainder(finding, y)]
    return same_way(finding, way)


def remainder(finding: Finding, y: Floats) -> Remainder:
    return Remainder(y, departure=finding.definition.movement == "departure")


def same_way(finding: Finding, way: float) -> bool:
    return way == (1.0 if finding.direction == "up" else -1.0)


def _ways(survey: Survey, asked: Sequence[Remainder]) -> list[float]:
    known: dict[tuple[Any, ...], float] = survey._cache.setdefault("remainders", {})
    keys = [(one.y.tobytes(), one.departure, one.memory) for one in asked]
    new = {key: one for key, one in zip(keys, asked, strict=True) if key not in known}
    for departures in (True, False):
        some = {key: one for key, one in new.items() if one.departure == departures}
        if some:
            known |= zip(some, _moving(survey, list(some.values()), departures), strict=True)
    return [known[key] for key in keys]


def _moving(survey: Survey, asked: Sequence[Remainder], departures: bool) -> list[float]:
    periods = known_series(survey)
    prepared = prepare(periods.grain, periods.numbers, periods.filled(np.stack([one.y for one in asked])))
    if departures:
        found = [off_path(own, prepared.season(at), [], 0.0) for at, own in enumerate(prepared.y)]
    else:
        paths = choose_paths(prepared, [one.memory for one in asked], calibrated=False)
        found = [(path.p, path.slope + path.jump) for path in paths]
    return [float(np.sign(far)) if p <= MIRROR else 0.0 for p, far in found]


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
