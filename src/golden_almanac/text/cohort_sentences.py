"""Cohorts in sentences: which differ, how many stay, what a member brings, who the newcomers are."""

from __future__ import annotations

import numpy as np

from ..analysis.cohort_log import Floats
from ..analysis.cohorts import CohortTable
from ..analysis.odd_cohorts import OddCohort
from ..tables import Grain
from . import dates, names, numbers
from .caveats import sentence
from .languages import count, say
from .summary import Summary, fit
from .text_tables import TextTable

#: Ages that a table shows.
_MOST_AGES = 13


def age(size: int, grain: Grain) -> str:
    """How long after joining: "3 months"."""
    n = numbers.whole(size)
    if grain is Grain.DAY:
        return count(size, "{n} day", "{n} days", "age", n=n)
    if grain is Grain.WEEK:
        return count(size, "{n} week", "{n} weeks", "age", n=n)
    if grain is Grain.MONTH:
        return count(size, "{n} month", "{n} months", "age", n=n)
    if grain is Grain.QUARTER:
        return count(size, "{n} quarter", "{n} quarters", "age", n=n)
    return count(size, "{n} year", "{n} years", "age", n=n)


def cohort_summary(found: CohortTable, length: str = "standard") -> Summary:
    """The cohort that differs most, or how many stay; then the rest."""
    odd = [_odd(found, one) for one in found.odd]
    general = _general(found)
    body = [*odd[1:], *([general] if odd else [])]
    if found.odd:
        since = found.odd[0].since
        if 1 < since < found.odd[0].age:
            body.insert(0, say("It shows from {age} after joining on.", age=age(since, found.grain)))
    else:
        body.append(say("No cohort differs from the others by more than chance makes."))
    body += [text for text in (_half(found), _survival(found), _worth(found)) if text]
    for one in found.shifts[:2]:
        places = {"label": names.label(one.label), "now": numbers.share(one.now), "before": numbers.share(one.before)}
        body.append(
            say("{label} came to {now} of newcomers in the later half, against {before} in the earlier.", **places)
        )
    return fit(odd[0] if odd else general, body, [], length)


def _odd(found: CohortTable, one: OddCohort) -> str:
    places = {
        "period": dates.period(one.period),
        "share": numbers.share(one.share),
        "expected": numbers.share(one.expected),
        "age": age(one.age, found.grain),
    }
    if found.survival is None and one.gap < 0:
        return say(
            "Fewer of those who joined in {period} kept coming: {share} were active after {age}, against {expected} of "
            "the others.",
            **places,
        )
    if found.survival is None:
        return say(
            "More of those who joined in {period} kept coming: {share} were active after {age}, against {expected} of "
            "the others.",
            **places,
        )
    if one.gap < 0:
        return say(
            "Those who joined in {period} left faster: {share} were active after {age}, against {expected} of the "
            "others.",
            **places,
        )
    return say(
        "Those who joined in {period} stayed longer: {share} were active after {age}, against {expected} of the "
        "others.",
        **places,
    )


def _general(found: CohortTable) -> str:
    known = np.flatnonzero(np.isfinite(found.pooled))
    last = int(known[-1])
    first = min(_quarter(found.grain), last)
    far = min(_year(found.grain), last)
    share = numbers.share(float(found.pooled[first]))
    # Where members end once, how many stay longer is told with its range.
    if far <= first or _survival(found) is not None:
        return say("Of those who join, {share} are active after {age}.", share=share, age=age(first, found.grain))
    return say(
        "Of those who join, {share} are active after {age} and {later} after {end}.",
        share=share,
        age=age(first, found.grain),
        later=numbers.share(float(found.pooled[far])),
        end=age(far, found.grain),
    )


def _quarter(grain: Grain) -> int:
    return {Grain.DAY: 7, Grain.WEEK: 4, Grain.MONTH: 3, Grain.QUARTER: 1, Grain.YEAR: 1}[grain]


def _year(grain: Grain) -> int:
    return {Grain.DAY: 30, Grain.WEEK: 26, Grain.MONTH: 12, Grain.QUARTER: 4, Grain.YEAR: 3}[grain]


def _half(found: CohortTable) -> str | None:
    if found.half_life is None:
        return None
    return say("After {age} less than half are active.", age=age(int(np.ceil(found.half_life)), found.grain))


def _survival(found: CohortTable) -> str | None:
    left = found.survival
    if left is None or left.left.size < 2:
        return None
    place = min(_year(found.grain), left.left.size) - 1
    return say(
        "Hardly anyone who leaves comes back; {left} are expected to stay beyond {age} (95% range {low} to {high}).",
        left=numbers.share(float(left.left[place])),
        age=age(place + 1, found.grain),
        low=numbers.share(float(left.low[place])),
        high=numbers.share(float(left.high[place])),
    )


def _worth(found: CohortTable) -> str | None:
    """What a member brings: at once, and by the end of a year."""
    if found.measure is None:
        return None
    by_age = per_member(found)
    known = np.flatnonzero(np.isfinite(by_age))
    last = min(_year(found.grain), int(known[-1]))
    places = {
        "measure": names.measure_name(found.measure),
        "first": numbers.amount(float(by_age[0]), found.measure),
        "whole": numbers.amount(float(by_age[: last + 1].sum()), found.measure),
        "age": age(last, found.grain),
    }
    return say("A member brings {first} ({measure}) in the period of joining and {whole} by {age} later.", **places)


def per_member(found: CohortTable) -> Floats:
    """The measure a member, by age, over the cohorts for which that age is over."""
    value = np.array([one.value for one in found.followed])
    sizes = np.array([[one.size] for one in found.followed], dtype=float)
    seen = np.isfinite(value)
    n = (seen * sizes).sum(axis=0)
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.where(n > 0, np.nansum(value, axis=0) / n, np.nan)


def cohort_caveats(found: CohortTable) -> list[str]:
    told = [sentence(name, facts) for name, facts in found.notes]
    if found.early:
        told.append(
            count(
                found.early,
                "{n} member was active before joining; that activity is left out.",
                "{n} members were active before joining; that activity is left out.",
                n=numbers.whole(found.early),
            )
        )
    if found.founders:
        told.append(
            count(
                found.founders,
                "{n} member of the first period may have joined earlier and is compared with nobody.",
                "{n} members of the first period may have joined earlier and are compared with nobody.",
                n=numbers.whole(found.founders),
            )
        )
    if found.unfinished:
        told.append(say("The last period is not over and is left out."))
    return told


def cohort_table(found: CohortTable) -> TextTable:
    """A row a cohort: members, and the share active by age."""
    ages = min(found.ages, _MOST_AGES)
    heads = (say("Joined", "column"), say("Members", "column"), *(numbers.whole(place) for place in range(ages)))
    rows = [
        (dates.period(one.period), numbers.whole(one.size), *(_percent(float(share)) for share in one.share[:ages]))
        for one in found.cohorts
        if one.size
    ]
    shares = (_percent(float(one)) for one in found.pooled[:ages])
    rows.append((say("All", "column"), numbers.whole(sum(one.size for one in found.followed)), *shares))
    return TextTable(title=say("Share active by age"), heads=heads, rows=tuple(rows), left=1)


def _percent(share: float) -> str:
    return numbers.percent(100 * share) if np.isfinite(share) else ""
