"""Mix: an average or rate that moves because its parts weigh otherwise, even while the parts go the other way.

The last year is set against the year before it (or half the periods against the other half). The whole's change is
taken apart exactly: within the parts at the average of both years' weights, and through the weights (midpoint
weights, as in `changes`). Tests over pairs of the same period, a year apart (see `blocks`): that the whole moved, and
that the part of it that goes through the weights is real. Where the parts themselves moved the other way for certain,
that is the reversal that Yule (1903) and Simpson (1951) warned of.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, ClassVar

import numpy as np

from ...aggregation import PERIOD, Survey
from ...aggregation.measures import Measure
from ...findings import Candidate, Check, Slice
from ...findings.checks import one_row, scalar, within
from ...findings.finding_kind import FindingKind, Floor
from ...findings.scoring import squash
from ...stats.autocorrelated_fits import Floats
from .block_tests import LEAST_BLOCKS, block_test
from .peer_series import LEAST_ROWS
from .relative_series import LEAST_EVENTS

_MOST_LABELS = 60
#: Below this p-value the parts are said to have gone the other way.
_SURE = 0.01
_TEST = "t over pairs of periods: the whole's change, and what of it goes through the weights"


KIND = FindingKind(
    name="mix",
    what="an average or rate that moves because its parts weigh otherwise",
    detector="Mix",
    # Its tests are strict: of chance p-values as small come a tenth as often as they say.
    weight=0.5,
    interest=0.9,
    needs_time=True,
    least_periods=2 * LEAST_BLOCKS,
    floor=Floor(setting="floor_pct", unit="percent"),
    figures={
        "value_before": "the average or rate over the span before",
        "value": "the same over the span after",
        "change": "value minus value_before",
        "mix": "what of the change goes through the weights (midpoint)",
        "within": "what of it happened within the parts",
        "whole": "the change of the whole",
        "parts": "each part with its rate and its share of all, before and after",
        "reversal": "whether most parts went the other way",
        "weight_against": "share of the weight whose parts went the other way",
        "mix_share": "mix as a share of the change",
    },
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Mix:
    """`floor_share`: the weights must account for so much of the change; `floor_points` and `floor_pct`: smaller
    changes of a rate, or of an average in percent, are not reported."""

    kind: ClassVar[FindingKind] = KIND
    floor_share: float = 0.6
    floor_points: float = 0.01
    floor_pct: float = 2.0

    def detect(self, survey: Survey) -> list[Candidate]:
        found = [
            self._candidate(survey, measure, column.name)
            for measure in survey.measures
            if measure.kind in ("mean", "ratio")
            for column in survey.dimensions
            if 2 <= len(survey.labels(column.name)) <= _MOST_LABELS
        ]
        return [one for one in found if one is not None]

    def _candidate(self, survey: Survey, measure: Measure, by: str) -> Candidate | None:
        line = survey.timeline
        assert line is not None
        cycle = line.grain.per_year
        span = min(cycle, line.complete_count // 2) if cycle > 1 else line.complete_count // 2
        if span < LEAST_BLOCKS or (cycle > span and cycle <= 12):
            return None
        cells = survey.cells(by, PERIOD)
        stop = line.complete.stop
        windows = slice(stop - 2 * span, stop - span), slice(stop - span, stop)
        top, bottom = cells.linear(measure.top), cells.linear(measure.bottom)
        if min(bottom[:, window].sum(axis=0).min() for window in windows) < LEAST_ROWS or bottom.min() < 0:
            return None
        if measure.share and min(top[:, w].sum() for w in windows) < LEAST_EVENTS * span:
            return None
        whole, through = _pairs([top[:, window] for window in windows], [bottom[:, window] for window in windows])
        weights = bottom[:, windows[1]].sum(axis=0) + bottom[:, windows[0]].sum(axis=0)
        (t, p_whole), (u, p_mix) = block_test(whole, weights), block_test(through, weights)
        p = max(p_whole, p_mix) if t * u > 0 else 1.0
        before, after = (line.span(window.start, window.stop - 1) for window in windows)
        if p > 0.05:
            return Candidate.nothing(self.kind, measure, by, Slice(), _TEST, min(t, u, key=abs), p)
        facts, parts = _apart(measure, cells.labels[0], top, bottom, windows)
        within_t, within_p = block_test(whole - through, weights)
        opposite = within_p < _SURE and within_t * t < 0
        told = {label for label, known in zip(cells.labels[0], survey.told(by), strict=True) if known}
        parts = [part for part in parts if part["label"] in told]
        weight = sum(
            part["share"] for part in parts if part["change"] is not None and part["change"] * facts["change"] < 0
        )
        figures: dict[str, Any] = {
            **facts,
            "whole": facts["change"],
            "parts": parts,
            "reversal": bool(opposite),
            "weight_against": weight,
            "mix_share": facts["mix"] / facts["change"] if facts["change"] else None,
        }
        least = self.floor_points if measure.share else self.floor_pct / 100 * abs(facts["value_before"])
        large = abs(facts["change"]) >= least and facts["mix"] / (facts["change"] or np.inf) >= self.floor_share
        named = {"value_before": before, "value": after}
        return Candidate(
            kind=self.kind,
            measure=measure,
            by=by,
            where=Slice(),
            period=after,
            baseline=before,
            direction="up" if facts["change"] > 0 else "down",
            figures=figures,
            test=_TEST,
            statistic=min(t, u, key=abs),
            p=p,
            strength=squash(t, 6.0),
            reach=1.0,
            large=bool(large and facts["change"] * t > 0),
            check=Check(
                sql=one_row(
                    {
                        name: scalar(measure, within(survey.table, Slice(), line.column, window))
                        for name, window in named.items()
                    }
                ),
                expect={name: facts[name] for name in named},
            ),
            series={"time": line.column, "labels": [part["label"] for part in parts]},
        )


def _pairs(tops: list[Floats], bottoms: list[Floats]) -> tuple[Floats, Floats]:
    """For each pair of periods a year apart: the whole's change, and what of it goes through the weights."""
    with np.errstate(divide="ignore", invalid="ignore"):
        rates = [top.sum(axis=0) / bottom.sum(axis=0) for top, bottom in zip(tops, bottoms, strict=True)]
        # A part of one row a month tells no rate; that of both years together stands for its level.
        level = (tops[0] + tops[1]).sum(axis=1) / np.maximum((bottoms[0] + bottoms[1]).sum(axis=1), 1e-300)
        shares = [bottom / bottom.sum(axis=0) for bottom in bottoms]
    return rates[1] - rates[0], ((shares[1] - shares[0]) * level[:, None]).sum(axis=0)


def _apart(
    measure: Measure, labels: tuple[str | None, ...], top: Floats, bottom: Floats, windows: tuple[slice, slice]
) -> tuple[dict[str, float], list[dict[str, Any]]]:
    """The change of the whole, exactly: through the weights, and within the parts."""
    tops, bottoms = ([array[:, window].sum(axis=1) for window in windows] for array in (top, bottom))
    shares = [bottom / bottom.sum() for bottom in bottoms]
    whole = [measure.factor * float(a.sum() / b.sum()) for a, b in zip(tops, bottoms, strict=True)]
    parts, mix = [], 0.0
    for code in np.lexsort((np.arange(len(labels)), -(bottoms[0] + bottoms[1]))):
        known = [bottoms[i][code] > 0 for i in (0, 1)]
        rates = [measure.factor * float(tops[i][code] / bottoms[i][code]) if known[i] else None for i in (0, 1)]
        usual = [rate for rate in rates if rate is not None]
        if usual:
            mix += float(shares[1][code] - shares[0][code]) * (sum(usual) / len(usual) - sum(whole) / 2)
        parts.append(
            {
                "label": labels[code],
                "before": rates[0],
                "after": rates[1],
                "change": None if rates[0] is None or rates[1] is None else rates[1] - rates[0],
                "share_before": float(shares[0][code]),
                "share": float(shares[1][code]),
            }
        )
    change = whole[1] - whole[0]
    return {"value_before": whole[0], "value": whole[1], "change": change, "mix": mix, "within": change - mix}, parts
