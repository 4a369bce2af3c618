"""Plans: a whole, or a slice, that has lain above or below its plan, all along or since some period.

The logarithm of what was over what was planned, period by period, is level, or steps once (whichever the Bayesian
information criterion prefers). That it lies off nought since then is tested by Student's t with the spread about both
levels, widened by (1 + r)/(1 − r) for their memory r (corrected for its bias, and pooled over slices where there are
enough), times the periods at which it could have begun. Slices that only share the whole's gap are told with it.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any, ClassVar

import numpy as np

from ...aggregation import PERIOD, Survey
from ...aggregation.measures import Measure
from ...findings import Candidate, Check, Slice
from ...findings.checks import one_row, scalar, within
from ...findings.finding_kind import FindingKind, Floor
from ...findings.scoring import squash
from ...stats.autocorrelated_fits import Floats, autocorrelation
from ...support.phrasing import marked
from .block_tests import LEAST_POOLED

#: Periods there must be, and since the plan was left.
_LEAST, _SINCE = 6, 3
_MOST_LABELS = 200
_CLEAR = 0.05
#: Memory is never believed to be higher: nothing would be left to test.
_HIGHEST = 0.9
#: Standard errors put on a memory that no siblings tell, and taken off one that goes beyond theirs.
_MARGIN = 1.0
_TEST = "t of what was over what was planned, since it was left, times the periods it could have begun in"


_UNIT = marked("percent of the plan")
KIND = FindingKind(
    name="plan",
    what="what was, above or below what was planned, all along or since some period",
    detector="Planned",
    interest=0.95,
    needs_time=True,
    least_periods=_LEAST,
    floor=Floor(setting="floor_pct", unit=_UNIT),
    of_plans=True,
    of_parts=False,
    figures={
        "plan": "what the plan is called",
        "since": "whether the plan was left on the way, or never kept",
        "value": "what was, over the span",
        "planned": "what was planned for it",
        "gap": "value minus planned",
        "gap_pct": "the same in percent of planned",
        "before_pct": "the same of the periods before, None where there are none",
        "periods": "number of periods in the span",
        "most": "the slice that makes most of the gap: column, label, value, planned, gap, gap_pct; None for slices",
    },
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Planned:
    """`floor_pct`: a smaller gap is not reported."""

    kind: ClassVar[FindingKind] = KIND
    floor_pct: float = 3.0

    def detect(self, survey: Survey) -> list[Candidate]:
        found: list[Candidate] = []
        for was, plan, name in survey.plans:
            memory = _pooled(survey, was, plan)
            whole = self._candidate(survey, was, plan, name, None, None, memory)
            found += [*([] if whole is None else [whole]), *self._parts(survey, was, plan, name, whole, memory)]
        return found

    def _parts(
        self, survey: Survey, was: Measure, plan: Measure, name: str, whole: Candidate | None, memory: float | None
    ) -> Iterator[Candidate]:
        for column in survey.dimensions:
            labels = survey.labels(column.name)
            if not 2 <= len(labels) <= _MOST_LABELS:
                continue
            told = survey.told(column.name)
            for code in np.flatnonzero(told):
                one = self._candidate(survey, was, plan, name, column.name, int(code), memory)
                if one is None:
                    continue
                if whole is not None and whole.matters and one.matters and whole.direction == one.direction:
                    one = replace(one, implied_by=(whole.where.label, marked("part of the whole")))
                yield one

    def _candidate(
        self,
        survey: Survey,
        was: Measure,
        plan: Measure,
        name: str,
        by: str | None,
        code: int | None,
        memory: float | None,
    ) -> Candidate | None:
        line = survey.timeline
        assert line is not None
        where = Slice() if by is None or code is None else Slice(((by, survey.labels(by)[code]),))
        both = _both(survey, was, plan, by, code)
        if both is None:
            return None
        own, planned = both
        first, t, p = _left(np.log(own / planned), memory)
        if p > _CLEAR:
            return Candidate.nothing(self.kind, was, by, where, _TEST, t, p)
        span = line.span(line.complete.start + first, line.complete.start + own.size - 1)
        value, meant = float(own[first:].sum()), float(planned[first:].sum())
        pct = 100 * (value / meant - 1)
        most = _most(survey, was, plan, first, value - meant) if by is None else None
        spans = {"": (where, span)}
        expect = {"value": value, "planned": meant}
        if first:
            spans["before_"] = where, line.span(line.complete.start, line.complete.start + first - 1)
            expect |= {"before_value": float(own[:first].sum()), "before_planned": float(planned[:first].sum())}
        if most is not None:
            spans["most_"] = Slice(((most["by"], most["label"]),)), span
            expect |= {"most_value": most["value"], "most_planned": most["planned"]}
        columns = {
            f"{name}{what}": scalar(measure, within(survey.table, part, line.column, days))
            for name, (part, days) in spans.items()
            for what, measure in (("value", was), ("planned", plan))
        }
        check = Check(sql=one_row(columns), expect=expect)
        return Candidate(
            kind=self.kind,
            measure=was,
            by=by,
            where=where,
            period=span,
            baseline=None,
            direction="up" if pct > 0 else "down",
            figures={
                "plan": name,
                "since": first > 0,
                "value": value,
                "planned": meant,
                "gap": value - meant,
                "gap_pct": pct,
                "before_pct": 100 * (expect["before_value"] / expect["before_planned"] - 1) if first else None,
                "periods": int(own.size - first),
                "most": most,
            },
            test=_TEST,
            statistic=t,
            p=p,
            strength=squash(t, 6.0),
            reach=1.0 if by is None else value / float(survey.cells(PERIOD).value(was)[line.complete][first:].sum()),
            large=abs(pct) >= self.floor_pct,
            floor=(self.floor_pct, _UNIT),
            agrees=pct * t > 0,
            check=check,
            series={"time": line.column, "own": own, "plan": planned, "offset": line.complete.start, "place": first},
        )


def _both(
    survey: Survey, was: Measure, plan: Measure, by: str | None, code: int | None
) -> tuple[Floats, Floats] | None:
    """What was and what was planned in each complete period; None where a period lacks one, or one is not above
    nought."""
    line = survey.timeline
    assert line is not None
    keys = (PERIOD,) if by is None else (by, PERIOD)
    place = (line.complete,) if code is None else (code, line.complete)
    own, planned = (survey.cells(*keys).value(measure)[place] for measure in (was, plan))
    known = bool((np.isfinite(own) & np.isfinite(planned)).all()) and own.size >= _LEAST
    return (own, planned) if known and min(own.min(), planned.min()) > 0 else None


def _pooled(survey: Survey, was: Measure, plan: Measure) -> float | None:
    """The memory that the slices share; None for too few of them."""
    found = []
    for column in survey.dimensions:
        if len(survey.labels(column.name)) > _MOST_LABELS:
            continue
        for code in np.flatnonzero(survey.told(column.name)):
            both = _both(survey, was, plan, column.name, int(code))
            if both is not None:
                y = np.log(both[0] / both[1])
                first, residual = _levels(y)
                found.append(autocorrelation(residual, _taken_out(first)))
    return float(np.mean(found)) if len(found) >= LEAST_POOLED else None


def _taken_out(first: int) -> int:
    """What was taken out of a series as far as its memory goes: a level; or two, the second where it fits best."""
    return 3 if first else 1


def _levels(y: Floats) -> tuple[int, Floats]:
    """The place from which a plan was left, 0 for all along, and what is left without the levels before and after."""
    n = y.size
    left = {0: y - y.mean()}
    for place in range(_SINCE, n - _SINCE + 1):
        left[place] = np.concatenate([y[:place] - y[:place].mean(), y[place:] - y[place:].mean()])
    least = 1e-24 * max(1.0, float((y * y).sum()))
    # A step costs its size and its place.
    score = {
        place: n * np.log(max(float(one @ one), least) / n) + 2 * np.log(n) * (place > 0) for place, one in left.items()
    }
    first = min(score, key=lambda place: (score[place], place))
    return first, left[first]


def _left(y: Floats, pooled: float | None) -> tuple[int, float, float]:
    """(place from which a plan was left, t, p) of the logarithms of what was over what was planned."""
    from scipy.special import stdtr

    n = y.size
    first, residual = _levels(y)
    level = float(y[first:].mean())
    # What siblings share is known better than one's own, unless that is higher by more than a standard error.
    levels = _taken_out(first)
    r = autocorrelation(residual, levels, _MARGIN)
    if pooled is not None:
        r = max(pooled, autocorrelation(residual, levels, -_MARGIN))
    r = min(max(r, 0.0), _HIGHEST)
    df = n - 1 - (first > 0)
    variance = float(residual @ residual) / df / (n - first) * (1 + r) / (1 - r)
    if variance <= 1e-24 * max(1.0, float(y @ y)):
        return first, (0.0 if level == 0 else float(np.sign(level)) * np.inf), 1.0 if level == 0 else 0.0
    t = level / float(np.sqrt(variance))
    looks = max(1, n - 2 * _SINCE + 2)
    return first, t, min(1.0, float(2 * stdtr(max(2.0, df * (1 - r) / (1 + r)), -abs(t))) * looks)


def _most(survey: Survey, was: Measure, plan: Measure, first: int, gap: float) -> dict[str, Any] | None:
    """The label that makes most of the whole's gap, beyond its share of the plan; None where none does."""
    line = survey.timeline
    assert line is not None
    best: tuple[float, dict[str, Any]] | None = None
    for column in survey.dimensions:
        cells = survey.cells(column.name, PERIOD)
        own, planned = (cells.value(one)[:, line.complete][:, first:] for one in (was, plan))
        own, planned = np.nansum(own, axis=1), np.nansum(planned, axis=1)
        if not planned.sum() > 0:
            continue
        gaps = own - planned
        excess = (gaps - planned * gaps.sum() / planned.sum()) * np.sign(gap)
        for code in np.flatnonzero(survey.told(column.name) & (planned > 0)):
            told = {
                "by": column.name,
                "label": cells.labels[0][code],
                "value": float(own[code]),
                "planned": float(planned[code]),
                "gap": float(gaps[code]),
                "gap_pct": 100 * float(gaps[code] / planned[code]),
            }
            if gaps[code] * gap > 0 and excess[code] > 0.25 * abs(gap) and (best is None or excess[code] > best[0]):
                best = float(excess[code]), told
    return None if best is None else best[1]
