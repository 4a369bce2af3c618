"""Gaps: labels that end, begin or pause, and columns that stop being filled, as a whole or for a label.

That a label has no rows is a fact; whether it means anything depends on how many were to be expected. Rows of a label
are taken as a share of all rows of the period, with a spread of their own (gamma, so that their number is negative
binomial); the chance that a whole run of periods stays empty is (1 + μ/r)^−r for the μ rows expected in it. The spread
is taken no smaller than √(1/10) of the mean: business counts are never as even as chance would have them. Where other
periods are empty too, the run must also be rarer than by order alone (of n periods with e empty, k in a row).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar, NamedTuple

import numpy as np
import numpy.typing as npt

from ...aggregation import PERIOD, Survey
from ...aggregation.measures import Measure, Part, lead_measure
from ...findings import Candidate, Check, Slice
from ...findings.checks import one_row, scalar, within
from ...findings.finding_kind import FindingKind, Floor
from ...findings.scoring import squash
from ...sql.expressions import quote_name
from ...stats.autocorrelated_fits import Floats
from ...tables import Grain, Period, Timeline
from ...tables.calendar import DAY
from ..resampling import by_week

#: The number of rows of a label is taken to vary at least as a gamma of this shape does.
_MOST_SHAPE = 10.0
#: Rows in the usual week below which weeks are not looked at.
_LEAST_ROWS = 5.0
#: Rows beside a gap that tell a share at all.
_FEWEST = 5
#: Of fewer rows of its own the past must have so large a part of the rows that are set against it.
_FEW, _LEAST_PAST = 30, 0.05
#: Fewer periods with rows than this say nothing of those without: two surveys, twelve years apart.
_LEAST_FILLED = 4
#: A run that chance would make more often than this is not looked into.
_CLEAR = 0.05
#: Where more labels than this share, and so many of them, begin or end by more than chance, they come and go.
_COME_AND_GO, _SEVERAL = 0.2, 10
#: Of few labels most must: the visits of a study, one after the other.
_MOST_DO, _A_FEW = 0.5, 3


@dataclass(frozen=True, slots=True, kw_only=True)
class _Run:
    """Periods without rows (places first to last), the rows expected in them, and the chance of it."""

    first: int
    last: int
    expected: float
    p: float


KIND = FindingKind(
    name="gap",
    what="a label that ends, begins or pauses, a column that stops being filled",
    detector="Gap",
    of_rows=True,
    interest=0.9,
    needs_time=True,
    least_periods=8,
    floor=Floor(setting="floor_share", unit="share of the rows"),
    told_apart_by="what",
    happens="period",
    of_data=True,
    of_parts=False,
    figures={
        "what": "no rows, ended, began, paused, filled until, filled from, not filled",
        "since": "first day without",
        "until": "last day without, None where it lasts",
        "periods": "number of periods without",
        "expected_rows": "rows (or values) that were to be expected",
        "rows": "rows beside the gap",
        "share": "share of all rows beside it, 0 to 1",
        "periods_beside": "number of periods beside it",
        "value": "the label's amount beside it",
        "value_total": "the amount of all beside it",
        "value_share": "the label's share of the amount beside it, 0 to 1",
        "column": "the column that is not filled",
    },
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Gap:
    """`floor_share`: labels that made a smaller share of the rows around the gap are not reported; `floor_periods`
    the same for gaps of fewer periods."""

    kind: ClassVar[FindingKind] = KIND
    floor_share: float = 0.01
    floor_periods: int = 2

    def detect(self, survey: Survey) -> list[Candidate]:
        found = []
        for column in survey.dimensions:
            found += self._labels(survey, column.name)
            found += self._columns_of_labels(survey, column.name)
        return [*found, *self._columns(survey), *self._periods(survey)]

    def _periods(self, survey: Survey) -> list[Candidate]:
        """Periods in which the whole table has no rows."""
        lost = _without_rows(survey, self.floor_periods)
        if lost is None:
            return []
        line, rows, run, table = lost.timeline, lost.rows, lost.run, survey.table
        if run.p > _CLEAR:
            return [
                Candidate.nothing(self.kind, None, None, Slice(), "rows expected where none are", run.expected, run.p)
            ]
        offset, length = line.complete.start, run.last - run.first + 1
        periods = line.span(offset + run.first, offset + run.last)
        span = _days_without(survey, line, periods) if lost.by_week else periods
        expected = run.expected * span.days / periods.days
        everything = within(table, Slice(), line.column, span)
        whole = line.span(offset, offset + rows.size - 1)
        counts = {"none": everything, "all_rows": within(table, Slice(), line.column, whole)}
        return [
            Candidate(
                kind=self.kind,
                measure=None,
                by=None,
                where=Slice(),
                period=span,
                baseline=None,
                direction=None,
                figures={
                    "what": "no rows",
                    "since": str(span.start),
                    "until": str(span.end),
                    "periods": length,
                    "expected_rows": expected,
                    "rows": float(rows.sum()),
                    "share": length / rows.size,
                },
                test="rows expected where none are, by those of the other periods and their spread",
                statistic=run.expected,
                p=run.p,
                strength=squash(float(length), 2.0),
                reach=1.0,
                large=lost.by_week or length >= self.floor_periods,
                check=Check(
                    sql=one_row({name: f"(SELECT count(*) FROM source WHERE {sql})" for name, sql in counts.items()}),
                    expect={"none": 0.0, "all_rows": float(rows.sum())},
                ),
                series={"time": line.column, "own": rows, "offset": offset, "timeline": line},
            )
        ]

    def _labels(self, survey: Survey, by: str) -> list[Candidate]:
        """The surest gap of a dimension, paying for the look at all labels, and others that are as sure."""
        line = survey.timeline
        assert line is not None
        rows = survey.cells(by, PERIOD).rows[:, line.complete]
        cycle = line.grain.per_year
        whole = rows.sum(axis=0)
        if whole.max(initial=0) <= 1:
            # One row a period: its label says what time it was (who was president), and is no part of anything.
            return []
        holed = np.flatnonzero((rows == 0).any(axis=1))
        runs = [(int(code), _longest(rows[code], whole, cycle)) for code in holed]
        told = survey.told(by)
        known = [(code, one, min(1.0, one.p * rows.shape[0])) for code, one in runs if one is not None and told[code]]
        if not known:
            return [Candidate.nothing(self.kind, None, by, Slice(), "no run of empty periods", 0.0, 1.0)]
        ends = [one for _, one, _ in known if one.p <= _CLEAR and (one.first == 0 or one.last == rows.shape[1] - 1)]
        share = len(ends) / len(survey.labels(by))
        if (share > _COME_AND_GO and len(ends) >= _SEVERAL) or (share > _MOST_DO and len(ends) >= _A_FEW):
            # Customers come and go: that one does is nothing to ask about.
            return [Candidate.nothing(self.kind, None, by, Slice(), "no run of empty periods", 0.0, 1.0)]
        known.sort(key=lambda each: (each[2], each[0]))
        sure = [known[0], *(each for each in known[1:] if each[2] <= _CLEAR)]
        return [self._label(survey, by, code, run, p, rows) for code, run, p in sure]

    def _label(self, survey: Survey, by: str, code: int, run: _Run, p: float, rows: Floats) -> Candidate:
        where = Slice(((by, survey.labels(by)[code]),))
        if p > _CLEAR:
            return Candidate.nothing(self.kind, None, by, where, "rows expected where none are", run.expected, p)
        line, lead, table = survey.timeline, lead_measure(survey.measures), survey.table
        assert line is not None
        offset, n = line.complete.start, rows.shape[1]
        what = "began" if run.first == 0 else "ended" if run.last == n - 1 else "paused"
        beside = _beside(run, n, line.grain.per_year, what)
        gap, there = (line.span(offset + first, offset + last) for first, last in ((run.first, run.last), beside))
        own, whole = float(rows[code, beside[0] : beside[1] + 1].sum()), float(rows[:, beside[0] : beside[1] + 1].sum())
        share = own / whole if whole else 0.0
        made = _value(survey, lead, by, code, offset, beside)
        value_sql = {
            "value": f"coalesce({scalar(lead, within(table, where, line.column, there))}, 0)",
            "value_total": scalar(lead, within(table, Slice(), line.column, there)),
        }
        figures: dict[str, Any] = {
            "what": what,
            "since": str(gap.start),
            "until": None if what == "ended" else str(gap.end),
            "periods": run.last - run.first + 1,
            "expected_rows": run.expected,
            "periods_beside": beside[1] - beside[0] + 1,
            "rows": own,
            "share": share,
            **made,
        }
        return Candidate(
            kind=self.kind,
            measure=None,
            by=by,
            where=where,
            period=gap,
            baseline=there,
            direction=None,
            figures=figures,
            test="rows expected where none are, by the label's usual share and its spread",
            statistic=run.expected,
            p=p,
            strength=squash(float(run.last - run.first + 1), 2.0),
            reach=share,
            large=share >= self.floor_share and run.last - run.first + 1 >= self.floor_periods,
            check=Check(
                sql=one_row(
                    {
                        "none": f"(SELECT count(*) FROM source WHERE {within(table, where, line.column, gap)})",
                        "rows": f"(SELECT count(*) FROM source WHERE {within(table, where, line.column, there)})",
                        "all_rows": f"(SELECT count(*) FROM source WHERE {within(table, Slice(), line.column, there)})",
                        **{name: sql for name, sql in value_sql.items() if made[name] is not None},
                    }
                ),
                expect={"none": 0.0, "rows": own, "all_rows": whole}
                | {name: amount for name, amount in made.items() if name in value_sql and amount is not None},
            ),
            series={"time": line.column, "own": rows[code], "offset": offset, "lead": lead},
        )

    def _columns(self, survey: Survey) -> list[Candidate]:
        """Columns of measures that stop being filled while rows go on."""
        line = survey.timeline
        assert line is not None
        cells = survey.cells(PERIOD)
        rows = cells.rows[line.complete]
        candidates, asked = [], _filled_columns(survey)
        for column, (measure, part) in asked.items():
            filled = cells.parts[part].count[line.complete]
            run = _longest(np.where(rows > 0, filled, 1.0), rows, line.grain.per_year)
            if run is None:
                continue
            p = min(1.0, run.p * len(asked))
            candidates.append(self._column(survey, column, measure, Slice(), run, p, filled, rows, 1.0))
        return candidates

    def _columns_of_labels(self, survey: Survey, by: str) -> list[Candidate]:
        """The same within labels, where the column is filled for others: a sum takes what is not given for nothing."""
        line = survey.timeline
        assert line is not None
        cells = survey.cells(by, PERIOD)
        rows = cells.rows[:, line.complete]
        told, candidates, asked = survey.told(by), [], _filled_columns(survey)
        for column, (measure, part) in asked.items():
            filled = cells.parts[part].count[:, line.complete]
            lacking = (rows > 0) & (filled == 0)
            others = filled.sum(axis=0) > 0
            known = []
            for code in np.flatnonzero((lacking & others).any(axis=1) & told):
                # Where nobody's is filled, the column as a whole says so.
                here = others & (rows[code] > 0)
                run = _longest(
                    np.where(here, filled[code], 1.0), np.where(others, rows[code], 0.0), line.grain.per_year
                )
                if run is not None:
                    known.append((min(1.0, run.p * len(asked) * rows.shape[0]), int(code), run))
            known.sort(key=lambda each: each[:2])
            for p, place, run in [*known[:1], *(each for each in known[1:] if each[0] <= _CLEAR)]:
                where, share = Slice(((by, survey.labels(by)[place]),)), float(rows[place].sum() / rows.sum())
                candidates.append(
                    self._column(survey, column, measure, where, run, p, filled[place], rows[place], share)
                )
        return candidates

    def _column(
        self,
        survey: Survey,
        column: str,
        measure: Measure,
        where: Slice,
        run: _Run,
        p: float,
        filled: Floats,
        rows: Floats,
        reach: float,
    ) -> Candidate:
        line, table = survey.timeline, survey.table
        assert line is not None
        by = where.conditions[0][0] if where.conditions else None
        if p > _CLEAR:
            return Candidate.nothing(self.kind, measure, by, where, "values expected", run.expected, p)
        offset, n = line.complete.start, rows.size
        what = "filled from" if run.first == 0 else "filled until" if run.last == n - 1 else "not filled"
        span = line.span(offset + run.first, offset + run.last)
        lacking = float(rows[run.first : run.last + 1].sum())
        inside = within(table, where, line.column, span)
        return Candidate(
            kind=self.kind,
            measure=measure,
            by=by,
            where=where,
            period=span,
            baseline=None,
            direction=None,
            figures={
                "what": what,
                "column": column,
                "since": str(span.start),
                "until": None if what == "filled until" else str(span.end),
                "periods": run.last - run.first + 1,
                "expected_rows": run.expected,
                "rows": lacking,
                "share": lacking / float(rows.sum()),
            },
            test="values expected where none are, by the usual share of filled rows",
            statistic=run.expected,
            p=p,
            strength=squash(float(run.last - run.first + 1), 2.0),
            reach=reach,
            large=reach >= self.floor_share and run.last - run.first + 1 >= self.floor_periods,
            check=Check(
                sql=one_row(
                    {
                        "filled": f"(SELECT count({quote_name(column)}) FROM source WHERE {inside})",
                        "rows": f"(SELECT count(*) FROM source WHERE {inside})",
                    }
                ),
                expect={"filled": 0.0, "rows": lacking},
            ),
            series={"time": line.column, "own": filled, "offset": offset},
        )


def _filled_columns(survey: Survey) -> dict[str, tuple[Measure, Part]]:
    """The columns of numbers that measures are made of, each with the first such measure and its part."""
    asked: dict[str, tuple[Measure, Part]] = {}
    for measure in survey.measures:
        part = measure.top[0][1]
        if part.column and part.sql and part.kind in ("sum", "count"):
            asked.setdefault(part.column, (measure, part))
    return asked


class _Lost(NamedTuple):
    """The longest run of periods in which a whole table has no rows, on their timeline, with the rows of each."""

    timeline: Timeline
    rows: Floats
    run: _Run
    by_week: bool


def _without_rows(survey: Survey, floor: int) -> _Lost | None:
    """That run, by the periods of the survey, or by weeks where fewer than `floor` of those are empty: a month is too
    long to be empty where a fortnight was not recorded."""
    line, found = survey.timeline, None
    assert line is not None
    rows = survey.cells(PERIOD).rows[line.complete]
    if np.count_nonzero(rows) < _LEAST_FILLED:
        return None
    run = _longest(rows, np.ones(rows.size), line.grain.per_year)
    if run is not None:
        found = _Lost(line, rows, run, by_week=False)
        if run.last - run.first + 1 >= floor:
            return found
    weeks = None if line.grain in (Grain.DAY, Grain.WEEK) else by_week(survey)
    if weeks is None or weeks.timeline is None or not weeks.timeline.complete_count:
        return found
    counted = weeks.cells(PERIOD).rows[weeks.timeline.complete]
    lost = _longest(counted, np.ones(counted.size), weeks.timeline.grain.per_year)
    sure = lost is not None and lost.p <= _CLEAR and np.median(counted) >= _LEAST_ROWS
    return _Lost(weeks.timeline, counted, lost, by_week=True) if lost is not None and sure else found


def _days_without(survey: Survey, line: Timeline, weeks: Period) -> Period:
    """All days without rows about some weeks without any."""
    days, _ = survey.table.day_counts(line.column)
    place = int(np.searchsorted(days, weeks.start))
    return Period(start=days[place - 1] + DAY, end=days[place] - DAY, grain=None, calendar=line.calendar)


def _longest(own: Floats, whole: Floats, cycle: int) -> _Run | None:
    """The longest run of periods in which others have rows and this has none; None where there is none.

    A run that was empty a year before, or is a year after, is a season.
    """
    empty = (own == 0) & (whole > 0)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], empty.astype(np.int8), [0]])))
    spans = [(int(a), int(b) - 1) for a, b in zip(edges[::2], edges[1::2], strict=True)]
    spans = [(a, b) for a, b in spans if not _seasonal(empty, a, b, cycle)]
    if not spans or empty.all():
        return None
    first, last = max(spans, key=lambda span: (span[1] - span[0], span[1]))
    inside = np.zeros(empty.size, dtype=bool)
    inside[first : last + 1] = True
    # A period without rows says nothing of how many of them are the label's, or filled.
    others = own[~inside & (whole > 0)], whole[~inside & (whole > 0)]
    if others[0].sum() < _FEWEST:
        return None
    share = float(others[0].sum() / others[1].sum()) if others[1].sum() else 0.0
    # Of what comes once a month no more than one is missing in each.
    expected = min(share * float(whole[inside].sum()), float(own.max()) * (last - first + 1))
    shape = _shape(*others, share)
    if others[0].sum() < _FEW and others[1].sum() < _LEAST_PAST * whole[inside].sum():
        # A handful of rows in sparse years says nothing of the thousands after them.
        return None
    # A share that few rows tell is no sure one: of k rows in W, none in E more has a chance of (W / (W + E))^k.
    beside, there = float(others[1].sum()), float(whole[inside].sum())
    by_few = float((beside / (beside + there)) ** others[0].sum()) if beside else 1.0
    p = max(float((1 + expected / shape) ** -shape), by_few) * (empty.size - (last - first))
    if empty.sum() > inside.sum():
        p = max(p, _by_order(empty.size, int(empty.sum()), last - first + 1))
    return _Run(first=first, last=last, expected=expected, p=min(1.0, p))


def _seasonal(empty: npt.NDArray[np.bool_], first: int, last: int, cycle: int) -> bool:
    length = last - first + 1
    if cycle <= 1 or length >= cycle:
        return False
    before, after = empty[max(0, first - cycle) : max(0, last + 1 - cycle)], empty[first + cycle : last + 1 + cycle]
    return bool((before.size and before.mean() >= 0.5) or (after.size and after.mean() >= 0.5))


def _shape(own: Floats, whole: Floats, share: float) -> float:
    """The shape of the gamma that the label's share of the rows varies by, from period to period."""
    usual = share * whole
    known = usual > 0
    if known.sum() < 3:
        return 1.0
    ratio = own[known] / usual[known]
    extra = float(np.var(ratio, ddof=1)) - float(np.mean(1 / usual[known]))
    return float(min(_MOST_SHAPE, 1 / extra)) if extra > 1 / _MOST_SHAPE else _MOST_SHAPE


def _by_order(n: int, empty: int, run: int) -> float:
    """The chance of so many empty periods in a row somewhere, were the empty ones shuffled (at most)."""
    from math import comb

    return min(1.0, (n - run + 1) * comb(n - run, empty - run) / comb(n, empty))


def _beside(run: _Run, n: int, cycle: int, what: str) -> tuple[int, int]:
    """The places beside the gap: a year before it at most, or all since where it is at the start."""
    if what == "began":
        return run.last + 1, n - 1
    return max(0, run.first - max(cycle, 4)), run.first - 1


def _value(
    survey: Survey, lead: Measure, by: str, code: int, offset: int, beside: tuple[int, int]
) -> dict[str, float | None]:
    """What the label made of the leading amount beside the gap."""
    if not lead.additive:
        return {"value": None, "value_total": None, "value_share": None}
    made = lead.factor * survey.cells(by, PERIOD).linear(lead.top)[:, offset + beside[0] : offset + beside[1] + 1]
    total = float(made.sum())
    own = float(made[code].sum())
    return {"value": own, "value_total": total, "value_share": own / total if total > 0 else None}
