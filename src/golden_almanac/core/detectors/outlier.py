"""Outlier rows: one value far beyond all others of its group, and what may be wrong with it.

Business amounts have long tails, so distance from the middle proves nothing. What proves something
is the gap to the next value: on a log scale the spacings of the largest values of even a Pareto tail
are independent exponentials (Rényi 1953), so the top gap against the gaps below it is a ratio with a
known tail, p = (1 + gap / Σ gaps below)^−(k−1).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np
import numpy.typing as npt

from ..cells import Survey
from ..findings import Candidate, Check, Slice
from ..findings.checks import one_row, within
from ..findings.scoring import squash
from ..measures import Measure
from ..parallel import each
from ..series.regression import Floats
from ..tables import Role

#: Values below the top whose spacings tell how long the tail is.
_BELOW = 30
#: Spacings of a column with many equal values are no smaller than this, in robust deviations.
_LEAST_SPACING = 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class Outlier:
    """`floor_factor`: a value must be so many times the next one to be reported."""

    kind: ClassVar[str] = "outlier"
    needs_time: ClassVar[bool] = False
    least_periods: ClassVar[int] = 0
    floor_factor: float = 3.0

    def detect(self, survey: Survey) -> list[Candidate]:
        asked: dict[str, Measure] = {}
        for measure in survey.measures:
            part = measure.top[0][1]
            if part.column and part.kind != "count" and not measure.share:
                asked.setdefault(part.column, measure)
        survey.sample()
        found = each(lambda one: self._column(survey, one[1], one[0]), asked.items(), survey.size)
        return [candidate for candidate in found if candidate is not None]

    def _column(self, survey: Survey, measure: Measure, column: str) -> Candidate | None:
        table = survey.table
        values = table.numbers(column)
        use = np.isfinite(values) & (values != 0)
        if use.sum() < 4 * _BELOW or not _varied(values[use]):
            return None
        by, codes = _best_group(survey, values, use)
        robust, middle, scale = _robust(survey, values, use, codes)
        order = _farthest(np.where(np.isfinite(robust), np.abs(robust), -1.0), _BELOW + 1)
        tail = np.abs(robust[order])
        spacings = np.arange(1, _BELOW + 1) * (tail[:-1] - tail[1:])
        below = max(float(spacings[1:].sum()), (_BELOW - 1) * _LEAST_SPACING)
        p = float((1 + spacings[0] / below) ** -(_BELOW - 1))
        row = int(order[0])
        code = int(codes[row])
        value = float(values[row])
        group = use & (codes == code)
        where = Slice() if by is None else Slice(((by, table.codes(by)[1][code]),))
        low, high = _fence(value, middle[code], scale[code], bool((values[use] > 0).all()))
        typical = float(np.median(values[use & (codes == code)]))
        fault = _fault(value, values[group], row, np.flatnonzero(group))
        key_column = next((c.name for c in table.with_role(Role.KEY)), None)
        key = None if key_column is None else str(table.arrow.column(key_column)[row].as_py())
        line = survey.timeline
        day = None if line is None else table.days(line.column)[row]
        condition = within(table, where)
        quoted = '"' + column.replace('"', '""') + '"'
        # Far above the others, or far below: as many times smaller, or on the other side of nought.
        above = value >= typical
        following = float(
            values[group & (np.arange(values.size) != row)].max()
            if above
            else values[group & (np.arange(values.size) != row)].min()
        )
        extreme = "max" if above else "min"
        share = abs(value) / float(np.abs(values[use]).sum())
        figures: dict[str, Any] = {
            "column": column,
            "row": int(table.row_numbers()[row]),
            "value": value,
            "expected_low": low,
            "expected_high": high,
            "typical": typical,
            "times_typical": value / typical if typical else None,
            "next_value": following,
            "fault": fault,
            "key": key,
            "key_column": key_column,
            "date": None if day is None or np.isnat(day) else str(day),
            "share": share,
        }
        check = Check(
            sql=one_row(
                {
                    "value": f"(SELECT {extreme}({quoted}) FROM source WHERE {condition})",
                    "typical": f"(SELECT median({quoted}) FROM source WHERE {condition} AND {quoted} <> 0)",
                }
            ),
            expect={"value": value, "typical": typical},
        )
        large_one, small_one = sorted((abs(value), abs(following)))[::-1]
        far = large_one >= self.floor_factor * small_one or (value * typical < 0 and value * following < 0)
        return Candidate(
            kind=self.kind,
            measure=measure,
            by=by,
            where=where,
            period=None,
            baseline=None,
            direction=None,
            figures=figures,
            test="gap to the next value against the gaps below it",
            statistic=float(spacings[0]),
            p=p,
            strength=squash(large_one / (small_one or 1.0), 5.0),
            reach=max(0.1, share),
            large=bool(far),
            check=check,
            series={"group": values[group], "row": value},
        )


def _varied(values: Floats) -> bool:
    """Whether enough different values occur; most columns show it in their first rows."""
    return np.unique(values[:10_000]).size >= _BELOW or np.unique(values).size >= _BELOW


def _farthest(size: Floats, count: int) -> npt.NDArray[np.intp]:
    """The places of the largest, in order; of equal ones the first. Far fewer than the rows are sorted."""
    least = np.partition(size, size.size - count)[size.size - count]
    places = np.flatnonzero(size >= least)
    return places[np.argsort(-size[places], kind="stable")][:count]


def _best_group(survey: Survey, values: Floats, use: npt.NDArray[np.bool_]) -> tuple[str | None, npt.NDArray[Any]]:
    """The dimension within which the column varies least (by an even sample of a long table), and its codes."""
    rows = survey.sample()
    places = np.flatnonzero(use) if rows is None else rows[use[rows]]
    logs = np.log(np.abs(values[places]))
    best: tuple[float, str | None, npt.NDArray[Any]] = (0.1, None, np.zeros(values.size, dtype=np.int32))
    whole = float(np.var(logs))
    centred = logs - float(np.mean(logs))
    for column in survey.dimensions:
        codes, labels = survey.table.codes(column.name)
        own = codes[places]
        n = np.bincount(own, minlength=len(labels))
        if whole == 0 or n[n > 0].min() < 2 * _BELOW:
            continue
        mean = np.bincount(own, weights=centred, minlength=len(labels)) / np.maximum(n, 1)
        explained = float((n * mean * mean).sum()) / (whole * logs.size)
        if explained > best[0]:
            best = (explained, column.name, codes)
    return best[1], best[2]


def _robust(
    survey: Survey, values: Floats, use: npt.NDArray[np.bool_], codes: npt.NDArray[Any]
) -> tuple[Floats, dict[int, float], dict[int, float]]:
    """Robust deviations from the middle of the group, on a scale whose Pareto tails are exponential.

    Middle and spread of a long table's groups are those of an even sample; every row is measured by them.
    """
    positive = not bool((values[use] <= 0).any())
    x = np.log(values, where=use, out=np.full(values.size, np.nan)) if positive else np.where(use, values, np.nan)
    rows = survey.sample()
    places = np.flatnonzero(use) if rows is None else rows[use[rows]]
    order = places[np.argsort(codes[places], kind="stable")]
    size = int(codes.max()) + 1
    ends = np.cumsum(np.bincount(codes[places], minlength=size))
    middle: dict[int, float] = {}
    scale: dict[int, float] = {}
    for code, group in enumerate(np.split(order, ends[:-1])):
        if group.size:
            own = x[group]
            middle[code] = float(np.median(own))
            spread = 1.4826 * float(np.median(np.abs(own - middle[code])))
            scale[code] = spread or float(np.std(own)) or 1.0
    centre = np.array([middle.get(code, np.nan) for code in range(size)])
    width = np.array([scale.get(code, 1.0) for code in range(size)])
    z = (x - centre[codes]) / width[codes]
    return (z if positive else np.arcsinh(z)), middle, scale


def _fence(value: float, middle: float, scale: float, positive: bool) -> tuple[float, float]:
    low, high = middle - 3.5 * scale, middle + 3.5 * scale
    return (float(np.exp(low)), float(np.exp(high))) if positive else (low, high)


def _fault(value: float, group: Floats, row: int, rows: npt.NDArray[Any]) -> str:
    """The slip that would explain the value: what it would be without it is usual in its group."""
    others = group[rows != row]
    low, high = np.quantile(others, [0.005, 0.995])
    for factor in (1000, 100, 10):
        if low <= value / factor <= high:
            return f"factor of {factor}"
    for factor in (1000, 100, 10):
        if low <= value * factor <= high and abs(value) < abs(low):
            return f"factor of 1/{factor}"
    return "sign" if low <= -value <= high else "large"
