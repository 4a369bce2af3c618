"""What the kinds that move over time have in common: the siblings, the spans compared, what to do about it."""

from __future__ import annotations

from typing import TypeGuard

from ..findings import Finding
from ..tables import Grain, Period
from . import dates, names, numbers
from .languages import Noun, say
from .suggestions import Suggestion, next_command, side_of, subtraction

#: From ten times on the two ends say more than a percentage.
_MOST_PCT = 1000.0
#: Siblings held level that moved by less than so many percent, and less than this share of what the slice did; of
#: shares and amounts around nought, which have no percent, by less than that share.
_LEVEL_PCT, _BESIDE, _LEVEL_SHARE = 3.0, 0.1, 0.05


def against_siblings(claim: str, finding: Finding) -> str:
    """A claim beside what the siblings did meanwhile: "…, against +18% for the other routes"."""
    f, measure = finding.figures, finding.measure
    if not finding.where.conditions:
        return claim
    rest_pct, own_pct, rest, own = (f[name] for name in ("rest_change_pct", "change_pct", "rest_change", "change"))
    if rest_pct is not None and own_pct is not None and told_in_percent(finding):
        share, size = abs(rest_pct) / abs(own_pct), numbers.per_cent(rest_pct)
    else:
        share, size = abs(rest) / abs(own), numbers.signed(rest, numbers.difference(rest, measure))
    small = share < _LEVEL_SHARE if rest_pct is None else share < _BESIDE and abs(rest_pct) < _LEVEL_PCT
    places = {"claim": claim, "others": others(finding)}
    return (
        say("{claim}, while {others} held level", **places)
        if small
        else say("{claim}, against {size} for {others}", size=size, **places)
    )


def says_something(pct: float | None) -> TypeGuard[float]:
    """Whether a change in percent says anything: nothing falls by more than all of it, unless it may lie below nought,
    and of what grew tenfold and more one tells from where to where."""
    return pct is not None and -100 <= pct < _MOST_PCT


def told_in_percent(finding: Finding) -> bool:
    """Whether a movement is told in percent: of what adds up, and of averages that are compared in proportion; not of
    what began next to nothing, which is so many times as much now that no percent says anything."""
    f, measure = finding.figures, finding.measure
    in_proportion = bool(finding.where.conditions) and f.get("relative_pct") is not None
    told = f["change_pct"] is not None and abs(f["change_pct"]) < _MOST_PCT
    return told and measure is not None and (measure.additive or in_proportion)


def same_months(text: str, finding: Finding) -> str:
    """A text on the spans compared, with that they are of the same time of year, where they are."""
    return say("{text} (the same time of year)", text=text) if finding.figures["windows"]["same_months"] else text


def others(finding: Finding) -> Noun:
    facts = finding.candidate.series
    return names.the_others(finding.by, facts.get("parent"), facts.get("besides", ()), finding.where)


def window(one: dict[str, str]) -> str:
    import numpy as np

    grain = Grain(one["grain"]) if one.get("grain") else None
    return dates.span_of(Period(start=np.datetime64(one["start"]), end=np.datetime64(one["end"]), grain=grain))


def movement_suggestion(finding: Finding, source: str, before: float, after: float) -> Suggestion | None:
    """A trend or step of something that adds up: what the movement is worth a period, and where to look."""
    measure = finding.measure
    if measure is None or not finding.where.conditions:
        # That the whole grows or shrinks tells nobody what to do: its parts are told by themselves.
        return None
    size, side = after - before, side_of(finding)
    places = {
        "who": names.subject(measure, finding.where),
        "worth": numbers.difference(size, measure) + names.each(measure, names.grain(finding)),
        "since": dates.since(finding.period) if finding.period is not None else say("since then"),
        "before": window(finding.figures["windows"]["before"]),
        "others": names.the_others(finding.by, None, (), finding.where),
    }
    # Beside its siblings it lost, or won, while by itself it went the other way.
    against = bool(size) and ("up" if size > 0 else "down") != finding.direction
    if side == "decline" and against:
        text = say("Find why {who} {who:does|do} less well than {others} {since}.", **places)
    elif side == "improvement" and against:
        text = say("Find why {who} {who:does|do} better than {others} {since}.", **places)
    elif side == "decline" and measure.additive and size > 0:
        # Errors, costs: what rises is worse.
        text = say("Find what raised {who} {since}, and whether {others} are next: {worth} more.", **places)
    elif side == "decline" and measure.additive:
        text = say("Find what {who} lost {since}, and whether it went to {others}: {worth} at stake.", **places)
    elif side == "decline":
        text = say("Find what made {who} worse {since}, in it or in what it is made of: {worth} at stake.", **places)
    elif side == "improvement" and size < 0:
        text = say(
            "Find what lowered {who} {since}, and whether {others} can do the same: it is worth {worth}.", **places
        )
    elif side == "improvement":
        text = say(
            "Find what lifted {who} {since}, and whether {others} can do the same: it is worth {worth}.", **places
        )
    elif size > 0:
        text = say("Plan for {who} at {who:its|their} new level: {worth} more than over {before}.", **places)
    else:
        text = say("Plan for {who} at {who:its|their} new level: {worth} less than over {before}.", **places)
    return Suggestion(
        text=text,
        amount=size,
        reckoned=subtraction(after, before, measure),
        next_look=next_command(source, finding),
        finding=finding.id,
        side=side,
    )
