"""Columns that say yes or no as groups of rows: which of them tell something of a measure.

"Churn is 42% where the international plan is yes" and "the plan is had by 28% of those who churn" are one relation: it
is told once, of the flag that is more of an outcome. A flag that is made from the measure (late, of the delay), or
that says no more than whether there is any of it, explains nothing.
"""

from __future__ import annotations

import numpy as np

from ...aggregation import Survey
from ...aggregation.measures import Measure
from ...support.better_directions import better_way
from ...tables import Column
from ...tables.yes_no import says_yes

#: Flags that agree on so much are one thing said twice (correlation of their rows).
_SAME = 0.9


def flags_for(survey: Survey, measure: Measure) -> list[str]:
    """The flags by whose yes and no a measure is told."""
    own = {part.column for part in measure.parts}
    outcomes = [column for column in survey.flags if column.name in own] if measure.kind == "mean" else []
    return [
        flag.name
        for flag in survey.flags
        if flag.name not in own
        and not (outcomes and _more_of_an_outcome(survey, flag, outcomes[0]))
        and not (measure.kind == "mean" and _restated(survey, measure, flag.name))
    ]


def _more_of_an_outcome(survey: Survey, flag: Column, outcome: Column) -> bool:
    """Whether of two flags the first is rather told by the second: its name says what is good or bad, as of churn, or
    it stands behind it in the table, as what comes of things does."""

    def rank(column: Column) -> tuple[bool, int]:
        return better_way([column.name]) is not None, survey.table.columns.index(column)

    told = {part.column for measure in survey.measures if measure.kind == "mean" for part in measure.parts}
    return flag.name in told and rank(flag) > rank(outcome)


def _restated(survey: Survey, measure: Measure, flag: str) -> bool:
    """Whether yes and no are made from the measure, or say only whether there is any of it."""
    held = ("yes and no restated", measure.name, flag)
    if held not in survey._cache:
        drawn = survey.drawn()
        values, codes = drawn.values(measure.top[0][1]), drawn.codes(flag)[0]
        yes = [code for code, label in enumerate(survey.labels(flag)) if says_yes(label)]
        known = np.isfinite(values) & np.array([label is not None for label in survey.labels(flag)])[codes]
        inside = np.isin(codes[known], yes)
        one, other = values[known][inside], values[known][~inside]
        survey._cache[held] = one.size > 0 and other.size > 0 and _says_no_more(one, other, measure.share)
    return bool(survey._cache[held])


def _says_no_more(one: np.ndarray, other: np.ndarray, rate: bool) -> bool:  # type: ignore[type-arg]
    """Whether values of two groups lie apart, or those of one are all alike; of rates that is so where the larger group
    never or always does."""
    apart = one.max() <= other.min() or other.max() <= one.min()
    if apart:
        return True
    if not rate:
        return bool(np.ptp(one) == 0 or np.ptp(other) == 0)
    larger = one if one.size > other.size else other
    if np.ptp(larger) == 0:
        return True
    both = np.concatenate([one, other])
    spread = float(both.std())
    share = one.size / both.size
    phi = (one.mean() - other.mean()) * np.sqrt(share * (1 - share)) / spread if spread else 0.0
    return bool(abs(phi) > _SAME)
