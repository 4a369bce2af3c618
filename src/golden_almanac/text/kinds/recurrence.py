"""A week that stands out every year in words."""

from __future__ import annotations

import numpy as np

from ...findings import Finding
from .. import dates, names, numbers
from ..languages import mark, say
from ..message import Message
from ..suggestions import Suggestion, next_command

NAME = mark("recurrence", "kind")


def message(finding: Finding) -> Message:
    f, measure = finding.figures, finding.measure
    assert measure is not None
    up = f["change"] > 0
    places = {"who": names.subject(measure), "size": numbers.percent(f["change_pct"]), "years": f["years"]}
    if f["holiday"] is None:
        week = {"week": f["week"], **places}
        claim = (
            say("{who} {who:is|are} {size} above the weeks around in week {week}, in all {years} years", **week)
            if up
            else say("{who} {who:is|are} {size} below the weeks around in week {week}, in all {years} years", **week)
        )
    else:
        day = {"holiday": f["holiday"], **places}
        claim = (
            say(
                "{who} {who:is|are} {size} above the weeks around in the week of {holiday}, in all {years} years", **day
            )
            if up
            else say(
                "{who} {who:is|are} {size} below the weeks around in the week of {holiday}, in all {years} years", **day
            )
        )
    ends = {
        "it": names.subject(measure),
        "value": numbers.amount(f["value"], measure) + names.each(measure, "week"),
        "expected": numbers.amount(f["expected"], measure),
    }
    return Message(
        claim=claim,
        evidence=say(
            "{it:It|They} averaged {value} in these weeks ({nearest} in the one nearest to the others), against "
            "{expected} in those around them.",
            nearest=numbers.amount(f["nearest"], measure),
            **ends,
        ),
    )


def suggestion(finding: Finding, source: str) -> Suggestion | None:
    f = finding.figures
    if finding.measure is None or f.get("week") is None:
        return None
    # The week of that number in the year after the last: its Thursday lies in that year.
    year = int(str(np.datetime64(f["weeks"][-1]) + np.timedelta64(3, "D"))[:4]) + 1
    fourth = np.datetime64(f"{year}-01-04")
    monday = fourth - np.timedelta64((int(fourth.astype(np.int64)) + 3) % 7, "D")
    day = monday + np.timedelta64(7 * (int(f["week"]) - 1), "D")
    return Suggestion(
        text=say(
            "Plan for the week of {day}: it is likely to bring {times} times the {measure} of the weeks around it.",
            day=dates.day(day),
            times=numbers.plain(f["value"] / f["expected"], 2),
            measure=names.measure_name(finding.measure),
        ),
        amount=f["value"] / f["expected"],
        reckoned=say(
            "{high} ÷ {low} of a week",
            high=numbers.amount(f["value"], finding.measure),
            low=numbers.amount(f["expected"], finding.measure),
        ),
        next_look=next_command(source, finding, "scan", "--grain", "week"),
        finding=finding.id,
        side="data",
    )
