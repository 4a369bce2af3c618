"""Relationships: two columns whose values go together, row by row, when time and groups are taken out.

Normal scores of the ranks within each week (or month), so that what a shared trend or season does to both columns is
no relationship; then the averages of weekdays and of every dimension's labels are taken out. Two tests must agree: on
rows, with the variance of the permutations within weeks (Hájek & Šidák 1967); and over periods (see `blocks`).
Accounting identities are never reported, also with noise, nor columns that are each other's copy.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations
from typing import Any, ClassVar

import numpy as np
import numpy.typing as npt

from ...aggregation import Rows, Survey
from ...findings import Candidate, Check, Slice
from ...findings.checks import within
from ...findings.finding_kind import FindingKind, Floor
from ...findings.scoring import squash
from ...sql.expressions import quote_name
from ...stats.autocorrelated_fits import Floats
from ...stats.normal_scores import normal_scores
from ...tables import Grain
from ...tables.composed_columns import composed_pairs
from ...tables.identities import bound_together, identities
from ...tables.meaning.name_words import words
from .block_tests import LEAST_BLOCKS, block_test
from .cluster_checks import CLEAR, clustered_p, repeated_in

#: Columns paired with each other at most; rows below which nothing is said; labels of a dimension taken out.
_MOST_COLUMNS, _LEAST_ROWS, _MOST_LABELS = 12, 100, 500
#: Rows in the median stratum below which longer strata are taken.
_LEAST_STRATUM = 8
#: Columns that go together more closely are copies of each other.
_COPY = 0.999
#: Words of what a thing is seen as, in the names of columns that go together of themselves.
_SEEN_AS = frozenset(
    "high low avg average mean median min max minimum maximum highest lowest raw adj adjusted gross net orig original "
    "brutto netto bruto neto brut total".split()
)
#: Bins by which the shape is told.
BINS = 10


def _named(grain: Grain | None) -> str:
    """What the test is called, by the periods within which rows are ranked."""
    if grain is None:
        return "normal scores of the rows, groups taken out"
    if grain is Grain.WEEK:
        return "normal scores within weeks, groups taken out, and t over periods"
    return "normal scores within periods, groups taken out, and t over periods"


KIND = FindingKind(
    name="relationship",
    what="two columns whose values go together beyond what time and groups explain",
    detector="Relationship",
    of_rows=True,
    interest=0.6,
    floor=Floor(setting="floor", unit="correlation"),
    told_apart_by="columns",
    stands_alone=True,
    figures={
        "columns": "the two columns",
        "r": "correlation of the rows as they stand",
        "low": "lower end of its 95% range",
        "high": "upper end of its 95% range",
        "r_adjusted": "correlation of normal scores within weeks, groups taken out",
        "slope": "change of the second for one of the first, by least squares",
        "n": "rows with both",
        "within": "the grain of the periods within which it was looked at, None where there is no time",
        "shape": "straight, uneven, levels off, sets in late, or turns",
    },
)


#: The part of a correlation that must be left within the same period and the same groups.
_LEFT_WITHIN = 0.3


@dataclass(frozen=True, slots=True, kw_only=True)
class Relationship:
    """`floor`: correlations smaller than this, plain or adjusted, are not reported."""

    kind: ClassVar[FindingKind] = KIND
    floor: float = 0.15

    def detect(self, survey: Survey) -> list[Candidate]:
        columns = _columns(survey)
        drawn = survey.drawn()
        if len(columns) < 2 or drawn.size < _LEAST_ROWS:
            return []
        bound = bound_together(identities(survey.table, columns))
        strata, size, grain = _strata(drawn)
        scores = {name: _adjusted(survey, drawn, drawn.table.numbers(name), strata, size) for name in columns}
        pairs = {frozenset(pair): _test(survey, scores, pair, strata, size) for pair in combinations(columns, 2)}
        adjusted = {pair: found[0] for pair, found in pairs.items()}
        # What makes a column up may be no measure: prices of a few steps are labels.
        numeric = [column.name for column in survey.table.columns if column.type == "number"]
        made = composed_pairs(survey.table, list(dict.fromkeys([*columns, *numeric])))
        tested = [
            pair
            for pair in combinations(columns, 2)
            if frozenset(pair) not in made and not any(set(pair) <= one for one in bound) and not _same_thing(*pair)
        ]
        likely = [pair for pair in tested if self._likely(*pairs[frozenset(pair)])]
        seen = _plain(survey, likely)
        return [
            self._candidate(survey, pair, pairs[frozenset(pair)], seen.get(pair), adjusted, grain) for pair in tested
        ]

    def _likely(self, r_adjusted: float, _: float, p: float) -> bool:
        return p <= 0.05 and abs(r_adjusted) >= self.floor

    def _candidate(
        self,
        survey: Survey,
        pair: tuple[str, str],
        found: tuple[float, float, float],
        seen: dict[str, float] | None,
        adjusted: dict[frozenset[str], float],
        grain: Grain | None,
    ) -> Candidate:
        first, second = pair
        r_adjusted, statistic, p = found
        name = _named(grain)
        figures: dict[str, Any] = {"columns": [first, second]}
        # The logarithm of a column goes with it rank by rank.
        if seen is None or not np.isfinite(seen["r"]) or max(abs(seen["r"]), abs(r_adjusted)) >= _COPY:
            return Candidate(
                kind=self.kind, measure=None, by=None, where=Slice(), period=None, baseline=None, direction=None,
                figures=figures, test=name, statistic=statistic, p=p, strength=0.0, reach=0.0, large=False, check=None,
            )  # fmt: skip
        r, n = seen["r"], seen["n"]
        reach = float(np.arctanh(r)), 1.96 / np.sqrt(max(1.0, n - 3))
        x, y, shape = _shape(survey, first, second)
        return Candidate(
            kind=self.kind,
            measure=None,
            by=None,
            where=Slice(),
            period=None,
            baseline=None,
            direction="up" if r > 0 else "down",
            figures=figures
            | {
                "r": r,
                "low": float(np.tanh(reach[0] - reach[1])),
                "high": float(np.tanh(reach[0] + reach[1])),
                "r_adjusted": r_adjusted,
                "slope": seen["slope"],
                "n": int(n),
                "within": None if grain is None else str(grain),
                "shape": shape,
            },
            test=survey.drawn().named(name),
            statistic=statistic,
            p=p,
            strength=squash(r_adjusted, 0.4),
            reach=0.5,
            # What goes together only from year to year, or from group to group, grew beside the other.
            large=abs(r) >= self.floor and r * r_adjusted > 0 and abs(r_adjusted) >= _LEFT_WITHIN * abs(r),
            check=Check(
                sql=_SQL.format(a=_double(first), b=_double(second), where=within(survey.table, Slice())),
                expect={"r": r, "slope": seen["slope"], "n": float(n)},
            ),
            series={"x": x, "y": y, "adjusted": adjusted},
        )


_SQL = (
    "SELECT corr({b}, {a}) AS r, regr_slope({b}, {a}) AS slope, count(*) AS n FROM source "
    "WHERE {where} AND {a} IS NOT NULL AND {b} IS NOT NULL"
)


def _double(name: str) -> str:
    return f"CAST({quote_name(name)} AS DOUBLE)"


def _columns(survey: Survey) -> list[str]:
    """Plain numeric columns of the measures, in their order; not yes/no ones, which part the rows in two groups."""
    found = []
    for measure in survey.measures:
        part = measure.top[0][1]
        if len(measure.top) == 1 and part.column and part.kind == "sum" and not measure.share:
            found.append(part.column)
    return list(dict.fromkeys(found))[:_MOST_COLUMNS]


def _same_thing(first: str, second: str) -> bool:
    """Whether two names tell of one thing seen twice: the highest and the average of a day, gross and net."""
    one, other = (frozenset(words(name)) for name in (first, second))
    return bool(one & other) and one - _SEEN_AS == other - _SEEN_AS != frozenset()


def _strata(drawn: Rows) -> tuple[npt.NDArray[np.intp], int, Grain | None]:
    """Rows that are near in time: of one week where it has rows enough, else of one month, quarter, year, or all; the
    stratum of each row, how many there are, and their grain."""
    line = drawn.timeline
    if line is None:
        return np.zeros(drawn.size, dtype=np.intp), 1, None
    days = drawn.table.days(line.column)
    missing = np.isnat(days)
    filled = np.where(missing, line.first_day, days)
    grains = (Grain.WEEK, Grain.MONTH, Grain.QUARTER, Grain.YEAR)
    numbers = {grain: line.calendar.number(grain, filled) for grain in grains}
    for grain in grains:
        place = (numbers[grain] - numbers[grain].min()).astype(np.intp)
        size = int(place.max()) + 1
        counts = np.bincount(place[~missing], minlength=size)
        if size > 1 and np.median(counts[counts > 0]) >= _LEAST_STRATUM:
            # Of a table of one date a month the rows of a week are those of a month.
            occupied = {one: np.unique(numbers[one][~missing]).size for one in grains[grains.index(grain) :]}
            told = [one for one in occupied if occupied[one] == occupied[grain]][-1]
            return np.where(missing, size, place), size + 1, told
    return missing.astype(np.intp), 2, None


def _adjusted(survey: Survey, drawn: Rows, values: Floats, strata: npt.NDArray[np.intp], size: int) -> Floats:
    """Scores within strata, less the averages of weekdays and labels; NaN where the value is missing."""
    scores = normal_scores(values, strata, size)
    known = np.isfinite(scores)
    groups: list[tuple[npt.NDArray[Any], int]] = [(strata, size)]
    if survey.timeline is not None:
        days = drawn.table.days(survey.timeline.column)
        number = np.where(np.isnat(days), np.datetime64(0, "D"), days).astype(np.int64)
        groups.append((number % 7, 7))
    coded = [drawn.codes(column.name) for column in survey.dimensions]
    groups += [(codes, count) for codes, count in coded if count <= _MOST_LABELS]
    own = [(codes[known], count) for codes, count in groups]
    sizes = [np.maximum(np.bincount(code, minlength=count), 1) for code, count in own]
    left = scores[known]
    for _ in range(3):
        for (code, count), n in zip(own, sizes, strict=True):
            left -= (np.bincount(code, weights=left, minlength=count) / n)[code]
    scores[known] = left
    return scores


def _test(
    survey: Survey, scores: dict[str, Floats], pair: tuple[str, str], strata: npt.NDArray[np.intp], size: int
) -> tuple[float, float, float]:
    """The adjusted correlation, the statistic of the less sure test, and its two-sided p-value."""
    from scipy.special import ndtr

    a, b = scores[pair[0]], scores[pair[1]]
    both = np.isfinite(a) & np.isfinite(b)
    n = int(both.sum())
    spread = float(np.sqrt((a[both] ** 2).sum() * (b[both] ** 2).sum()))
    if n < _LEAST_ROWS or spread <= 1e-9 * n:
        return 0.0, 0.0, 1.0
    product = a[both] * b[both]
    own = strata[both]
    count = np.bincount(own, minlength=size)
    squares = [np.bincount(own, weights=one[both] ** 2, minlength=size) for one in (a, b)]
    variance = float((squares[0] * squares[1] / np.maximum(count - 1, 1)).sum())
    z = float(product.sum()) / np.sqrt(variance) if variance > 0 else 0.0
    p = float(2 * ndtr(-abs(z)))
    line = survey.timeline
    if line is not None and line.complete_count >= LEAST_BLOCKS:
        places = survey.drawn().places()[both]
        weights = np.bincount(places, minlength=line.count + 1)[line.complete].astype(np.float64)
        sums = np.bincount(places, weights=product, minlength=line.count + 1)[line.complete]
        t, over = block_test(sums / np.maximum(weights, 1), weights)
        if over > p:
            z, p = t, over
    if p <= CLEAR:
        whole = np.zeros(both.size)
        whole[both] = product
        repeated = repeated_in(survey, ("pair", *pair), np.where(both, a, np.nan), np.where(both, b, np.nan))
        again = clustered_p(survey, whole, both, repeated=repeated)
        if again is not None and again[1] > p:
            z, p = again
    return float(product.sum()) / spread, z, p


def _plain(survey: Survey, pairs: Sequence[tuple[str, str]]) -> dict[tuple[str, str], dict[str, float]]:
    """The plain correlation and slope of each pair over all rows, as its check gives them: by one pass for all."""
    if not pairs:
        return {}
    asked = [
        f"corr({b}, {a}) AS r{at}, regr_slope({b}, {a}) AS slope{at}, "
        f"count(*) FILTER ({a} IS NOT NULL AND {b} IS NOT NULL) AS n{at}"
        for at, (a, b) in enumerate((_double(first), _double(second)) for first, second in pairs)
    ]
    row = survey.table.store.query(f"SELECT {', '.join(asked)} FROM source WHERE {within(survey.table, Slice())}")
    found = {}
    for at, pair in enumerate(pairs):
        got = {name: row.column(f"{name}{at}")[0].as_py() for name in ("r", "slope", "n")}
        if got["r"] is not None and got["slope"] is not None:
            # Engines add in another order on every run: the last digits are not to be relied on.
            found[pair] = {name: float(f"{float(value):.11g}") for name, value in got.items()}
    return found


def _shape(survey: Survey, first: str, second: str) -> tuple[Floats, Floats, str]:
    """Averages of both columns in bins of equally many rows by the first, and what their course is called."""
    drawn = survey.drawn().table
    a, b = drawn.numbers(first), drawn.numbers(second)
    both = np.isfinite(a) & np.isfinite(b)
    order = np.lexsort((b[both], a[both]))
    bins = [one for one in np.array_split(order, BINS) if one.size]
    x = np.array([float(a[both][one].mean()) for one in bins])
    y = np.array([float(b[both][one].mean()) for one in bins])
    half = len(bins) // 2
    ends = float(y[half - 1 : half + 1].mean() - y[0]), float(y[-1] - y[half - 1 : half + 1].mean())
    width = float(x[half - 1 : half + 1].mean() - x[0]), float(x[-1] - x[half - 1 : half + 1].mean())
    slopes = [end / w if w else 0.0 for end, w in zip(ends, width, strict=True)]
    steps = np.diff(y)
    whole = abs(float(y[-1] - y[0])) or 1.0
    if min(abs(ends[0]), abs(ends[1])) > 0.25 * whole and ends[0] * ends[1] < 0:
        return x, y, "turns"
    if abs(slopes[1]) < 0.25 * abs(slopes[0]):
        return x, y, "levels off"
    if abs(slopes[0]) < 0.25 * abs(slopes[1]):
        return x, y, "sets in late"
    return x, y, "steady" if np.mean(np.sign(steps) == np.sign(y[-1] - y[0])) >= 0.7 else "uneven"
