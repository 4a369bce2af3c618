"""Columns that say yes or no as groups of rows: which of them tell something of a measure.

"Churn is 42% where the international plan is yes" and "the plan is had by 28% of those who churn" are one relation: it
is told once, of the flag that is more of an outcome. Many flags of which none is one are a list of ticks (genres,
tools, symptoms): which of them go together is no news. A flag that is made from the measure (late, of the delay), or
that says no more than whether there is any of it, explains nothing.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from ...aggregation import Survey
from ...aggregation.measures import Measure
from ...stats.autocorrelated_fits import Floats
from ...support.better_directions import better_way
from ...tables.meaning.name_words import words
from ...tables.yes_no import says_yes
from .row_scores import placed, row_scores

#: Flags that agree on so much are one thing said twice (correlation of their rows).
_SAME = 0.9
#: More flags than this of which none is an outcome are ticks on a list.
_FEW = 4
#: What comes of things, where it is no plain good or bad.
_OUTCOMES = frozenset(
    "accepted admitted approved arrested bought callback cured damaged default denied granted hired infected left "
    "outcome purchased quit rearrested recur recurred recurrence released renew responded response subscribed target "
    "tip tipped".split()
)
#: Rows times flags that are looked at in one go.
_AT_ONCE = 4_000_000


def flags_for(survey: Survey, measure: Measure) -> list[str]:
    """The flags by whose yes and no a measure is told: of two flags the one that is less of an outcome."""
    own = {part.column for part in measure.parts}
    ranks = _ranks(survey)
    outcome = max((ranks[name] for name in own if name in ranks), default=None) if measure.kind == "mean" else None
    ticks = outcome is not None and not outcome[0] and (len(ranks) > _FEW or any(known for known, _ in ranks.values()))
    return [
        flag.name
        for flag in survey.flags
        if flag.name not in own and not ticks and (outcome is None or ranks.get(flag.name, (False, -1)) < outcome)
    ]


def _ranks(survey: Survey) -> dict[str, tuple[bool, int]]:
    """How much of an outcome each flag is whose own average is told: by its name, as churn; else what stands further
    behind in the table."""

    def make() -> dict[str, tuple[bool, int]]:
        told = {part.column for measure in survey.measures if measure.kind == "mean" for part in measure.parts}
        return {
            flag.name: (better_way([flag.name]) is not None or bool(_OUTCOMES & set(words(flag.name))), place)
            for place, flag in enumerate(survey.flags)
            if flag.name in told
        }

    return survey._once("ranks of flags", make)


def restated(survey: Survey, measure: Measure, flag: str) -> bool:
    """Whether yes and no are made from the measure, or say only whether there is any of it."""
    if measure.kind != "mean":
        return False
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


def _says_no_more(one: Floats, other: Floats, rate: bool) -> bool:
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


def screened(survey: Survey, measure: Measure, flags: Sequence[str]) -> dict[str, tuple[float, float, int]]:
    """z, p and the rows of the smaller group for yes and no of each flag, of normal scores within periods, all
    flags at once; empty for what has no rows to be ranked. The tests that follow only make a claim less sure."""
    if measure.kind != "mean" or not flags:
        return {}
    scores, strata, _ = row_scores(survey, measure, None)
    known = np.flatnonzero(np.isfinite(scores))
    order = known[np.argsort(strata[known], kind="stable")]
    starts = np.flatnonzero(np.diff(strata[order], prepend=-1))
    if not order.size:
        return {}
    own, found = scores[order][:, None], {}
    step = max(1, _AT_ONCE // order.size)
    for first in range(0, len(flags), step):
        some = flags[first : first + step]
        yes, no = (np.stack(one, axis=1) for one in zip(*(_said(survey, flag, order) for flag in some), strict=True))
        either = yes + no
        k, sums, n, total, squares = (
            np.add.reduceat(one, starts, axis=0).T
            for one in (yes, yes * own, either, either * own, either * (own * own))
        )
        for place, flag in enumerate(some):
            z, p = placed(np.stack([k[place], sums[place]])[:, None], n[place], total[place], squares[place])
            rows = int(k[place].sum())
            found[flag] = (float(z[0]), float(p[0]), min(rows, int(n[place].sum()) - rows))
    return found


def _said(survey: Survey, flag: str, order: npt.NDArray[np.intp]) -> tuple[Floats, Floats]:
    """Which rows, in an order, say yes and which no, as noughts and ones."""
    labels = survey.labels(flag)
    yes = np.array([says_yes(label) for label in labels], dtype=np.float64)
    no = np.array([label is not None for label in labels], dtype=np.float64) - yes
    codes = survey.drawn().codes(flag)[0][order]
    return yes[codes], no[codes]
