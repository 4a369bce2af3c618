"""Which way is better for a figure, told by the words of its name, where nobody says."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import pairwise

_MORE = frozenset(
    "revenue sales profit margin income turnover passengers customers members bookings orders satisfaction satisfied "
    "score scores rating ratings quality efficiency productivity recommend savings conversion conversions converted "
    "renewed renewal renewals retention retained passed survived survival won".split()
)
_LESS = frozenset(
    "cost costs expense expenses delay delays late lateness cancelled cancellations complaints complaint returns "
    "returned refunds waste loss losses errors error defects defect fuel churn reopened waiting wait absence absences "
    "accidents incidents overdue debt arrears faults outages downtime scrap breakdowns failures failed "
    "attrition readmitted readmission readmissions defaulted fraud fraudulent injury injuries injured death deaths "
    "died mortality relapse relapses recidivism dropout dropouts".split()
)


def better_way(words: Iterable[str]) -> str | None:
    """up or down; None where the words tell neither."""
    plain = [word.strip("()_") for text in words for word in text.lower().replace("(", " ").replace("_", " ").split()]
    if any(pair == ("on", "time") for pair in pairwise(plain)):
        return "up"
    if set(plain) & _LESS or "no show" in " ".join(plain):
        return "down"
    return "up" if set(plain) & _MORE else None
