"""A season in words: where it peaks and where it is lowest, as far as that is sure."""

from __future__ import annotations

from ...findings import Finding
from .. import dates, names, numbers
from ..languages import mark, say
from ..message import Message
from ..movement_phrases import says_something
from ..suggestions import Suggestion, next_command

NAME = mark("seasonality", "kind")


def message(finding: Finding) -> Message:
    return Message(claim=_season_claim(finding), evidence=_season_evidence(finding))


def suggestion(finding: Finding, source: str) -> Suggestion | None:
    f, measure = finding.figures, finding.measure
    facts = finding.candidate.series
    if measure is None or f.get("peak") is None or f.get("trough") is None or "profile" not in facts:
        return None
    profile = dict(zip((str(name) for name in facts["names"]), (float(v) for v in facts["profile"]), strict=True))
    high, low = profile.get(str(f["peak"])), profile.get(str(f["trough"]))
    if high is None or low is None or not low:
        return None
    places = {
        "cycle": names.grain_noun(f["cycle"]),
        "peak": dates.calendar_name(str(f["peak"])),
        "trough": dates.calendar_name(str(f["trough"])),
        "times": numbers.plain(high / low, 2),
        "measure": names.measure_name(measure),
    }
    return Suggestion(
        text=say("Plan capacity by the {cycle}: {peak} bring {times} times the {measure} of {trough}.", **places)
        if f["cycle"] == "week"
        else say("Plan capacity by the {cycle}: {peak} brings {times} times the {measure} of {trough}.", **places),
        amount=high / low,
        reckoned=say("{high} ÷ {low} of the average", high=numbers.share(high), low=numbers.share(low)),
        next_look=next_command(source, finding, "change", "--baseline", "year-ago"),
        finding=finding.id,
        side="data",
    )


def _season_claim(finding: Finding) -> str:
    who = names.subject(finding.measure)
    parts = season_parts(finding)
    if parts:
        return say("{who} {parts}", "season", who=who, parts=names.listed_clauses(parts))
    cycle = finding.figures["cycle"]
    if cycle == "year":
        return say("{who} {who:follows|follow} a yearly season, though no month leads every year", who=who)
    return say(
        "{who} {who:goes|go} up and down with the {cycle}, though no part of it leads for certain",
        who=who,
        cycle=names.grain_noun(cycle),
    )


def season_parts(finding: Finding) -> list[str]:
    """Where a season peaks and where it is lowest, as far as that is sure, without the subject."""
    f = finding.figures
    who = names.subject(finding.measure)
    parts = []
    for name in ("peak", "trough"):
        together = f[f"{name}_span"] if f[name] is None else [f[name]]
        if not together or f.get(f"{name}_value") is None:
            continue
        places = {"who": who, "when": dates.in_cycle(together, f["cycle"])}
        part = (
            say("{who:peaks|peak} {when}", **places) if name == "peak" else say("{who:is|are} lowest {when}", **places)
        )
        parts.append(_off_average(part, name, finding))
    return parts


def _off_average(text: str, name: str, finding: Finding) -> str:
    """A text with how far a part of the cycle lies off the average behind it."""
    f = finding.figures
    pct = f.get(f"{name}_pct")
    if not says_something(pct):
        value, average = f[f"{name}_value"], f["average"]
        size = numbers.difference(value - average, finding.measure)
        return (
            say("{text} ({size} above the average)", text=text, size=size)
            if value > average
            else say("{text} ({size} below the average)", text=text, size=size)
        )
    places = {
        "text": text,
        "who": names.subject(finding.measure),
        "size": numbers.percent(pct),
        "grain": names.grain_noun((names.grain(finding) or "period") if f["cycle"] == "year" else "day"),
    }
    return (
        say("{text}, {size} above {who:its|their} average {grain}", **places)
        if pct > 0
        else say("{text}, {size} below {who:its|their} average {grain}", **places)
    )


def _season_evidence(finding: Finding) -> str:
    f, measure = finding.figures, finding.measure
    average, share = numbers.amount(f["average"], measure), numbers.percent(100 * f["strength"])
    if f["cycle"] == "year":
        return say(
            "The average {grain} of the {years} full years was {average}; the season accounts for {share} of the ups "
            "and "
            "downs that are left when the trend is taken out.",
            grain=names.grain_noun(names.grain(finding)),
            years=f["years"],
            average=average,
            share=share,
        )
    places = {"average": average + names.each(measure, "day"), "share": share, "blocks": f["blocks"]}
    if f["cycle"] == "week":
        return say(
            "The average was {average} over {blocks} full weeks; within them the week accounts for {share} of the "
            "ups and "
            "downs.",
            **places,
        )
    return say(
        "The average was {average} over {blocks} full months (days 1 to 28); within them the month accounts for "
        "{share} of "
        "the ups and downs.",
        **places,
    )
