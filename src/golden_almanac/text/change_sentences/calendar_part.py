"""What of a change is the calendar's: fewer days, other weekdays, holidays."""

from __future__ import annotations

from ...analysis.change import Explanation
from .. import numbers
from ..languages import say

#: A calendar's part smaller than this in percent, or than so much of the change, is not told.
_LEAST_PCT, _LEAST_SHARE = 0.5, 0.25


def calendar(explanation: Explanation) -> list[str]:
    """What the days of the two periods alone make of the change, and what is left day for day."""
    found = explanation.calendar
    small = found is None or abs(found.change_pct) < _LEAST_PCT
    if found is None or small or abs(found.change) < _LEAST_SHARE * abs(explanation.change):
        return []
    places = {"size": numbers.per_cent(found.change_pct), "daily": numbers.per_cent(found.daily_pct)}
    if found.days == found.days_before:
        return [say("The calendar alone (other weekdays) makes {size}; day for day it is {daily}.", **places)]
    whole = (explanation.period.days, explanation.baseline.days) == (found.days, found.days_before)
    counts = {"days": numbers.whole(found.days), "before": numbers.whole(found.days_before)}
    if whole:
        return [
            say(
                "The calendar alone ({days} days against {before}) makes {size}; day for day it is {daily}.",
                **places,
                **counts,
            )
        ]
    return [
        say(
            "The calendar alone ({days} open days against {before}) makes {size}; day for day it is {daily}.",
            **places,
            **counts,
        )
    ]
