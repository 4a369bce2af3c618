"""Concentration: a few labels that make most of the whole, beyond what chance would pile up.

The largest of forty equal groups make more than their share in any one year, by chance. So the top labels are chosen
in one half of the periods and their share is measured in the other half, and the other way round; both halves must
show, period by period (see `blocks`), more than an even share. Without dates the share is set against its standard
error and pays for every choice of labels that could have been made.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import lgamma, log
from typing import Any, ClassVar

import numpy as np

from ...aggregation import PERIOD, Survey
from ...aggregation.measures import Measure
from ...findings import Candidate, Check, Slice
from ...findings.checks import one_row, scalar, within
from ...findings.finding_kind import FindingKind, Floor
from ...findings.scoring import squash
from ...stats.autocorrelated_fits import Floats
from ...stats.false_discovery import worth_a_look
from ...support.phrasing import marked
from .block_tests import LEAST_BLOCKS, block_test, test_name
from .lead_by_rows import checked, lead_by_rows

#: Shorter lists are rankings, not concentrations.
_LEAST_LABELS = 8
#: The part of the labels that counts as the top.
_TOP = 0.2


_TEST = (
    "share of the top, chosen in one half of the periods, in the other half, against an even share",
    "share of the top against an even share, times the choices",
)
_UNIT = marked("times an even share")
KIND = FindingKind(
    name="concentration",
    what="a few labels that make most of the whole",
    detector="Concentration",
    interest=0.45,
    weight=0.5,
    floor=Floor(setting="floor_times", unit=_UNIT),
    figures={
        "top": "the labels, largest first",
        "share": "their share of the whole, 0 to 1",
        "herfindahl": "sum of the squared shares of all labels",
        "gini": "Gini coefficient of the labels' amounts",
        "labels": "number of labels",
        "half": "number of labels that make half of the whole",
        "even_share": "the share they would have if all were equal",
        "top_value": "their amount",
        "total": "the amount of all",
        "share_year_before": "their share in the year before the last",
        "row_share": "share of the rows that are of the top, 0 to 1",
        "rows_pct": "how many more rows a label of the top has than one of the others, in percent",
        "per_row_pct": "how much more it makes per row than the others, in percent",
        "by_rows": "whether the top has most by its number of rows alone",
        "share_last_year": "share that the top of the last year made in it",
    },
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Concentration:
    """`floor_times`: the top fifth must make so many times its even share to be reported."""

    kind: ClassVar[FindingKind] = KIND
    floor_times: float = 2.0

    def detect(self, survey: Survey) -> list[Candidate]:
        columns = [
            column.name
            for column in survey.dimensions
            if len(survey.labels(column.name)) >= _LEAST_LABELS and survey.told(column.name).all()
        ]
        looks = [
            (measure, by)
            for measure in survey.measures
            if measure.additive
            for by in columns
            if (values := _amounts(survey, measure, by)).min() >= 0 and values.sum() > 0
        ]
        likely = worth_a_look(len(looks))
        return [self._candidate(survey, measure, by, likely) for measure, by in looks]

    def _candidate(self, survey: Survey, measure: Measure, by: str, likely: float) -> Candidate:
        cells, values = survey.cells(by), _amounts(survey, measure, by)
        n = values.size
        k = max(1, round(_TOP * n))
        statistic, p = _over_halves(survey, measure, by, k)
        if p > likely:
            return Candidate.nothing(self.kind, measure, by, Slice(), test_name(survey, *_TEST), statistic, p)
        order = np.lexsort((np.arange(n), -values))
        shares = values / values.sum()
        top = [cells.labels[0][code] for code in order[:k]]
        share = float(shares[order[:k]].sum())
        half = int(np.searchsorted(np.cumsum(shares[order]), 0.5)) + 1
        inside = " OR ".join(f"({survey.table.equals(by, label)})" for label in top)
        everything = within(survey.table, Slice())
        expect = {"top_value": float(values[order[:k]].sum()), "total": float(values.sum())}
        found = lead_by_rows(cells.rows, values, order[:k].tolist(), None, measure)
        columns, given = checked(measure, found, f"{everything} AND ({inside})", "", everything)
        before = _a_year_before(survey, measure, by, k)
        figures: dict[str, Any] = {
            "top": top,
            "share": share,
            "herfindahl": float((shares * shares).sum()),
            "gini": _gini(values),
            "labels": n,
            "half": half,
            "even_share": k / n,
            **expect,
            **found,
            **before,
        }
        return Candidate(
            kind=self.kind,
            measure=measure,
            by=by,
            where=Slice(),
            period=None,
            baseline=None,
            direction=None,
            figures=figures,
            test=test_name(survey, *_TEST),
            statistic=statistic,
            p=p,
            strength=squash(share / (k / n) - 1, 2.0),
            reach=share,
            large=share >= self.floor_times * k / n,
            floor=(self.floor_times, _UNIT),
            check=Check(
                sql=one_row(
                    {
                        "top_value": scalar(measure, f"{everything} AND ({inside})"),
                        "total": scalar(measure, everything),
                        **columns,
                    }
                ),
                expect=expect | given,
            ),
            series={
                "labels": [cells.labels[0][code] for code in order],
                "values": [float(values[code]) for code in order],
            },
        )


def _amounts(survey: Survey, measure: Measure, by: str) -> Floats:
    """The amount of each label, shape (labels,)."""
    return np.asarray(measure.factor * survey.cells(by).linear(measure.top))


def _over_halves(survey: Survey, measure: Measure, by: str, k: int) -> tuple[float, float]:
    line = survey.timeline
    if line is None or line.complete_count < 2 * LEAST_BLOCKS:
        return _at_once(survey, measure, by, k)
    series = measure.factor * survey.cells(by, PERIOD).linear(measure.top)[:, line.complete]
    n, periods = series.shape
    middle = periods // 2
    sure = []
    for chosen, tested in ((slice(0, middle), slice(middle, periods)), (slice(middle, periods), slice(0, middle))):
        top = np.lexsort((np.arange(n), -series[:, chosen].sum(axis=1)))[:k]
        whole = series[:, tested].sum(axis=0)
        with np.errstate(divide="ignore", invalid="ignore"):
            over = series[top][:, tested].sum(axis=0) / whole - k / n
        t, p = block_test(over, np.where(whole > 0, whole, 0.0))
        sure.append((p if t > 0 else 1.0, t))
    p, t = max(sure)
    return t, p


def _at_once(survey: Survey, measure: Measure, by: str, k: int) -> tuple[float, float]:
    """Without periods: the share of the top against an even one, times the number of choices of k labels."""
    from scipy.special import log_ndtr

    cells = survey.cells(by)
    total = cells.linear(measure.top)
    squares = cells.squares(measure.top)
    n = total.size
    top = np.lexsort((np.arange(n), -total))[:k]
    even = k / n
    inside = np.zeros(n)
    inside[top] = 1.0
    # The variance of the top's sum less its even share of the whole, were rows to come at random.
    error = float(np.sqrt((squares * (inside - even) ** 2).sum()))
    z = float((total * (inside - even)).sum()) / error if error else 0.0
    choices = lgamma(n + 1) - lgamma(k + 1) - lgamma(n - k + 1)
    return z, float(np.exp(min(0.0, float(log_ndtr(-z)) + log(2) + choices)))


def _gini(values: Floats) -> float:
    """Gini's coefficient (1912): 0 where all are equal, near 1 where one has everything."""
    ordered = np.sort(values)
    n = ordered.size
    return float((2 * np.arange(1, n + 1) - n - 1) @ ordered / (n * ordered.sum()))


def _a_year_before(survey: Survey, measure: Measure, by: str, k: int) -> dict[str, float | None]:
    """The top's share in the last year of complete periods and in the year before it, each by its own top."""
    line = survey.timeline
    cycle = 0 if line is None else max(line.grain.per_year, LEAST_BLOCKS)
    if line is None or line.complete_count < 2 * cycle:
        return {"share_last_year": None, "share_year_before": None}
    series = survey.cells(by, PERIOD).linear(measure.top)[:, line.complete]
    found = [
        float(np.sort(part)[::-1][:k].sum() / part.sum()) if part.sum() > 0 else None
        for part in (series[:, -cycle:].sum(axis=1), series[:, -2 * cycle : -cycle].sum(axis=1))
    ]
    return {"share_last_year": found[0], "share_year_before": found[1]}
