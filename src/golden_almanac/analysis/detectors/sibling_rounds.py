"""Slices that move by themselves told from those that only mirror them.

When one of three regions grows, the other two lose share; and when two of four grow, each hides the other. So the
surest slice of a family is named first, its siblings are tested again without it, and so on until those left no longer
move against each other. All families take their rounds side by side, so that each round is one batch of series.
"""

from __future__ import annotations

from collections.abc import Generator, Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np

from ...aggregation import PERIOD, Survey
from ...findings import Slice
from ...stats.autocorrelated_fits import Floats, ols
from ...stats.segmented_paths import CALM, choose_paths
from ...stats.series_batch import Batch, Pooled, prepare
from ...support.side_by_side import side_by_side
from ..known_series import known_series, period_numbers
from .relative_series import against_each
from .tested_series import MIRROR, Part, Series, with_path

#: A slice that left the middle so many times farther than the other surest ones did is named first.
_CLEARLY = 3.0
#: A leader that makes less of its family than this leaves those calm that were.
_SMALL_LEADER = 0.05
#: So many of the surest slices may be named first.
_NEAR = 3


class _Look(NamedTuple):
    """Slices of a family, by their places, to be tested again without its leaders; `calibrated` as `choose_paths` has
    it."""

    leaders: Sequence[int]
    places: Sequence[int]
    calibrated: bool = False


#: The rounds of one family: asks for looks, gets the series of each, and returns those that lead, as they were named.
_Rounds = Generator[list[_Look], list[dict[int, Series]], dict[int, Series]]


def without_mirrors(
    survey: Survey, parts: Sequence[Part], serieses: Sequence[Series], batch: Batch, pooled: Sequence[Pooled | None]
) -> list[Series]:
    """The series of all parts, those that lead as they move without earlier leaders, and those that only mirror one
    marked as implied by it. `pooled` is what the siblings of each know."""
    families: dict[tuple[str, str, tuple[int, ...]], list[int]] = {}
    for place, part in enumerate(parts):
        families.setdefault((part.measure.name, part.by, part.family), []).append(place)
    again = _Again(survey, parts, batch, pooled)
    leading: dict[int, Series] = {}
    first_of: dict[int, int] = {}
    jobs = [_rounds(parts, {place: serieses[place] for place in places}) for places in families.values()]
    for places, leaders in zip(families.values(), side_by_side(jobs, again.looked), strict=True):
        leading |= leaders
        if leaders:
            first_of |= dict.fromkeys(places, next(iter(leaders)))
    return [_as_told(parts, serieses, place, leading, first_of) for place in range(len(parts))]


def _as_told(
    parts: Sequence[Part], serieses: Sequence[Series], place: int, leading: dict[int, Series], first_of: dict[int, int]
) -> Series:
    """A series as its family tells it: as it leads, or implied by the first that does, or as it was."""
    if place in leading:
        return leading[place]
    if place in first_of and serieses[place].path.p <= MIRROR:
        first = parts[first_of[place]]
        return replace(serieses[place], implied_by=Slice(((first.by, first.label),)))
    return serieses[place]


def _rounds(parts: Sequence[Part], serieses: dict[int, Series]) -> _Rounds:
    """The rounds of one family, whose `serieses` are given by place. A slice first seen in a later round is set against
    the siblings that are left, and its p-value pays for the rounds."""
    together = sum(parts[place].reach for place in serieses)
    leaders: dict[int, Series] = {}
    current = dict(serieses)
    while True:
        moving = sorted((p for p in current if current[p].path.p <= MIRROR), key=lambda p: (current[p].path.p, p))
        if not moving or len(leaders) >= len(serieses) - 1:
            return leaders
        # Whom to name first: the one of the three surest that leaves the fewest of them still moving; of such the
        # one that itself moved, rather than the one that stood still while others did.
        near = moving[:_NEAR]
        leader = _departed({p: current[p] for p in near}, [current[p] for p in current])
        if leader is None:
            others = [[q for q in near if q != p] for p in near]
            found = yield [_Look([*leaders, p], rest) for p, rest in zip(near, others, strict=True)]
            left = {p: _still_moving(now, current) for p, now in zip(near, found, strict=True)}
            leader = min(near, key=lambda p: (left[p], _stands_still(current[p]), current[p].path.p, p))
        named = current.pop(leader)
        if leaders:
            named = (yield [_Look(list(leaders), [leader], calibrated=True)])[0][leader]
            if named.path.p > MIRROR:
                continue
        leaders[leader] = named
        # Without a small one, what was calm stays calm.
        large = parts[leader].reach >= _SMALL_LEADER * together
        current |= (yield [_Look(list(leaders), [p for p in current if large or current[p].path.p <= MIRROR])])[0]


def _still_moving(again: dict[int, Series], before: dict[int, Series]) -> int:
    """How many series still move the same way as before."""
    return sum(
        one.path.p <= MIRROR
        and np.sign(one.path.slope + one.path.jump) == np.sign(before[place].path.slope + before[place].path.jump)
        for place, one in again.items()
    )


def _departed(near: dict[int, Series], family: list[Series]) -> int | None:
    """Which of the surest slices left the middle of how all of them moved, clearly farther than the others; None where
    none did. With a large one that slips and a small one that grows fifteenfold, either is the mirror of the other by
    what it leaves behind; it is the small one that went."""
    away: dict[int, float] = {}
    for place, series in near.items():
        if len(family) < 3 or any(one.log != series.log for one in family):
            return None
        moved = _moved(series, _as_tested(series, np.stack([one.own for one in family])))
        weights = np.sqrt(np.array([max(one.reach, 0.0) for one in family]))
        if not np.isfinite(moved).all():
            return None
        order = np.argsort(moved, kind="stable")
        middle = moved[order][np.searchsorted(np.cumsum(weights[order]), weights.sum() / 2)]
        away[place] = abs(float(_moved(series, _as_tested(series, series.own))) - float(middle))
    first, *others = sorted(away, key=lambda place: (-away[place], place))
    return first if all(away[first] >= _CLEARLY * away[other] for other in others) else None


def _moved(series: Series, values: Floats) -> Floats:
    """How far values as they are tested, shape (…, periods), moved in all in the shape that a series claims, its season
    taken off; shape (…,), NaN where too few are known."""
    n, place = values.shape[-1], series.path.start
    time = np.arange(n, dtype=np.float64)
    seasonal = np.empty((n, 0)) if series.season is None else series.season
    claimed = {
        "line": [time],
        "step": [(time >= place).astype(np.float64)],
        "bend": [np.maximum(time - place, 0.0), np.minimum(time, place)],
        "stretch": [np.clip(time - place, 0.0, (series.path.stop or n - 1) - place)],
    }[series.path.shape]
    design = np.column_stack([np.ones(n), *claimed, seasonal])
    far = float(np.ptp(claimed[0]))
    if np.isfinite(values).all():
        return np.asarray(far * (values @ np.linalg.pinv(design)[1]))
    found = np.full(values.shape[:-1], np.nan)
    for at in np.ndindex(found.shape):
        known = np.isfinite(values[at])
        if known.sum() > design.shape[1]:
            found[at] = far * float(ols(design[known], values[at][known]).beta[1])
    return found


def _as_tested(series: Series, values: Floats) -> Floats:
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.asarray(np.log(values)) if series.log else values


def _stands_still(series: Series) -> bool:
    """Whether a slice's own movement is less than half of that against its siblings."""
    moved, against = _moved(series, np.stack([_as_tested(series, series.own), series.y]))
    return bool(moved * against < 0.5 * against * against)


@dataclass(frozen=True, slots=True, eq=False)
class _Again:
    """Slices tested again without those of their families that are named already."""

    survey: Survey
    parts: Sequence[Part]
    batch: Batch
    pooled: Sequence[Pooled | None]

    def looked(self, looks: Sequence[_Look]) -> list[dict[int, Series]]:
        """Each slice of each look against its siblings without the leaders, its p-value times the number of looks; a
        slice that can no longer be set against any is as it was, and sure of nothing."""
        found = [{place: with_path(self.parts[place], CALM) for place in look.places} for look in looks]
        for calibrated in (False, True):
            asked = [
                (number, place, series)
                for number, look in enumerate(looks)
                if look.places and look.calibrated == calibrated
                for place, series in self._against_others(look).items()
            ]
            if not asked:
                continue
            places = np.array([place for _, place, _ in asked])
            line = self.survey.timeline
            assert line is not None
            again = prepare(
                line.grain,
                period_numbers(self.survey),
                np.stack([series.y for _, _, series in asked]),
                (self.batch.designs, self.batch.which[places]),
            )
            paths = choose_paths(
                again,
                [self.pooled[place] for place in places],
                np.array([self.parts[place].sampling for place in places]),
                calibrated=calibrated,
            )
            for (number, place, series), path in zip(asked, paths, strict=True):
                p = min(1.0, path.p * (len(looks[number].leaders) + 1))
                found[number][place] = replace(series, path=replace(path, p=p), season=self.batch.season(place))
        return found

    def _against_others(self, look: _Look) -> dict[int, Series]:
        """The series of a look, against their siblings without the leaders, their paths not chosen yet; without those
        that are nothing to be tested."""
        survey, first = self.survey, self.parts[look.places[0]]
        gone = {self.parts[leader].code for leader in look.leaders}
        members = [code for code in first.family if code not in gone]
        if len(members) < 2:
            return {}
        periods = known_series(survey)
        found = against_each(survey.cells(first.by, PERIOD), first.measure, members, periods.span)
        own, rest, y = periods.spread(found.own), periods.spread(found.rest), periods.filled(found.y)
        row_of = {code: row for row, code in enumerate(members)}
        besides = tuple(Slice(((one.by, one.label),)) for one in (self.parts[leader] for leader in look.leaders))
        series = {}
        for place in look.places:
            row = row_of[self.parts[place].code]
            if found.usable[row]:
                series[place] = replace(
                    with_path(self.parts[place], CALM),
                    own=own[row],
                    rest=rest[row],
                    y=y[row],
                    log=bool(found.log[row]),
                    besides=besides,
                )
        return series
