"""A trend in words: how far, since when, beside what the siblings did."""

from __future__ import annotations

from ...findings import Finding
from .. import dates, names, numbers
from ..comparable_growth import claimed, growth
from ..languages import Noun, mark, say
from ..message import Message, sentence
from ..movement_phrases import against_siblings, movement_suggestion, same_months, told_in_percent, window
from ..suggestions import Suggestion

NAME = mark("trend", "kind")


def message(finding: Finding) -> Message:
    f, span = finding.figures, finding.period
    assert span is not None
    who = names.subject(finding.measure, finding.where)
    when = dates.since(span) if f["bend"] else _over(finding)
    claim = _moved(who, when, finding)
    alike = f.get("like_for_like")
    if alike is not None:
        claim = claimed(claim, alike, finding.measure, f)
    return Message(claim=against_siblings(claim, finding), evidence=_trend_evidence(finding))


def suggestion(finding: Finding, source: str) -> Suggestion | None:
    return movement_suggestion(finding, source, finding.figures["observed_start"], finding.figures["observed_end"])


def _moved(who: Noun, when: str, finding: Finding) -> str:
    f, measure = finding.figures, finding.measure
    change, bent = f["change"], bool(f["bend"])
    up = change > 0
    if measure is not None and measure.in_points:
        size = numbers.difference(change, measure)
        ends = {name: numbers.amount(f[f"observed_{name}"], measure) for name in ("start", "end")}
        if bent:
            return (
                say(
                    "{who} {who:has|have} risen {size}, from {start} to {end}, {when}",
                    **ends,
                    who=who,
                    size=size,
                    when=when,
                )
                if up
                else say(
                    "{who} {who:has|have} fallen {size}, from {start} to {end}, {when}",
                    **ends,
                    who=who,
                    size=size,
                    when=when,
                )
            )
        return (
            say("{who} rose {size}, from {start} to {end}, {when}", **ends, who=who, size=size, when=when)
            if up
            else say("{who} fell {size}, from {start} to {end}, {when}", **ends, who=who, size=size, when=when)
        )
    if not told_in_percent(finding):
        ends = {name: numbers.amount(f[f"observed_{name}"], measure) for name in ("start", "end")}
        if bent:
            return (
                say("{who} {who:has|have} risen from {start} to {end} {when}", **ends, who=who, when=when)
                if up
                else say("{who} {who:has|have} fallen from {start} to {end} {when}", **ends, who=who, when=when)
            )
        return (
            say("{who} rose from {start} to {end} {when}", **ends, who=who, when=when)
            if up
            else say("{who} fell from {start} to {end} {when}", **ends, who=who, when=when)
        )
    size = numbers.percent(f["change_pct"])
    if bent:
        return (
            say("{who} {who:has|have} risen {size} {when}", who=who, size=size, when=when)
            if up
            else say("{who} {who:has|have} fallen {size} {when}", who=who, size=size, when=when)
        )
    return (
        say("{who} rose {size} {when}", who=who, size=size, when=when)
        if up
        else say("{who} fell {size} {when}", who=who, size=size, when=when)
    )


def _over(finding: Finding) -> str:
    """ "from 2022 to 2024" where whole years are set against each other, else the span in months or days."""
    span, windows = finding.period, finding.figures["windows"]
    assert span is not None
    first, last = (one["start"][:4] for one in (windows["before"], windows["after"]))
    whole = [(one["start"], one["end"]) for one in (windows["before"], windows["after"])]
    if whole == [(f"{year}-01-01", f"{year}-12-31") for year in (first, last)]:
        return dates.from_to(first, last)
    return dates.during(span)


def _trend_evidence(finding: Finding) -> str:
    f, measure = finding.figures, finding.measure
    first, last = (numbers.amount(f[name], measure) for name in ("observed_start", "observed_end"))
    each = names.each(measure, names.grain(finding))
    places = {
        "it": names.subject(measure),
        "first": first + each,
        "last": last,
        "before": window(f["windows"]["before"]),
        "after": window(f["windows"]["after"]),
    }
    if measure is not None and measure.share:
        text = say("{it:It|They} {it:was|were} {first} over {before} and {last} over {after}", **places)
    else:
        text = say("{it:It|They} averaged {first} over {before} and {last} over {after}", **places)
    text = same_months(text, finding)
    alike = f.get("like_for_like")
    return sentence(text) if alike is None else sentence(text) + " " + sentence(growth(alike, finding.measure))
