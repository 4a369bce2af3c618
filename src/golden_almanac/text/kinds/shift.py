"""A step in words: how large, when, beside what the siblings did."""

from __future__ import annotations

from typing import Any

from ...findings import Finding
from .. import dates, names, numbers
from ..comparable_growth import claimed, growth
from ..languages import mark, say
from ..message import Message, sentence
from ..movement_phrases import against_siblings, movement_suggestion, same_months, told_in_percent, window
from ..suggestions import Suggestion

NAME = mark("shift", "kind")


def message(finding: Finding) -> Message:
    f, measure, span = finding.figures, finding.measure, finding.period
    assert span is not None
    who = names.subject(measure, finding.where)
    if told_in_percent(finding):
        size = numbers.per_cent(f["change_pct"])
    else:
        size = numbers.signed(f["change"], numbers.difference(f["change"], measure))
    places = {"who": who, "when": dates.at(span), "size": size}
    claim = _stepped(places, finding.direction == "up", f["change"], bool(f["windows"]["same_months"]))
    alike, evidence = f["like_for_like"], _shift_evidence(finding)
    if alike is not None:
        claim = claimed(claim, alike, measure, f)
        evidence += " " + sentence(growth(alike, measure))
    return Message(claim=against_siblings(claim, finding), evidence=evidence)


def _stepped(places: dict[str, Any], up: bool, change: float, year: bool) -> str:
    """What stepped, or moved by less than its siblings did: that is a step beside them, though it went their way."""
    if up and change > 0:
        return (
            say("{who} stepped up {when}: {size} on a year before", **places)
            if year
            else say("{who} stepped up {when}: {size} on the time before", **places)
        )
    if not up and change < 0:
        return (
            say("{who} stepped down {when}: {size} on a year before", **places)
            if year
            else say("{who} stepped down {when}: {size} on the time before", **places)
        )
    if up:
        return (
            say("{who} fell by less {when}: {size} on a year before", **places)
            if year
            else say("{who} fell by less {when}: {size} on the time before", **places)
        )
    return (
        say("{who} rose by less {when}: {size} on a year before", **places)
        if year
        else say("{who} rose by less {when}: {size} on the time before", **places)
    )


def suggestion(finding: Finding, source: str) -> Suggestion | None:
    return movement_suggestion(finding, source, finding.figures["before"], finding.figures["after"])


def _shift_evidence(finding: Finding) -> str:
    f, measure = finding.figures, finding.measure
    each = names.each(measure, names.grain(finding))
    places = {
        "it": names.subject(measure),
        "value": numbers.amount(f["after"], measure) + each,
        "after": window(f["windows"]["after"]),
        "base": numbers.amount(f["before"], measure),
        "before": same_months(window(f["windows"]["before"]), finding),
    }
    if measure is not None and measure.share:
        return say("{it:It|They} {it:was|were} {value} over {after}, against {base} over {before}.", **places)
    return say("{it:It|They} averaged {value} over {after}, against {base} over {before}.", **places)
