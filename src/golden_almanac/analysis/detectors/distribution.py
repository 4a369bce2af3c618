"""Distribution: how the values of a column lie, where that says something about how they came to be.

Three shapes are told. Heaps: far more values on round numbers than between them, as when people estimate. Two humps:
two usual sizes with few values between; the test compares the counts of a peak and of a valley, which are a fair coin
where there is no valley, and pays for every peak, valley and peak that could have been chosen. What rows repeat (the
price of an article in each of its sales) is counted once. A long tail: a tenth of the rows make more than half of the
whole, in most periods.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from ...aggregation import Rows, Survey
from ...aggregation.measures import Measure
from ...findings import Candidate, Check, Slice
from ...findings.checks import one_row, within
from ...findings.finding_kind import FindingKind
from ...findings.scoring import squash
from ...sql.expressions import quote_name
from ...stats.autocorrelated_fits import Floats
from ...tables.meaning.name_words import MONEY, PRICES, tells, words
from ..clusters import Clusters
from .block_tests import LEAST_BLOCKS, block_test
from .cluster_checks import repeated_in

#: Rows below which no shape is told, and different values below which a column is a list of codes.
_LEAST_ROWS, _LEAST_VALUES = 200, 40
#: Round numbers are so many times as coarse as the values are written.
_ROUND = (5, 10, 50, 100, 500, 1000)
#: Bins in which humps are looked for.
_BINS = 60
#: The top tenth of the rows.
_TOP = 0.1
_CLEAR = 0.05
#: How well a dimension, or when a row was, must tell the humps apart to be what makes them; spans of time looked at.
_DIVIDES, _SPANS = 0.5, 24
#: A number of which more than this are multiples of a step is one of such steps: nobody rounded it.
_IN_THOSE = 0.98


KIND = FindingKind(
    name="distribution",
    what="heaps at round numbers, two humps, a few rows that make most",
    detector="Distribution",
    of_rows=True,
    interest=0.4,
    weight=0.5,
    told_apart_by="shape",
    shows_rows=True,
    stands_alone=True,
    figures={
        "column": "the column",
        "shape": "heaps, two humps or long tail",
        "n": "rows looked at",
        "step": "the round number",
        "on_step": "share of the values that are multiples of it",
        "even_share": "the share that chance would give",
        "first_hump": "the middle of the first hump",
        "second_hump": "the middle of the second",
        "valley": "the middle of the valley between",
        "valley_depth": "the valley's count as a share of the lower hump's",
        "below": "share of the rows below the valley",
        "divided_by": "the dimension that tells the humps apart, None where none does",
        "divided_share": "share of the spread that it accounts for",
        "top_share": "share of the whole that the top tenth of the rows make",
        "top_from": "the least value among the top tenth",
        "top_rows": "the share of rows that are the top",
        "median": "median of the column",
        "quartiles": "first, second and third quartile",
        "skew": "Bowley's skewness of the quartiles",
    },
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Distribution:
    """`floor_heap`: so many times the even share must lie on round numbers; `floor_valley`: the valley holds at most
    this part of the lower hump; `floor_tail`: a tenth of the rows must make so much of the whole."""

    kind: ClassVar[FindingKind] = KIND
    floor_heap: float = 2.0
    floor_valley: float = 0.5
    floor_tail: float = 0.5

    def detect(self, survey: Survey) -> list[Candidate]:
        asked: dict[str, Measure] = {}
        for measure in survey.measures:
            part = measure.top[0][1]
            if part.column and part.kind == "sum" and not measure.share:
                asked.setdefault(part.column, measure)
        drawn = survey.drawn()
        found = []
        for column, measure in asked.items():
            values = drawn.table.numbers(column)
            values, each = (
                values[np.isfinite(values)],
                _once_each(values, repeated_in(survey, ("column", column), values)),
            )
            if each.size < _LEAST_ROWS or np.unique(each).size < _LEAST_VALUES:
                continue
            heaps = self._heaps(survey, measure, column, values, each)
            found.append(heaps)
            # Every round number is a hump of its own where values heap on them.
            if heaps is None or not heaps.large:
                found.append(self._humps(survey, measure, column, values, each))
            if measure.additive:
                found.append(self._tail(survey, drawn, measure, column))
        return [one for one in found if one is not None]

    def _heaps(self, survey: Survey, measure: Measure, column: str, values: Floats, each: Floats) -> Candidate | None:
        from scipy.special import bdtrc

        unit = _unit(each)
        spread = float(np.quantile(each, 0.75) - np.quantile(each, 0.25))
        steps = [round(unit * times, 6) for times in _ROUND if unit and unit * times * 4 <= spread]
        if tells(words(column), MONEY | PRICES):
            # Prices end in round cents because somebody set them so.
            steps = [step for step in steps if step >= 1]
        if not steps:
            return None
        whole = np.round(each[each != 0] / unit)
        best: tuple[float, float, int] = (1.0, steps[0], 0)
        for step in steps:
            times = round(step / unit)
            on = int((whole % times == 0).sum())
            p = float(bdtrc(on - 1, whole.size, 1 / times)) if on else 1.0
            best = min(best, (p, -step, on))
        step, on = -best[1], best[2]
        p = min(1.0, best[0] * len(steps))
        share, even = on / whole.size, unit / step
        quoted = quote_name(column)
        inside = f"{within(survey.table, Slice())} AND {quoted} <> 0"
        on_step = f"round({quoted} / {unit!r}) % {round(step / unit)} = 0"
        figures = {"step": step, "on_step": share, "even_share": even}
        return self._made(
            survey, measure, column, "heaps", figures, "binomial: values on round numbers against an even share",
            on, p, squash(share / even, 4.0), share >= self.floor_heap * even and 0.2 <= share <= _IN_THOSE,
            {
                "on_step": f"(SELECT count(*) FILTER (WHERE {on_step}) / count(*) FROM source WHERE {inside})",
            },
            ("on_step",), values,
        )  # fmt: skip

    def _humps(self, survey: Survey, measure: Measure, column: str, values: Floats, each: Floats) -> Candidate | None:
        from scipy.special import bdtrc

        low, high = (float(end) for end in np.quantile(each, (0.005, 0.995)))
        logs = low > 0 and high / low > 20
        unit = _unit(each)
        if high <= low or (unit and (high - low) < 4 * _BINS * unit):
            return None
        edges = np.geomspace(low, high, _BINS + 1) if logs else np.linspace(low, high, _BINS + 1)
        counts = np.histogram(each, edges)[0].astype(np.float64)
        # Three bins together, so that a peak is no single bin.
        wide = np.convolve(counts, np.ones(3), mode="valid")
        left = np.maximum.accumulate(wide)[:-6]
        right = np.maximum.accumulate(wide[::-1])[::-1][6:]
        valley = wide[3:-3]
        lower = np.minimum(left, right)
        at = int(np.argmax((lower - valley) / np.sqrt(np.maximum(lower + valley, 1))))
        peak, floor = int(lower[at]), int(valley[at])
        places = wide.size * (wide.size - 1) * (wide.size - 2) / 6
        p = min(1.0, float(bdtrc(peak - 1, peak + floor, 0.5)) * places) if peak > floor else 1.0
        first, second = int(np.argmax(wide[: at + 1])), at + 6 + int(np.argmax(wide[at + 6 :]))
        bottom = at + 3
        ends = [float(edges[bottom]), float(edges[bottom + 3])]
        by, told = _divides(survey, column, ends) if p <= _CLEAR else (None, 0.0)
        quoted, inside = quote_name(column), within(survey.table, Slice())
        below = f"(SELECT count(*) FILTER (WHERE {quoted} < {ends[0]!r}) / count({quoted}) FROM source WHERE {inside})"
        figures = {
            "first_hump": _centre(edges, first),
            "second_hump": _centre(edges, second),
            "valley": _centre(edges, bottom),
            "valley_depth": floor / peak if peak else 1.0,
            "below": None,
            "divided_by": by,
            "divided_share": told,
        }
        return self._made(
            survey, measure, column, "two humps", figures, "a peak's count against the valley's, times their choices",
            peak, p, squash(peak / max(floor, 1.0), 4.0),
            floor <= self.floor_valley * peak and not (p <= _CLEAR and _of_time(survey, column, ends)),
            {"below": below}, ("below",), values,
        )  # fmt: skip

    def _tail(self, survey: Survey, drawn: Rows, measure: Measure, column: str) -> Candidate | None:
        values = drawn.table.numbers(column)
        known = np.isfinite(values)
        if values[known].min() < 0 or not values[known].sum() > 0:
            return None
        cut = float(np.quantile(values[known], 1 - _TOP))
        top = known & (values >= cut)
        line = survey.timeline
        t, p = 0.0, 1.0
        if line is not None and line.complete_count >= LEAST_BLOCKS:
            places = drawn.places()
            sums = [
                np.bincount(places[use], weights=values[use], minlength=line.count + 1)[line.complete]
                for use in (top, known)
            ]
            share = np.divide(sums[0], sums[1], out=np.full(sums[0].size, np.nan), where=sums[1] > 0)
            t, p = block_test(share - self.floor_tail, np.isfinite(share).astype(np.float64))
            p = p if t > 0 else 1.0
        quoted, inside = quote_name(column), within(survey.table, Slice())
        tail = f"(SELECT sum({quoted}) FILTER (WHERE {quoted} >= {cut!r}) / sum({quoted}) FROM source WHERE {inside})"
        made = float(values[top].sum() / values[known].sum())
        return self._made(
            survey, measure, column, "long tail", {"top_share": made, "top_from": cut, "top_rows": _TOP},
            "t over periods: the share of the top tenth of the rows against half", t, p,
            squash(made / self.floor_tail, 2.0), made > self.floor_tail, {"top_share": tail}, ("top_share",), values,
        )  # fmt: skip

    def _made(
        self,
        survey: Survey,
        measure: Measure,
        column: str,
        shape: str,
        figures: dict[str, Any],
        test: str,
        statistic: float,
        p: float,
        strength: float,
        large: bool,
        columns: dict[str, str],
        asked: tuple[str, ...],
        values: Floats,
    ) -> Candidate:
        figures = {"column": column, "shape": shape, "n": int(values.size), **figures}
        check = None
        if p <= _CLEAR and large:
            quoted, inside = quote_name(column), within(survey.table, Slice())
            columns = columns | {"median": f"(SELECT median({quoted}) FROM source WHERE {inside})"}
            row = survey.table.store.query(one_row(columns))
            # Of a long table a sample was tested; what is told is that of all its rows.
            got = {name: float(f"{float(row.column(name)[0].as_py()):.11g}") for name in columns}
            figures |= got
            check = Check(sql=one_row(columns), expect=got)
            quartiles = [float(q) for q in np.quantile(values, (0.25, 0.5, 0.75))]
            figures |= {"quartiles": quartiles, "skew": _bowley(quartiles)}
        return Candidate(
            kind=self.kind,
            measure=measure,
            by=None,
            where=Slice(),
            period=None,
            baseline=None,
            direction=None,
            figures=figures,
            test=survey.drawn().named(test),
            statistic=float(statistic),
            p=p,
            strength=strength,
            reach=0.5,
            large=large and check is not None,
            check=check,
            series={"values": values} if check is not None else {},
        )


def _once_each(values: Floats, repeated: Sequence[Clusters]) -> Floats:
    """The values that are known, shape (rows,); where rows repeat what the labels of a column have, the middle one of
    each label: of the finest column, as the prices of articles lie within those of their groups."""
    known = np.isfinite(values)
    if not repeated:
        return values[known]
    finest = max(repeated, key=lambda one: (int(one.codes.max()), one.name)).codes[known]
    order = np.lexsort((values[known], finest))
    starts = np.flatnonzero(np.diff(finest[order], prepend=-1))
    stops = np.append(starts[1:], order.size)
    middle: Floats = values[known][order[(starts + stops - 1) // 2]]
    return middle


def _centre(edges: Floats, place: int) -> float:
    """The middle of three bins."""
    return float((edges[place] + edges[place + 3]) / 2)


def _unit(values: Floats) -> float:
    """The unit that values are written in: 1, 0.1, 0.01; nought where they have more decimals."""
    for decimals in range(3):
        if np.all(np.abs(values - np.round(values, decimals)) <= 1e-9 * np.maximum(1.0, np.abs(values))):
            return float(10.0**-decimals)
    return 0.0


def _bowley(quartiles: list[float]) -> float:
    """Skewness by quartiles (Bowley 1901): 0 where the median lies in the middle of them."""
    low, middle, high = quartiles
    return (high + low - 2 * middle) / (high - low) if high > low else 0.0


def _divides(survey: Survey, column: str, valley: list[float]) -> tuple[str | None, float]:
    """The dimension whose labels tell best on which side of the valley a row lies, and how well (0–1)."""
    drawn = survey.drawn()
    best: tuple[float, str | None] = (_DIVIDES, None)
    for dimension in survey.dimensions:
        codes, size = drawn.codes(dimension.name)
        told = _told_by(codes, size, drawn.table.numbers(column), valley)
        if told > best[0]:
            best = (told, dimension.name)
    return best[1], best[0] if best[1] is not None else 0.0


def _of_time(survey: Survey, column: str, valley: list[float]) -> bool:
    """Whether when a row was says on which side of the valley it lies: what grew over the years has many usual sizes,
    one after the other."""
    line = survey.timeline
    if line is None or line.count < 2:
        return False
    drawn = survey.drawn()
    spans = np.minimum(drawn.places() * _SPANS // line.count, _SPANS)
    return _told_by(spans, _SPANS + 1, drawn.table.numbers(column), valley) > _DIVIDES


def _told_by(codes: Any, size: int, values: Floats, valley: list[float]) -> float:
    """How well codes tell on which side of a valley values lie, 0 to 1."""
    use = np.isfinite(values) & ((values < valley[0]) | (values > valley[1]))
    above = (values[use] > valley[1]).astype(np.float64)
    whole = float(above.var()) if above.size else 0.0
    n = np.bincount(codes[use], minlength=size)
    mean = np.bincount(codes[use], weights=above, minlength=size) / np.maximum(n, 1)
    return float((n * (mean - above.mean()) ** 2).sum() / n.sum()) / whole if whole else 0.0
