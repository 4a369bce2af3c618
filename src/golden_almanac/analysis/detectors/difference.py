"""Differences: a group whose average, rate or ratio differs from that of its siblings.

Two tests must agree. On rows: normal scores of the ranks within each period, with the exact variance
of their permutation (van Elteren 1960; Hájek & Šidák 1967), right in the far tail however skewed the
column. Over periods: see `block_tests`. Where rows belong together, a third by what they belong to: see
`cluster_checks`. Gaps of small groups are shrunk towards nought (Efron & Morris
1975) before they are judged large, so that a group of eight rows does not lead the list.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar

import numpy as np

from ...aggregation import PERIOD, Survey
from ...aggregation.hierarchies import parent_codes
from ...aggregation.measures import Measure
from ...findings import Candidate, Check, Slice
from ...findings.checks import one_row, scalar, within
from ...findings.finding_kind import DEVIATIONS, POINTS, FindingKind, Floor
from ...findings.scoring import squash
from ...stats.false_discovery import UNLIKELY, worth_a_look
from ...support.phrasing import marked
from ...tables.yes_no import says_yes
from ..clusters import accounted
from .block_tests import LEAST_BLOCKS, LEAST_POOLED, block_test, block_tests, leaning, test_name
from .cluster_checks import CLEAR, clustered_p, clusters_of, repeated_in
from .families import labelled, reach
from .group_gaps import Siblings, by_period, by_period_each
from .ratio_rows import differs, each_ratio, ratio_rows
from .row_scores import ScoredRows, family_strata, placed, row_scores, scored
from .tested_series import MIRROR
from .yes_no_groups import flags_for, restated, screened

#: A group smaller than this is not compared.
LEAST_GROUP = 10


#: Labels that make bands of a number.
_LEAST_BANDS = 3
#: A gap of a tenth of a rate is as large as one of a point.
_PART_OF_RATE = 0.1
#: Bands that adjoin leave no more between them than this part of how wide they are.
_ADJOIN = 0.25
#: Labels that account for so much of a number, and are so many, list it.
_GIVES, _LISTED = 0.95, 20
#: Each test's name, and its name where there are too few periods.
_TEST = "normal scores within periods, and t over periods", "normal scores of the rows"
_COUNTS = "exact test of the events, as widely as rows and periods spread", "exact test of the events"
_AMOUNTS = "t of the ratio over rows, and over periods", "t of the ratio over rows"


KIND = FindingKind(
    name="difference",
    what="a group whose average or rate differs from the rest",
    detector="Difference",
    interest=0.85,
    floor=Floor(setting="floor", unit=DEVIATIONS),
    figures={
        "value": "the group's average or rate",
        "rest": "that of its siblings together",
        "gap": "value minus rest",
        "gap_pct": "the same in percent of rest",
        "gap_low": "lower end of the gap's 95% range",
        "gap_high": "upper end of the gap's 95% range",
        "shrunk_gap": "the gap drawn towards nought by how sure it is",
        "n": "rows of the group",
        "weight": "what the group's average or ratio is divided by: its values, its orders",
        "share": "share of the whole that the group makes, 0 to 1",
    },
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Difference:
    """`floor`: smaller gaps, in standard deviations of the rows, are not reported; `floor_share` the
    same for rates, as a share (0.01 is one percentage point)."""

    kind: ClassVar[FindingKind] = KIND
    floor: float = 0.1
    floor_share: float = 0.01

    def detect(self, survey: Survey) -> list[Candidate]:
        candidates = []
        for measure in survey.measures:
            if measure.kind not in ("mean", "ratio"):
                continue
            for column in survey.dimensions:
                if _restates(survey, measure, column.name):
                    continue
                for family, parent in labelled(survey, column.name):
                    candidates += self._family(survey, measure, column.name, family, parent)
            candidates += self._flags(survey, measure)
        return candidates

    def _flags(self, survey: Survey, measure: Measure) -> list[Candidate]:
        """Yes against no of each flag: a cheap look at all of them, and all tests of those that it leaves open."""
        candidates = []
        flags = flags_for(survey, measure)
        seen = screened(survey, measure, flags)
        open_to = worth_a_look(len(survey.flags) * len(survey.measures))
        for flag in flags:
            z, p, rows = seen.get(flag, (0.0, 0.0, LEAST_GROUP))
            if p > open_to and rows >= max(LEAST_GROUP, survey.least_rows):
                yes = next(label for label in survey.labels(flag) if says_yes(label))
                where = Slice(((flag, yes),))
                candidates.append(Candidate.nothing(self.kind, measure, flag, where, test_name(survey, *_TEST), z, p))
            elif p <= open_to and not restated(survey, measure, flag):
                for family, parent in labelled(survey, flag):
                    candidates += self._family(survey, measure, flag, family, parent, yes_only=True)
        return candidates

    def _family(
        self, survey: Survey, measure: Measure, by: str, family: list[int], parent: Slice, *, yes_only: bool = False
    ) -> list[Candidate]:
        """The labels of a family each against its siblings; of yes and no, which are one comparison, yes."""
        cells = survey.cells(by)
        bottom = cells.linear(measure.bottom)
        counts = cells.rows if measure.kind == "ratio" else bottom
        told = survey.told(by)
        tested = [code for code in family if told[code] and counts[code] >= LEAST_GROUP and bottom[code] != 0]
        if len(tested) < 2:
            return []
        asked = [code for code in tested if not yes_only or says_yes(cells.labels[0][code])]
        rows = scored(survey, measure, by, parent) if measure.kind == "mean" else None
        names = _TEST if rows is not None else _COUNTS if ratio_rows(survey, measure, by).counted else _AMOUNTS
        test = test_name(survey, *names)
        pooled = _pooled(survey, measure, by, family, tested)
        found = dict(zip(asked, _tests(survey, measure, by, family, asked, [], rows, pooled), strict=True))
        t, p = ({code: one[which] for code, one in found.items()} for which in (0, 1))
        siblings = Siblings.of(survey, measure, by, family, tested, parent)
        leaders = self._leaders(survey, measure, by, family, p, t, rows, pooled)
        candidates = []
        for code in sorted(asked, key=lambda code: (p[code], code)):
            where = Slice(((by, cells.labels[0][code]),))
            if p[code] > UNLIKELY:
                candidates.append(Candidate.nothing(self.kind, measure, by, where, test, t[code], p[code]))
                continue
            mirror = None
            if leaders and p[code] <= MIRROR and code not in leaders:
                mirror = (Slice(((by, cells.labels[0][leaders[0]]),)).label, marked("the mirror image of {label}"))
            sure = self._candidate(survey, siblings, code, test, t[code], p[code])
            candidates.append(sure if mirror is None else replace(sure, implied_by=mirror))
        return candidates

    def _candidate(self, survey: Survey, siblings: Siblings, code: int, test: str, t: float, p: float) -> Candidate:
        """A label set against its siblings, with its figures and their SQL."""
        measure, by, cells = siblings.measure, siblings.by, survey.cells(siblings.by)
        gap, error, spread = siblings.gaps[code], siblings.errors[code], siblings.spread
        shrunk, value, rest = siblings.shrunk(code), siblings.value(code), siblings.rest(code)
        share, where = reach(survey, cells, measure, code), Slice(((by, cells.labels[0][code]),))
        return Candidate(
            kind=self.kind,
            measure=measure,
            by=by,
            where=where,
            period=None,
            baseline=None,
            direction="up" if gap > 0 else "down",
            figures={
                "value": value,
                "rest": rest,
                "gap": gap,
                "gap_pct": 100 * gap / abs(rest) if rest and measure.in_percent else None,
                "gap_low": gap - 1.96 * error,
                "gap_high": gap + 1.96 * error,
                "shrunk_gap": shrunk,
                "n": int(cells.rows[code]),
                "weight": float(siblings.bottom[code]),
                "share": share,
            },
            test=survey.drawn().named(test),
            statistic=t,
            p=p,
            strength=squash(shrunk / spread if spread else 0.0, 0.35),
            reach=share,
            large=abs(shrunk) >= (self._least(rest) if measure.share else self.floor * spread),
            floor=(100 * self.floor_share, POINTS) if measure.share else (self.floor, DEVIATIONS),
            # Within periods and over all rows the gap must point the same way.
            agrees=gap * t > 0,
            check=_check(survey, siblings, where, code),
            series={
                "labels": [cells.labels[0][c] for c in siblings.tested],
                "values": [siblings.value(c) for c in siblings.tested],
                "errors": [siblings.errors[c] for c in siblings.tested],
                "rest": rest,
                "parent": siblings.parent,
                "in_all": len(siblings.family),
            },
        )

    def _least(self, rest: float) -> float:
        """The least gap of a rate that matters: a point, or of a small rate a tenth of it."""
        return min(self.floor_share, max(_PART_OF_RATE * abs(rest), self.floor_share / 10))

    def _leaders(
        self,
        survey: Survey,
        measure: Measure,
        by: str,
        family: list[int],
        p: dict[int, float],
        t: dict[int, float],
        rows: ScoredRows | None,
        pooled: float | None,
    ) -> list[int]:
        """Groups that differ by themselves; those left only differ because these do. One that is named after others is
        as sure as it is without them, and no surer."""

        def without_them(codes: list[int], without: list[int]) -> list[float]:
            """How sure each of some groups is when others are left out."""
            again = _tests(survey, measure, by, family, codes, without, rows, pooled)
            alone = len([c for c in family if c not in without]) <= 1
            return [
                1.0 if alone or not statistic * t[code] > 0 else sure
                for code, (statistic, sure) in zip(codes, again, strict=True)
            ]

        leaders: list[int] = []
        moving = sorted((code for code in p if p[code] <= MIRROR), key=lambda code: (p[code], code))
        while moving:
            left = {
                c: sum(sure <= MIRROR for sure in without_them([o for o in moving if o != c], [*leaders, c]))
                for c in moving[:3]
            }
            named = min(moving[:3], key=lambda c: (left[c], p[c], c))
            if leaders:
                p[named] = max(p[named], *without_them([named], leaders))
            leaders.append(named)
            others = [c for c in moving if c not in leaders]
            sure_of = without_them(others, leaders)
            moving = [c for c, sure in zip(others, sure_of, strict=True) if sure <= MIRROR]
        return leaders


def _check(survey: Survey, siblings: Siblings, where: Slice, code: int) -> Check:
    """The SQL of a label's figure and that of all others that have a label."""
    cells, table, measure = survey.cells(siblings.by), survey.table, siblings.measure
    unlabelled = (Slice(((siblings.by, None),)),) if None in cells.labels[0] else ()
    return Check(
        sql=one_row(
            {
                "value": scalar(measure, within(table, where)),
                "rest": scalar(measure, within(table, siblings.parent, outside=(where, *unlabelled))),
                "n": f"(SELECT count(*) FROM source WHERE {within(table, where)})",
            }
        ),
        expect={"value": siblings.value(code), "rest": siblings.rest(code), "n": float(cells.rows[code])},
    )


def _restates(survey: Survey, measure: Measure, by: str) -> bool:
    """Whether labels say nothing but the number once more: each has one value of its own (the South of its states), or
    all of a band that no other has a part of (ages in groups of age)."""
    if measure.kind not in ("mean", "ratio"):
        return False
    held = ("restated", measure.name, by)
    if held not in survey._cache:
        drawn = survey.drawn()
        codes = drawn.codes(by)[0]
        values = (
            drawn.values(measure.top[0][1]) if measure.kind == "mean" else each_ratio(ratio_rows(survey, measure, by))
        )
        known = np.isfinite(values)
        order = np.lexsort((values[known], codes[known]))
        value, code = values[known][order], codes[known][order]
        starts = np.flatnonzero(np.diff(code, prepend=-1))
        stops = np.append(starts[1:], code.size) - 1
        low, high = value[starts], value[stops]
        several = low.size > 1 and float(np.median(stops - starts + 1)) >= 2 and bool(low.min() < high.max())
        up = np.argsort(low, kind="stable")
        between = low[up][1:] - high[up][:-1]
        adjoin = bool((between >= 0).all() and (between <= _ADJOIN * float(np.mean(high - low))).all())
        # So many labels that nearly give the number are a list of it: the prices of articles, each in all its sales.
        listed = np.unique(code).size >= _LISTED and accounted(value, code.astype(np.intp)) >= _GIVES
        banded = measure.kind == "mean" and low.size >= _LEAST_BANDS and adjoin
        survey._cache[held] = several and (banded or listed or bool((low == high).all()))
    return bool(survey._cache[held])


def _pooled(survey: Survey, measure: Measure, by: str, family: list[int], tested: list[int]) -> float | None:
    """The autocorrelation that the gaps of siblings share, from period to period; None for too few of them."""
    if len(tested) < LEAST_POOLED or survey.timeline is None or survey.timeline.complete_count < LEAST_BLOCKS:
        return None
    known = survey._cache.setdefault(("pooled gaps", measure.name, by), {})
    key = (tuple(family), tuple(tested))
    if key not in known:
        known[key] = float(np.median([leaning(*by_period(survey, measure, by, family, code, [])) for code in tested]))
    return known[key]  # type: ignore[no-any-return]


def _tests(
    survey: Survey,
    measure: Measure,
    by: str,
    family: list[int],
    codes: list[int],
    without: list[int],
    rows: ScoredRows | None,
    pooled: float | None,
) -> list[tuple[float, float]]:
    """Statistic and p of each of some groups against its siblings but those left out, by the least sure of its tests;
    averages of rows many at once."""
    if not codes:
        return []
    if rows is None:
        return [_ratio_tests(survey, measure, by, family, code, without, pooled) for code in codes]
    t, p = placed(rows.each[:2, codes], *family_strata(rows, family, without))
    if survey.timeline is not None and survey.timeline.complete_count >= LEAST_BLOCKS:
        of_blocks = block_tests(*by_period_each(survey, measure, by, family, codes, without), pooled)
        less = of_blocks[1] > p
        t, p = np.where(less, of_blocks[0], t), np.where(less, of_blocks[1], p)
    found = list(zip(t.tolist(), p.tolist(), strict=True))
    for at, code in enumerate(codes):
        again = _by_clusters(survey, measure, by, family, code, without) if found[at][1] <= CLEAR else None
        if again is not None and again[1] > found[at][1]:
            found[at] = again
    return found


def _ratio_tests(
    survey: Survey, measure: Measure, by: str, family: list[int], code: int, without: list[int], pooled: float | None
) -> tuple[float, float]:
    """The same of a ratio, or of anything that has no rows to be ranked."""
    found: list[tuple[float, float]] = []
    # Events are weighed by what they are if nothing differs: periods with more of them would vary more by themselves.
    counted = measure.kind == "ratio" and ratio_rows(survey, measure, by).counted
    if not counted and survey.timeline is not None and survey.timeline.complete_count >= LEAST_BLOCKS:
        found.append(block_test(*by_period(survey, measure, by, family, code, without), pooled))
    if measure.kind == "ratio" and (not found or found[0][1] <= CLEAR):
        use = [one for one in family if one not in without]
        gap = differs(survey, ratio_rows(survey, measure, by), by, use, code)
        found.append((float(gap.z), float(gap.p)))
    return max(found, key=lambda one: one[1]) if found else (0.0, 1.0)


def set_against(
    survey: Survey, measure: Measure, by: str, family: list[int], code: int, without: list[int]
) -> tuple[float, float]:
    """Statistic and p of a group against its siblings but those left out."""
    parent = next((parent for codes, parent in labelled(survey, by) if code in codes), Slice())
    rows = scored(survey, measure, by, parent) if measure.kind == "mean" else None
    return _tests(survey, measure, by, family, [code], without, rows, _pooled(survey, measure, by, family, family))[0]


def _by_clusters(
    survey: Survey, measure: Measure, by: str, family: list[int], code: int, without: list[int]
) -> tuple[float, float] | None:
    """t and p of a group's summed scores where rows that belong together lean on each other; None where they do not."""
    parent = next((parent for codes, parent in labelled(survey, by) if code in codes), Slice())
    above = parent.conditions[0][0] if parent.conditions else None
    scores, strata, size = row_scores(survey, measure, above)
    repeated = repeated_in(survey, ("scores", measure.name, above), scores)
    if not clusters_of(survey) and not repeated:
        return None
    codes, _ = survey.drawn().codes(by)
    used = np.isfinite(scores) & np.isin(codes, [one for one in family if one not in without])
    count = np.maximum(np.bincount(strata[used], minlength=size), 1)
    own = (codes == code).astype(np.float64)
    centred = (
        np.where(used, scores, 0.0) - (np.bincount(strata[used], weights=scores[used], minlength=size) / count)[strata]
    )
    share = (np.bincount(strata[used], weights=own[used], minlength=size) / count)[strata]
    return clustered_p(survey, centred * (own - share), used, by, repeated=repeated, side=own - share)


def adjusted_p(survey: Survey, measure: Measure, by: str, code: int, other: str) -> tuple[float, float]:
    """z and p of a group's rows against all others within each label of another dimension (and period)."""
    rows = scored(survey, measure, by, Slice(((other, None),)))
    # Strata without rows of the group say nothing of it.
    here = np.flatnonzero(rows.each[0, code])
    z, p = placed(rows.each[:2, [code]][:, :, here], *rows.of(range(rows.each.shape[1]))[:, here])
    return float(z[0]), float(p[0])


def weighted_without(survey: Survey, measure: Measure, by: str, code: int, child: str, child_code: int) -> float:
    """The p-value of a group once the rows of one of its children are left out (see redundancy)."""
    up = parent_codes(survey.table, child, by)
    if up[child_code] != code:
        return 0.0
    cells = survey.cells(child, PERIOD) if survey.timeline is not None else None
    if cells is None or survey.timeline is None:
        return 0.0
    top, bottom = (cells.linear(terms)[:, survey.timeline.complete] for terms in (measure.top, measure.bottom))
    inside = [c for c in np.flatnonzero(up == code) if c != child_code]
    outside = [c for c in range(up.size) if up[c] != code]
    if not inside or not outside:
        return 1.0
    with np.errstate(divide="ignore", invalid="ignore"):
        gap = top[inside].sum(axis=0) / bottom[inside].sum(axis=0) - top[outside].sum(axis=0) / bottom[outside].sum(
            axis=0
        )
    return block_test(gap, np.where(np.isfinite(gap), bottom[inside].sum(axis=0), 0.0))[1]
