"""Series over the complete periods of a timeline: what is known of each period, and what stands in for its holes."""

from __future__ import annotations

from dataclasses import replace
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from ..aggregation import PERIOD, Survey, period_holes
from ..findings.checks import between
from ..stats.autocorrelated_fits import Floats
from ..stats.series_holes import MOST_HOLES, filled, mostly_holes
from ..tables import Grain, Period

#: Places of periods along an axis of cells: all of a stretch, or those that are no holes.
Span = slice | npt.NDArray[np.intp]


class KnownPeriods(NamedTuple):
    """The complete periods that are no holes: their places among all of the timeline, and which of the complete ones
    are, shape (complete periods,)."""

    span: Span
    known: npt.NDArray[np.bool_]
    grain: Grain
    numbers: npt.NDArray[np.int64]

    @property
    def whole(self) -> bool:
        return bool(self.known.all())

    @property
    def mostly_holes(self) -> bool:
        """Whether so many periods have no rows that no series can be made of the others."""
        return mostly_holes(~self.known)

    def spread(self, values: Floats) -> Floats:
        """Values of the known periods, along the last axis, among all complete ones: NaN in the holes."""
        if self.whole:
            return values
        out = np.full((*values.shape[:-1], self.known.size), np.nan)
        out[..., self.known] = values
        return out

    def filled(self, values: Floats) -> Floats:
        """The same of one or more series, shape (…, known periods), with what stands in for the holes."""
        return filled(self.grain, self.numbers, self.spread(values), ~self.known)


def known_series(survey: Survey) -> KnownPeriods:
    line = survey.timeline
    assert line is not None
    known = ~period_holes(survey)
    places: Span = line.complete if known.all() else line.complete.start + np.flatnonzero(known)
    return KnownPeriods(places, known, line.grain, period_numbers(survey))


def known_of(survey: Survey, values: Floats) -> KnownPeriods | None:
    """The same of an average, shape (periods of the timeline,): a period without rows has none. None where too many
    periods have none."""
    line = survey.timeline
    assert line is not None
    periods = known_series(survey)
    known = periods.known & np.isfinite(values[line.complete])
    if known.all() or np.array_equal(known, periods.known):
        return periods
    if known.mean() < 1 - MOST_HOLES:
        return None
    return periods._replace(span=line.complete.start + np.flatnonzero(known), known=known)


def recorded_places(survey: Survey, span: Period) -> npt.NDArray[np.intp]:
    """The places of the periods of a span that are no holes."""
    places, holes = _places(survey, span)
    return np.setdiff1d(places, holes)


def recorded(survey: Survey, span: Period) -> Period:
    """A span as its SQL is to read it: without the days of periods that were only recorded in part."""
    line = survey.timeline
    assert line is not None
    rows = survey.cells(PERIOD).rows
    cut = [line.period(int(place)) for place in np.intersect1d(*_places(survey, span)) if rows[place] > 0]
    if not cut:
        return span
    without = " OR ".join(f"({between(line.column, one)})" for one in cut)
    return replace(span, sql=f"{between(line.column, span)} AND NOT ({without})")


def _places(survey: Survey, span: Period) -> tuple[npt.NDArray[np.intp], npt.NDArray[np.intp]]:
    """The places of all periods of a span, and those of all holes of the timeline."""
    line = survey.timeline
    assert line is not None
    first, last = (int(place) for place in line.places(np.array([span.start, span.end])))
    return np.arange(first, last + 1), line.complete.start + np.flatnonzero(period_holes(survey))


def period_numbers(survey: Survey) -> npt.NDArray[np.int64]:
    """Numbers of the complete periods; shape (complete periods,)."""
    line = survey.timeline
    assert line is not None
    return np.arange(line.first, line.last + 1)[line.complete]
