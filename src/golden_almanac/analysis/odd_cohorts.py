"""Which cohorts differ from the others.

Tested on members: where they end once, by who stays (log-rank); else by at how many of the ages observed each was
active, against what the others' shares let expect (a member's ages go together, so they are one observation). Both are
wider where cohorts differ among themselves in any case; all cohorts are one family.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..stats.extra_spread import extra_spread
from ..tables import Period
from .cohort_log import Cohort, Floats, MemberPeriods

#: Members of a cohort, and complete ages, from which it is compared with the others; cohorts that this needs.
LEAST_MEMBERS, LEAST_COHORTS = 20, 4
#: How sure a difference must be, as a share of false ones among those told, how large, as a share of members, and how
#: many are told.
_SURE, _LEAST_GAP, _MOST_ODD = 0.01, 0.02, 6


@dataclass(frozen=True, slots=True, kw_only=True)
class OddCohort:
    """A cohort that differs: at `age`, the last observed, `share` of it was active, against `expected` by the others;
    from the age `since` on it lies on one side of them. `gap` is how many more (or fewer) of its ages a member was
    active at."""

    period: Period
    age: int
    since: int
    share: float
    expected: float
    gap: float
    p: float
    q: float


def odd_cohorts(
    pairs: MemberPeriods, cohorts: tuple[Cohort, ...], compared: Sequence[int], size: int, *, once: bool
) -> tuple[OddCohort, ...]:
    """The cohorts that differ from the others, the surest first; what one was found to do is taken out of what is
    expected of the rest."""
    spread = None if once else _spread_by_age(pairs, set(compared), size)
    left = list(compared)
    told: list[OddCohort] = []
    while len(told) < _MOST_ODD:
        found = _compared(cohorts, left, size, spread)
        if len(found) < LEAST_COHORTS:
            break
        farthest = max(found, key=lambda one: (abs(one.z), -one.place)).place
        left.remove(farthest)
        odd = _surest(found, _compared(cohorts, left, size, spread), cohorts)
        if odd is None:
            break
        told.append(odd)
    return tuple(told)


def _spread_by_age(pairs: MemberPeriods, compared: set[int], size: int) -> Floats:
    """The variance of how many of the ages from 1 to each a member was active at, over those for whom that age is
    over; shape (ages,), NaN where there are too few."""
    order = np.argsort(pairs.age.astype(np.int16), kind="stable")
    ends = np.searchsorted(pairs.age[order], np.arange(size + 1))
    running = np.zeros(pairs.cohort.size)
    eligible = np.isin(pairs.cohort, list(compared))
    made = np.full(size, np.nan)
    for age in range(1, size):
        running[pairs.member[order[ends[age] : ends[age + 1]]]] += 1
        kept = running[eligible & (pairs.last >= age)]
        if kept.size >= LEAST_MEMBERS:
            made[age] = float(kept.var(ddof=1))
    return made


@dataclass(frozen=True, slots=True)
class _Against:
    """A cohort against the others: how many more of its ages a member was active at, that in standard errors, the ages,
    and the shares expected."""

    place: int
    gap: float
    z: float
    ages: npt.NDArray[np.int64]
    expected: Floats


def _compared(cohorts: tuple[Cohort, ...], compared: Sequence[int], size: int, spread: Floats | None) -> list[_Against]:
    active = np.nan_to_num(np.array([one.active for one in cohorts]))
    sizes = np.array([one.size for one in cohorts], dtype=float)
    over = (np.arange(size)[None, :] <= (size - 1 - np.arange(size))[:, None]) & np.isin(
        np.arange(size), list(compared)
    )[:, None]
    n, counted = (over * sizes[:, None]).sum(axis=0), np.where(over, active, 0.0).sum(axis=0)
    made = []
    for place in compared:
        last = size - 1 - place
        if sizes[place] < LEAST_MEMBERS or last < 1:
            continue
        beside = n[1 : last + 1] - sizes[place]
        ages = np.arange(1, last + 1)[beside >= LEAST_MEMBERS]
        if not ages.size or (spread is not None and not np.isfinite(spread[ages[-1]])):
            continue
        expected = (counted[ages] - active[place, ages]) / (n[ages] - sizes[place])
        gap = float(active[place, ages].sum() / sizes[place] - expected.sum())
        if spread is None:
            z = _log_rank(active, over, place, ages)
        else:
            error = float(np.sqrt(spread[ages[-1]] * (1 / sizes[place] + 1 / (n[ages[-1]] - sizes[place]))))
            z = gap / error if error else 0.0
        made.append(_Against(place, gap, z, ages, expected))
    return made


def _log_rank(active: Floats, over: npt.NDArray[np.bool_], place: int, ages: npt.NDArray[np.int64]) -> float:
    """How many more of a cohort stayed than the others let expect, in standard errors, where members end once (Mantel
    1966): at each age, of those there at the one before."""
    others = over.copy()
    others[place] = False
    before, after = active[place, ages - 1], active[place, ages]
    beside = np.where(others[:, ages], active[:, ages - 1], 0.0).sum(axis=0)
    there = np.where(others[:, ages], active[:, ages], 0.0).sum(axis=0)
    at_risk, ended = before + beside, (before - after) + (beside - there)
    use = (at_risk > 1) & (before > 0) & (beside > 0)
    expected = before[use] * ended[use] / at_risk[use]
    variance = (expected * (beside[use] / at_risk[use]) * (at_risk[use] - ended[use]) / (at_risk[use] - 1)).sum()
    return float((expected - (before - after)[use]).sum() / np.sqrt(variance)) if variance > 0 else 0.0


def _surest(found: Sequence[_Against], rest: Sequence[_Against], cohorts: tuple[Cohort, ...]) -> OddCohort | None:
    """The cohort that lies farthest from the others, where it does for sure; `rest` are the others without it."""
    from scipy.special import stdtr

    one = max(found, key=lambda other: (abs(other.z), -other.place))
    wide = extra_spread(np.array([other.z for other in rest]))
    p = normal_p(one.z) if wide == 1.0 else float(2 * stdtr(max(len(rest) - 1, 3), -abs(one.z / wide)))
    # The surest of so many, by Benjamini and Hochberg.
    q = min(1.0, p * len(found))
    if q > _SURE or abs(one.gap) / one.ages.size < _LEAST_GAP:
        return None
    return _told(one, cohorts[one.place], p, q)


def _told(one: _Against, cohort: Cohort, p: float, q: float) -> OddCohort:
    """What is said of a cohort: its share at the age where it lies farthest apart, and from which age on it does."""
    own, side = cohort.share[one.ages], np.sign(one.gap)
    far = side * (own - one.expected)
    # Shares of the others are known well; its own within two standard errors.
    unsure = 2 * np.sqrt(one.expected * (1 - one.expected) / cohort.size)
    apart = np.flatnonzero(far > unsure)
    first = int(apart[0]) if apart.size else int(np.argmax(far))
    last = int(apart[int(np.argmax(far[apart]))]) if apart.size else first
    return OddCohort(
        period=cohort.period,
        age=int(one.ages[last]),
        since=int(one.ages[first]),
        share=float(own[last]),
        expected=float(one.expected[last]),
        gap=one.gap,
        p=p,
        q=q,
    )


def normal_p(z: float) -> float:
    from scipy.special import ndtr

    return float(2 * ndtr(-abs(z)))
