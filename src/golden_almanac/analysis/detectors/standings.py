"""Who stands where among the labels of a dimension, and how sure the gaps between them are: all measures at once."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np

from ...aggregation import PERIOD, Survey
from ...aggregation.measures import Measure
from ...stats.autocorrelated_fits import Floats
from .block_tests import LEAST_BLOCKS, block_test_each

#: Longer lists are no ranking that a person reads.
MOST_LABELS = 60
#: Shorter lists have no last place worth telling.
_LEAST_LISTED = 4
#: The last place is told of a label that makes this part of an even share at least: a kiosk among shops is no laggard.
_LEAST_LAST = 0.25
#: A place gained or lost is looked into only when the gaps before and after are surer than this.
_SURE = 0.01


class Standing(NamedTuple):
    """The labels of a dimension by a measure, the largest first, as codes; `listed` where they are long enough a list
    to have a last place. Statistic and p-value of the `lead` of the first and of the gap before the `last`, paid for
    the labels it was picked from, None where there is none to tell; and who has climbed within a year (see `_climbs`).
    """

    order: list[int]
    listed: bool
    lead: tuple[float, float] | None
    last: tuple[float, float] | None
    climbs: tuple[dict[str, Any], ...]


def standings(survey: Survey, measures: Sequence[Measure], by: str) -> dict[Measure, Standing]:
    """The standing by each measure of amounts; without those that nothing can be told of."""
    cells, labels = survey.cells(by), survey.labels(by)
    told = np.flatnonzero(survey.told(by))
    if not 2 <= told.size <= len(labels) <= MOST_LABELS:
        return {}
    amounts = {one: one.factor * cells.linear(one.top) for one in measures}
    orders = {
        one: told[np.argsort(-values[told], kind="stable")].tolist()
        for one, values in amounts.items()
        if values.sum() > 0
    }
    listed = {one: told.size >= _LEAST_LISTED and amounts[one].min() >= 0 for one in orders}
    leads = [one for one, order in orders.items() if _leads(amounts[one], order)]
    lasts = [
        one
        for one, order in orders.items()
        if listed[one] and amounts[one][order[-1]] >= _LEAST_LAST * amounts[one].sum() / told.size
    ]
    lead = _gaps_of(survey, by, leads, [(orders[one][0], orders[one][1]) for one in leads], len(labels) / 2)
    last = _gaps_of(survey, by, lasts, [(orders[one][-2], orders[one][-1]) for one in lasts], told.size / 2)
    climbs = _climbs(survey, list(orders), by, told.tolist())
    return {
        one: Standing(order, listed[one], lead.get(one), last.get(one), climbs.get(one, ()))
        for one, order in orders.items()
    }


def _leads(values: Floats, order: list[int]) -> bool:
    """Among losses a leader may make more than the whole: no share tells that."""
    return bool(values[order[1]] > 0 and values[order[0]] <= values.sum())


def gap_between(survey: Survey, measure: Measure, by: str, first: int, second: int) -> tuple[float, float]:
    """t and two-sided p of the gap between two labels."""
    return _gaps_of(survey, by, [measure], [(first, second)], 1.0)[measure]


def _gaps_of(
    survey: Survey, by: str, measures: Sequence[Measure], pairs: Sequence[tuple[int, int]], tried: float
) -> dict[Measure, tuple[float, float]]:
    """t and p of the gap between a pair of labels of each measure, over periods where there are enough, `tried` so many
    times."""
    line = survey.timeline
    if not measures:
        return {}
    if line is not None and line.complete_count >= LEAST_BLOCKS:
        cells = survey.cells(by, PERIOD)
        series = [
            cells.linear(one.top)[:, line.complete][list(pair)] for one, pair in zip(measures, pairs, strict=True)
        ]
        t, p = _gaps(*np.swapaxes(np.stack(series), 0, 1))
    else:
        # Without periods: sums of rows that come at random have the variance of their squares.
        from scipy.special import ndtr

        cells = survey.cells(by)
        sums, squares = (
            np.stack([read(one.top)[list(pair)] for one, pair in zip(measures, pairs, strict=True)])
            for read in (cells.linear, cells.squares)
        )
        error = np.sqrt(squares.sum(axis=1))
        t = np.where(error > 0, (sums[:, 0] - sums[:, 1]) / np.where(error > 0, error, 1.0), 0.0)
        p = 2 * ndtr(-np.abs(t))
    return {one: (float(how), min(1.0, float(sure) * tried)) for one, how, sure in zip(measures, t, p, strict=True)}


def _gaps(a: Floats, b: Floats) -> tuple[Floats, Floats]:
    """t and p of the gaps between series, both of shape (pairs, periods); in logs where both are positive."""
    positive = np.minimum(a.min(axis=1), b.min(axis=1)) > 0
    gap = a - b
    gap[positive] = np.log(a[positive]) - np.log(b[positive])
    return block_test_each(gap)


def _climbs(
    survey: Survey, measures: Sequence[Measure], by: str, told: Sequence[int]
) -> dict[Measure, tuple[dict[str, Any], ...]]:
    """By measure the labels that stand higher in the last year than in the one before, both gaps to those passed beyond
    chance.

    The less sure of the gaps before and after counts, and pays for all pairs that could have changed places.
    """
    line = survey.timeline
    if line is None:
        return {}
    cycle = max(line.grain.per_year, LEAST_BLOCKS)
    stop = line.complete.stop
    if line.complete_count < 2 * cycle or (line.grain.per_year > cycle):
        return {}
    now, before = slice(stop - cycle, stop), slice(stop - 2 * cycle, stop - cycle)
    cells = survey.cells(by, PERIOD)
    series = {one: cells.linear(one.top) for one in measures}
    places = {
        one: [_places(values[:, span].sum(axis=1), told) for span in (before, now)] for one, values in series.items()
    }
    passing = [(one, *pair) for one in measures for pair in _passing(*places[one])]
    if not passing:
        return {}
    tests = []
    for span, passed_first in ((before, True), (now, False)):
        climbed = np.stack([series[measure][code, span] for measure, code, _ in passing])
        passed = np.stack([series[measure][other, span] for measure, _, other in passing])
        tests.append(_gaps(passed, climbed) if passed_first else _gaps(climbed, passed))
    later = tests[1][1] > tests[0][1]
    ts, ps = (np.where(later, tests[1][which], tests[0][which]) for which in (0, 1))
    pairs = len(told) * (len(told) - 1) / 2
    clear: dict[tuple[Measure, int], list[tuple[float, float, int]]] = {}
    for (measure, code, other), t, p in zip(passing, ts, np.minimum(1.0, ps * pairs), strict=True):
        # Told are those it has passed for certain.
        if p <= _SURE:
            clear.setdefault((measure, code), []).append((float(p), float(t), other))
    moved: dict[Measure, list[dict[str, Any]]] = {}
    labels = survey.labels(by)
    for (measure, code), sure in clear.items():
        p, t, _ = min(sure, key=lambda one: (one[0], one[2]))
        past = [labels[other] for _, _, other in sorted(sure, key=lambda one: (one[0], one[2]))]
        was, stands = (int(one[code]) + 1 for one in places[measure])
        moved.setdefault(measure, []).append(
            {"label": labels[code], "from": was, "to": stands, "passed": past, "p": p, "statistic": t, "span": now}
        )
    return {
        measure: tuple(sorted(those, key=lambda one: (one["p"], str(one["label"])))) for measure, those in moved.items()
    }


def _places(values: Floats, told: Sequence[int]) -> dict[int, int]:
    """The place of each label that is told, the largest first."""
    return {code: place for place, code in enumerate(sorted(told, key=lambda code: (-values[code], code)))}


def _passing(before: dict[int, int], now: dict[int, int]) -> list[tuple[int, int]]:
    """Pairs of labels of which the first stood behind the second and stands before it."""
    order = sorted(before, key=before.__getitem__)
    return [(code, other) for code in now for other in order[: before[code]] if now[other] > now[code]]
