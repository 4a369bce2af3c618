"""Recurrences: a week in which amounts stand out from those around it every year, by its number or by a holiday in it.

Each week is set against the median of those within six weeks of it, in robust standard deviations of all others. The
occurrences of one week of the year (or of one holiday, where a country's are known) must all stand out to one side: if
the least of k does so by z, chance would have it with the k-th power of z's tail (Student's t of few degrees of
freedom, since weeks have long tails), times the weeks and holidays that could have been it, and both directions. The
slow waves of the year are taken out first: the top of a season is no week by itself.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from typing import ClassVar

import numpy as np
import numpy.typing as npt

from ...aggregation import PERIOD, Survey
from ...aggregation.measures import Measure
from ...findings import Candidate, Check, Slice
from ...findings.checks import between, one_row, scalar, within
from ...findings.finding_kind import FindingKind, Floor
from ...findings.scoring import squash
from ...stats.autocorrelated_fits import Floats, ols
from ...stats.plain_medians import known_median
from ...tables import Timeline
from ..resampling import by_week, median_rows

#: Weeks on each side that tell what is usual, and those next to a week, which a holiday may reach into.
_AROUND, _NEXT = 6, 1
#: Years in which a week must stand out, and rows in the median week.
_LEAST_YEARS, _LEAST_ROWS = 3, 5.0
_CLEAR = 0.02
#: Degrees of freedom of a robust deviation of a week, and weeks that tell what is usual.
_DF, _LEAST_WEEKS = 5, 100
#: Weeks in a year, and the waves of it that are taken out beforehand.
_YEAR, _WAVES = 365.2425 / 7, 4
_TEST = "the least of the week's years among all weeks, times the weeks and holidays"


KIND = FindingKind(
    name="recurrence",
    what="a week of the year, or of a holiday, that stands out every year",
    detector="Recurrence",
    interest=0.8,
    weight=0.5,
    needs_time=True,
    least_periods=3,
    floor=Floor(setting="floor_pct", unit="percent"),
    told_apart_by="holiday",
    figures={
        "week": "the ISO week of the year, None for a holiday",
        "holiday": "the public holiday in the week, None for a week of the year",
        "years": "number of years in which it stands out",
        "weeks": "the first day of each of these weeks",
        "value": "the measure in these weeks, a week",
        "expected": "the same of the weeks around them",
        "change": "value minus expected",
        "change_pct": "the same in percent of expected",
        "nearest": "the measure in the one of these weeks that is nearest to the others",
    },
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Recurrence:
    """`floor_pct`: weeks that stand out by less are not reported."""

    kind: ClassVar[FindingKind] = KIND
    floor_pct: float = 15.0

    def detect(self, survey: Survey) -> list[Candidate]:
        weekly = by_week(survey)
        line = None if weekly is None else weekly.timeline
        enough = line is not None and 52 * _LEAST_YEARS <= line.complete_count + 4 <= 1500
        if weekly is None or line is None or not enough or median_rows(weekly) < _LEAST_ROWS:
            return []
        events = _events(line)
        return [
            self._candidate(weekly, line, measure, events)
            for measure in survey.measures
            if measure.additive and not measure.level and events
        ]

    def _candidate(
        self, survey: Survey, line: Timeline, measure: Measure, events: Mapping[tuple[str, str], npt.NDArray[np.intp]]
    ) -> Candidate:
        values = np.nan_to_num(survey.cells(PERIOD).value(measure)[line.complete])
        off = _against_neighbours(values, log=bool(values.min() > 0))
        best = min(
            ((*_tail(off, places), name) for name, places in events.items()),
            key=lambda one: (one[0], one[2][0] != "holiday", one[2]),
        )
        p, sign, name = best
        p = min(1.0, 2 * len(events) * p)
        statistic = float(np.nanmean(off[events[name]]))
        if p > _CLEAR:
            return Candidate.nothing(self.kind, measure, None, Slice(), _TEST, statistic, p)
        places = events[name]
        near = sorted({int(one) for place in places for one in _near(int(place), values.size)} - set(map(int, places)))
        nearest = places[[int(np.argmin(sign * values[places]))]]
        spans = {name: _spans(line, at) for name, at in (("value", places), ("expected", near), ("nearest", nearest))}
        counts = {"value": places.size, "expected": len(near), "nearest": 1}
        check, expect = _check(survey, line, measure, spans, counts)
        change = expect["value"] - expect["expected"]
        pct = 100 * change / expect["expected"] if expect["expected"] > 0 else None
        first, last = int(places[0]), int(places[-1])
        kind, label = name
        return Candidate(
            kind=self.kind,
            measure=measure,
            by=None,
            where=Slice(),
            period=line.span(line.complete.start + first, line.complete.start + last),
            baseline=None,
            direction="up" if sign > 0 else "down",
            figures={
                "week": int(label) if kind == "week" else None,
                "holiday": label if kind == "holiday" else None,
                "years": int(places.size),
                "weeks": [str(line.period(line.complete.start + int(place)).start) for place in places],
                **expect,
                "change": change,
                "change_pct": pct,
            },
            test=_TEST,
            statistic=statistic,
            p=p,
            strength=squash(statistic, 1.0),
            reach=0.3,
            large=pct is not None and abs(pct) >= self.floor_pct and change * sign > 0,
            check=check,
            series={
                "time": line.column,
                "own": values,
                "offset": line.complete.start,
                "places": [int(place) for place in places],
                "timeline": line,
            },
        )


def _events(line: Timeline) -> dict[tuple[str, str], npt.NDArray[np.intp]]:
    """The places of the complete weeks in which each week of the year, and each public holiday, falls, where it does so
    in years enough."""
    starts = np.array([line.period(place).start for place in range(line.count)[line.complete]])
    found: defaultdict[tuple[str, str], list[int]] = defaultdict(list)
    middle = starts + np.timedelta64(3, "D")
    first_days = middle.astype("datetime64[Y]").astype("datetime64[D]")
    for place, week in enumerate((middle - first_days).astype(np.int64) // 7 + 1):
        found["week", f"{week}"].append(place)
    ends = starts + np.timedelta64(6, "D")
    for day, name in line.calendar.holiday_names(starts[0], ends[-1]).items():
        found["holiday", name].append(int(np.searchsorted(starts, day, side="right")) - 1)
    # A week that is cut off by an end of the data has no weeks around it on that side.
    places = {name: np.unique(np.array(one, dtype=np.intp)) for name, one in found.items()}
    return {name: one for name, one in sorted(places.items()) if one.size >= _LEAST_YEARS}


def _near(place: int, count: int) -> list[int]:
    """The weeks around one, without those next to it."""
    return [
        other for other in range(max(0, place - _AROUND), min(count, place + _AROUND + 1)) if abs(other - place) > _NEXT
    ]


def _against_neighbours(values: Floats, *, log: bool) -> Floats:
    """Each week less the median of those around it, without those next to it."""
    y = _without_season(np.log(values) if log else values)
    apart = np.array([step for step in range(-_AROUND, _AROUND + 1) if abs(step) > _NEXT])
    edged = np.pad(y, _AROUND, constant_values=np.nan)
    return np.asarray(y - known_median(edged[np.arange(y.size)[:, None] + _AROUND + apart]))


def _without_season(y: Floats) -> Floats:
    """The series without its growth and the slow waves of its year."""
    time = np.arange(y.size, dtype=np.float64)
    waves = [turn(2 * np.pi * k * time / _YEAR) for k in range(1, _WAVES + 1) for turn in (np.cos, np.sin)]
    design = np.column_stack([np.ones(y.size), time, *waves])
    known = np.isfinite(y)
    return np.asarray(y - design @ ols(design[known], y[known]).beta) if known.sum() > 2 * design.shape[1] else y


def _tail(off: Floats, places: npt.NDArray[np.intp]) -> tuple[float, int]:
    """The chance that so many weeks are all as far out as the least of them, and on which side they are."""
    from scipy.special import stdtr

    here = off[places]
    known = np.delete(off, places)
    known = known[np.isfinite(known)]
    sign = 1 if np.median(here) > 0 else -1
    least = float((sign * here).min())
    if not np.isfinite(here).all() or least <= 0 or known.size < _LEAST_WEEKS:
        return 1.0, sign
    middle = float(np.median(known))
    spread = 1.4826 * float(np.median(np.abs(known - middle)))
    if spread <= 0:
        return 1.0, sign
    return float(stdtr(_DF, -(least - sign * middle) / spread)) ** here.size, sign


def _spans(line: Timeline, places: npt.NDArray[np.intp] | list[int]) -> str:
    """The weeks at some places, as SQL; those that follow each other in one span."""
    start = line.complete.start
    stretches: list[list[int]] = []
    for place in map(int, places):
        if stretches and stretches[-1][1] == place - 1:
            stretches[-1][1] = place
        else:
            stretches.append([place, place])
    return " OR ".join(f"({between(line.column, line.span(start + a, start + b))})" for a, b in stretches)


def _check(
    survey: Survey, line: Timeline, measure: Measure, spans: dict[str, str], counts: dict[str, int]
) -> tuple[Check, dict[str, float]]:
    """The measure a week in these weeks and in those around them, and the SQL that gives both again."""
    inside = within(survey.table, Slice())
    # A week without rows has sold nothing; in SQL the sum of no rows is no number.
    columns = {
        name: f"coalesce({scalar(measure, f'{inside} AND ({where})', counts[name])}, 0)"
        for name, where in spans.items()
    }
    row = survey.table.store.query(one_row(columns))
    # Engines add in another order on every run: the last digits are not to be relied on.
    expect = {name: float(f"{float(row.column(name)[0].as_py()):.11g}") for name in columns}
    return Check(sql=one_row(columns), expect=expect), expect
