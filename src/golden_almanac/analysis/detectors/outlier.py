"""Outlier rows: one value far beyond all others of its group, and what may be wrong with it.

Business amounts have long tails, so distance from the middle proves nothing. What proves something
is the gap to the next value: on a log scale the spacings of the largest values of even a Pareto tail
are independent exponentials (Rényi 1953), so the top gap against the gaps below it is a ratio with a
known tail, p = (1 + gap / Σ gaps below)^−(k−1). Two or three wrong rows hide each other; so the gaps below the first
three are tried, and the surest pays for the choice.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np
import numpy.typing as npt

from ...aggregation import Rows, Survey
from ...aggregation.extreme_rows import Far, Scale, farthest_of
from ...aggregation.measures import Measure
from ...findings import Candidate, Check, Slice
from ...findings.checks import one_row, within
from ...findings.finding_kind import FindingKind, Floor
from ...findings.scoring import squash
from ...sql.expressions import quote_name
from ...stats.autocorrelated_fits import Floats
from ...support.parallel import each
from ...tables import Role, Table

#: Values below the top whose spacings tell how long the tail is.
_BELOW = 30
#: The share of the room for error that one row, two rows and three rows have: one alone is the usual case.
_ROOM = (0.8, 0.1, 0.1)
_TOGETHER = len(_ROOM)
#: A gap that chance would make more often than this is not looked into.
_CLEAR = 0.05
#: Spacings of a column with many equal values are no smaller than this, in robust deviations.
_LEAST_SPACING = 0.05


KIND = FindingKind(
    name="outlier",
    what="one row far from all others, and what may be wrong with it",
    detector="Outlier",
    of_rows=True,
    interest=0.95,
    floor=Floor(setting="floor_factor", unit="times the next value"),
    told_apart_by="row",
    happens="row",
    shows_rows=True,
    of_data=True,
    stands_alone=True,
    of_parts=False,
    figures={
        "column": "the column",
        "row": "number of the row in the source",
        "value": "its value",
        "expected_low": "lower end of the usual",
        "expected_high": "upper end of the usual",
        "typical": "median of its group",
        "times_typical": "value over typical",
        "next_value": "the value next to it",
        "fault": "the error that it looks like: factor, sign, or large where it looks like none",
        "fault_factor": "value over what it would be without that error",
        "key": "the row's key",
        "key_column": "the column of the key",
        "date": "the row's day",
        "share": "its size as a share of the column's",
        "materiality": "major or minor",
        "off": "value minus typical",
        "off_share_of_period": "off as a share of its period",
        "together": "number of such rows in the group",
    },
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Outlier:
    """`floor_factor`: a value must be so many times the next one to be reported.

    A row is major where its value is off what is usual by at least `material` (in the column's unit; nought is any
    amount) and by at least `material_share` of what the column adds up to in the row's period; else it is minor.
    """

    kind: ClassVar[FindingKind] = KIND
    floor_factor: float = 3.0
    material: float = 0.0
    material_share: float = 0.01

    def detect(self, survey: Survey) -> list[Candidate]:
        asked: dict[str, Measure] = {}
        for measure in survey.measures:
            part = measure.top[0][1]
            if part.column and part.kind not in ("count", "distinct") and not measure.share:
                asked.setdefault(part.column, measure)
        drawn = survey.drawn()
        scales = each(lambda column: self._scaled(survey, drawn, column), list(asked), survey.size)
        known = [(column, scale) for column, scale in zip(asked, scales, strict=True) if scale is not None]
        far = farthest_of(survey, known, _BELOW + _TOGETHER)
        found = each(
            lambda one: self._column(survey, drawn, asked[one[0][0]], *one[0], one[1]),
            list(zip(known, far, strict=True)),
            survey.size,
        )
        return [candidate for column in found for candidate in column]

    def _scaled(self, survey: Survey, drawn: Rows, column: str) -> Scale | None:
        """By what a column's values are measured; None where too few of them differ."""
        values = drawn.table.numbers(column)
        use = np.isfinite(values) & (values != 0)
        if use.sum() < 4 * _BELOW or not _varied(values[use]):
            return None
        by = _best_group(survey, drawn, values, use)
        return _scale(survey, drawn, values, use, by, float(survey.table.extent(column)[0]) >= 0)

    def _column(
        self, survey: Survey, drawn: Rows, measure: Measure, column: str, scale: Scale, far: Far
    ) -> list[Candidate]:
        # Where values lie on both sides of nought their distances, not they themselves, are taken by their logarithm.
        tail = np.abs(far.deviations)
        count, statistic, p = _apart(tail if scale.log else np.log(np.maximum(tail, 1e-9)))
        return [
            self._row(survey, drawn, measure, column, scale, far, place, count, statistic, p)
            for place in range(count if p <= _CLEAR else 1)
        ]

    def _row(
        self,
        survey: Survey,
        drawn: Rows,
        measure: Measure,
        column: str,
        scale: Scale,
        far: Far,
        place: int,
        count: int,
        statistic: float,
        p: float,
    ) -> Candidate:
        by, code, value = scale.by, int(far.codes[place]), float(far.values[place])
        where = Slice() if by is None else Slice(((by, survey.labels(by)[code]),))
        told = self._told(survey, drawn, column, where, far, scale, place, count) if p <= _CLEAR else None
        return Candidate(
            kind=self.kind,
            measure=measure,
            by=by,
            where=where,
            period=None,
            baseline=None,
            direction=None,
            figures={
                "column": column,
                "row": int(far.numbers[place]),
                "value": value,
                **(told.figures if told else {}),
            },
            test="gap to the next value against the gaps below it",
            statistic=statistic,
            p=p,
            strength=0.0 if told is None else squash(told.times_next, 5.0),
            reach=0.1 if told is None else max(0.1, told.figures["share"]),
            large=told is not None and told.far,
            check=None if told is None else told.check,
            series={} if told is None else {"group": told.group, "row": value},
        )

    def _told(
        self, survey: Survey, drawn: Rows, column: str, where: Slice, far: Far, scale: Scale, place: int, count: int
    ) -> _Told:
        """What is told of one of the `count` rows that stand out; only worked out where they do."""
        table, value, number = survey.table, float(far.values[place]), int(far.numbers[place])
        code = int(far.codes[place])
        sampled = drawn.table.numbers(column)
        own = np.isfinite(sampled) & (sampled != 0)
        if scale.by is not None:
            own &= drawn.codes(scale.by)[0] == code
        group = np.append(sampled[own & ~np.isin(drawn.table.row_numbers(), far.numbers[:count])], value)
        quoted, condition = quote_name(column), within(table, where)
        low, high = _fence(float(scale.middle[code]), float(scale.width[code]), scale.log)
        typical, highest, lowest, size = _ends(table, quoted, condition, count + 1)
        # Far above the others, or far below: as many times smaller, or on the other side of nought.
        above = value >= typical
        following_in = highest if above else lowest
        odd = set(far.values[:count].tolist())
        following = next((one for one in following_in if one not in odd), typical)
        larger, smaller = max(abs(value), abs(following)), min(abs(value), abs(following))
        key_column = next((one.name for one in table.with_role(Role.KEY)), None)
        row = table.at([number])
        off, of_period = abs(value - typical), self._of_period(survey, column, row)
        major = off >= self.material and off >= self.material_share * (size if of_period is None else of_period)
        day = None if survey.timeline is None else row.days(survey.timeline.column)[0]
        fault, factor = _fault(value, group[:-1])
        return _Told(
            figures={
                "expected_low": low,
                "expected_high": high,
                "typical": typical,
                "times_typical": value / typical if typical else None,
                "next_value": following,
                "fault": fault,
                "fault_factor": factor,
                "key": None if key_column is None else str(row.arrow.column(key_column)[0].as_py()),
                "key_column": key_column,
                "date": None if day is None or np.isnat(day) else str(day),
                "share": abs(value) / size,
                "materiality": "major" if major else "minor",
                "off": off,
                "off_share_of_period": None if not of_period else off / of_period,
                "together": count,
            },
            times_next=larger / (smaller or 1.0),
            far=not low <= value <= high
            and (larger >= self.floor_factor * smaller or (value * typical < 0 and value * following < 0)),
            group=group,
            check=Check(
                sql=one_row(
                    {
                        "value": _place_from_end(quoted, condition, following_in.index(value) + 1, above),
                        "typical": f"(SELECT median({quoted}) FROM source WHERE {condition} AND {quoted} <> 0)",
                    }
                ),
                expect={"value": value, "typical": typical},
            ),
        )

    def _of_period(self, survey: Survey, column: str, row: Table) -> float | None:
        """What the sizes of the column's values add up to in the period of a row, but for that row."""
        line, table = survey.timeline, survey.table
        if line is None:
            return None
        day = row.days(line.column)[0]
        if np.isnat(day):
            return None
        span = line.calendar.holding(line.grain, day)
        value = f"CAST({quote_name(column)} AS DOUBLE)"
        found = table.store.query(
            f"SELECT sum(abs({value})) AS size FROM source WHERE {within(table, Slice(), line.column, span)}"
        )
        size = float(f"{float(found.column('size')[0].as_py()):.6g}")
        return max(0.0, size - abs(float(row.numbers(column)[0])))


def _place_from_end(quoted: str, condition: str, place: int, above: bool) -> str:
    """SQL for the value that comes so far down from the greatest, or up from the least."""
    end, order = ("min", "DESC") if above else ("max", "ASC")
    if place == 1:
        return f"(SELECT {'max' if above else 'min'}({quoted}) FROM source WHERE {condition})"
    last = (
        f"SELECT {quoted} AS v FROM source WHERE {condition} AND {quoted} IS NOT NULL ORDER BY 1 {order} LIMIT {place}"
    )
    return f"(SELECT {end}(v) FROM ({last}))"


def _apart(tail: Floats) -> tuple[int, float, float]:
    """How many rows stand apart, the gap below them, and its p-value: the surest of the first few gaps, paid for."""
    ranks = np.arange(1, tail.size)
    spacings = ranks * (tail[:-1] - tail[1:])
    best = (1, float(spacings[0]), 1.0)
    for count, room in enumerate(_ROOM, start=1):
        rest = spacings[count : count + _BELOW - 1]
        below = max(float(rest.sum()), (_BELOW - 1) * _LEAST_SPACING)
        p = min(1.0, float((1 + spacings[count - 1] / below) ** -(_BELOW - 1)) / room)
        if p < best[2]:
            best = (count, float(spacings[count - 1]), p)
    return best


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Told:
    """A row that stands out: its figures, how many times the next value it is, whether that is far, the values of its
    group (itself the last), and the query that gives the figures again."""

    figures: dict[str, Any]
    times_next: float
    far: bool
    group: Floats
    check: Check


def _ends(table: Table, quoted: str, condition: str, most: int) -> tuple[float, list[float], list[float], float]:
    """The median of a group's values that are not nought, its `most` greatest and least, and the sum of the sizes of
    the column's values over all rows."""
    value = f"CAST({quoted} AS DOUBLE)"
    used = f"{condition} AND {quoted} <> 0"
    ends = " UNION ALL ".join(
        f"SELECT * FROM (SELECT {place} AS place, {value} AS v FROM source WHERE {used} ORDER BY v {way} LIMIT {most}) "
        f"AS ends_{place}"
        for place, way in ((2, "DESC"), (3, "ASC"))
    )
    found = table.store.query(
        f"SELECT 0 AS place, median({value}) AS v FROM source WHERE {used} UNION ALL "
        # Rounded to six figures, since sums of doubles differ from run to run in the last ones.
        f"SELECT 1 AS place, sum(abs({value})) AS v FROM source UNION ALL {ends}"
    )
    came: dict[int, list[float]] = {place: [] for place in range(4)}
    for place, cell in zip(found.column("place").to_pylist(), found.column("v").to_pylist(), strict=True):
        came[int(place)].append(float(cell))
    highest, lowest = sorted(came[2], reverse=True), sorted(came[3])
    return came[0][0], highest, lowest, float(f"{came[1][0]:.6g}")


def _varied(values: Floats) -> bool:
    """Whether enough different values occur; most columns show it in their first rows."""
    return np.unique(values[:10_000]).size >= _BELOW or np.unique(values).size >= _BELOW


def _best_group(survey: Survey, drawn: Rows, values: Floats, use: npt.NDArray[np.bool_]) -> str | None:
    """The dimension within which the column varies least."""
    logs = np.log(np.abs(values[use]))
    best: tuple[float, str | None] = (0.1, None)
    whole = float(np.var(logs))
    centred = logs - float(np.mean(logs))
    for column in survey.dimensions:
        codes, size = drawn.codes(column.name)
        code = codes[use]
        n = np.bincount(code, minlength=size)
        if whole == 0 or n[n > 0].min() < 2 * _BELOW:
            continue
        mean = np.bincount(code, weights=centred, minlength=size) / np.maximum(n, 1)
        explained = float((n * mean * mean).sum()) / (whole * logs.size)
        if explained > best[0]:
            best = (explained, column.name)
    return best[1]


def _scale(
    survey: Survey, drawn: Rows, values: Floats, use: npt.NDArray[np.bool_], by: str | None, positive: bool
) -> Scale:
    """Middle and robust spread of each group's rows; every row of the table is measured by them."""
    # Many columns lie even about their middle as they are; their logarithms would have a long tail downwards.
    positive = positive and _skew(np.log(values[use])) <= _skew(values[use])
    x = np.log(values[use]) if positive else values[use]
    codes, size = (np.zeros(values.size, dtype=np.intp), 1) if by is None else drawn.codes(by)
    own = codes[use]
    order = np.argsort(own, kind="stable")
    ends = np.cumsum(np.bincount(own, minlength=size))
    middle, width = np.full(size, np.nan), np.ones(size)
    for code, group in enumerate(np.split(x[order], ends[:-1])):
        if group.size:
            middle[code] = float(np.median(group))
            spread = 1.4826 * float(np.median(np.abs(group - middle[code])))
            width[code] = spread or float(np.std(group)) or 1.0
    return Scale(by=by, middle=middle, width=width, log=positive)


def _skew(values: Floats) -> float:
    """How uneven a column's middle 95% lie about the median (Hinkley 1975), without sign."""
    low, middle, high = np.quantile(values, (0.025, 0.5, 0.975))
    return float(abs(high + low - 2 * middle) / (high - low)) if high > low else 0.0


def _fence(middle: float, scale: float, positive: bool) -> tuple[float, float]:
    low, high = middle - 3.5 * scale, middle + 3.5 * scale
    return (float(np.exp(low)), float(np.exp(high))) if positive else (low, high)


def _fault(value: float, others: Floats) -> tuple[str, float | None]:
    """The slip that would explain the value, and by what factor it is off: what it would be without is usual in its
    group."""
    low, high = np.quantile(others, [0.005, 0.995])
    for factor in (1000, 100, 10):
        if low <= value / factor <= high:
            return "factor", float(factor)
    for factor in (1000, 100, 10):
        if low <= value * factor <= high and abs(value) < abs(low):
            return "factor", 1 / factor
    return ("sign" if low <= -value <= high else "large"), None
