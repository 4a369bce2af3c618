"""Messages of what moves over time: trend, step, season, departure from a path."""

from __future__ import annotations

from ..findings import Finding
from ..tables import Period
from . import dates, names, numbers
from .languages import Noun, say
from .message import Message, sentence

# --- trend -------------------------------------------------------------------------------------


def trend(finding: Finding) -> Message:
    f, span = finding.figures, finding.period
    assert span is not None
    who = names.subject(finding.measure, finding.where)
    when = dates.since(span) if f["bend"] else dates.during(span)
    claim = _moved(who, when, finding)
    contrast = ""
    if finding.where.conditions:
        contrast = _rest(f["rest_change_pct"], f["rest_change"], f["change_pct"], f["change"], finding, others(finding))
    return Message(claim=claim, contrast=contrast, evidence=_trend_evidence(finding))


def _moved(who: Noun, when: str, finding: Finding) -> str:
    f, measure = finding.figures, finding.measure
    change, bent = f["change"], bool(f["bend"])
    up = change > 0
    if measure is not None and measure.share:
        size = numbers.difference(change, measure)
        ends = {"start": numbers.percent(100 * f["start"]), "end": numbers.percent(100 * f["end"])}
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
    if f["change_pct"] is None or (measure is not None and not measure.additive):
        ends = {name: numbers.amount(f[name], measure) for name in ("start", "end")}
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


def _rest(rest_pct: float | None, rest: float, own_pct: float | None, own: float, finding: Finding, who: Noun) -> str:
    """What the siblings did meanwhile: ", against +18% for the other routes"."""
    additive = finding.measure is not None and finding.measure.additive
    if rest_pct is not None and own_pct is not None and additive:
        small, size = abs(rest_pct) < 0.05 * abs(own_pct), numbers.per_cent(rest_pct)
    else:
        small, size = abs(rest) < 0.05 * abs(own), numbers.signed(rest, numbers.difference(rest, finding.measure))
    return (
        say(", while {others} held level", others=who)
        if small
        else say(", against {size} for {others}", size=size, others=who)
    )


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
    same = say(" (the same time of year)") if f["windows"]["same_months"] else ""
    if measure is not None and measure.share:
        text = say("{it:It|They} {it:was|were} {first} over {before} and {last} over {after}", **places)
    else:
        text = say("{it:It|They} averaged {first} over {before} and {last} over {after}", **places)
    text += same
    if measure is not None and measure.additive:
        start, end = (numbers.amount(f[name], measure) for name in ("start", "end"))
        text += (
            say("; the fitted line, free of the season, runs from {start} to {end}", start=start, end=end)
            if f["windows"]["same_months"]
            else say("; the fitted line runs from {start} to {end}", start=start, end=end)
        )
    return sentence(text)


# --- shift -------------------------------------------------------------------------------------


def shift(finding: Finding) -> Message:
    f, measure, span = finding.figures, finding.measure, finding.period
    assert span is not None
    who = names.subject(measure, finding.where)
    if f["change_pct"] is not None and measure is not None and measure.additive:
        size = numbers.per_cent(f["change_pct"])
    else:
        size = numbers.signed(f["change"], numbers.difference(f["change"], measure))
    places = {"who": who, "when": dates.at(span), "size": size}
    year, contrast = bool(f["windows"]["same_months"]), ""
    if finding.direction == "up":
        claim = (
            say("{who} stepped up {when}: {size} on a year before", **places)
            if year
            else say("{who} stepped up {when}: {size} on the time before", **places)
        )
    else:
        claim = (
            say("{who} stepped down {when}: {size} on a year before", **places)
            if year
            else say("{who} stepped down {when}: {size} on the time before", **places)
        )
    if finding.where.conditions:
        rest_pct = 100 * (f["rest_after"] / f["rest_before"] - 1) if f["rest_before"] > 0 else None
        rest = f["rest_after"] - f["rest_before"]
        contrast = _rest(rest_pct, rest, f["change_pct"], f["change"], finding, others(finding))
    return Message(claim=claim, contrast=contrast, evidence=_shift_evidence(finding))


def _shift_evidence(finding: Finding) -> str:
    f, measure = finding.figures, finding.measure
    each = names.each(measure, names.grain(finding))
    places = {
        "it": names.subject(measure),
        "value": numbers.amount(f["after"], measure) + each,
        "after": window(f["windows"]["after"]),
        "base": numbers.amount(f["before"], measure),
        "before": window(f["windows"]["before"]),
        "same": say(" (the same time of year)") if f["windows"]["same_months"] else "",
    }
    if measure is not None and measure.share:
        return say("{it:It|They} {it:was|were} {value} over {after}, against {base} over {before}{same}.", **places)
    return say("{it:It|They} averaged {value} over {after}, against {base} over {before}{same}.", **places)


# --- seasonality -------------------------------------------------------------------------------


def seasonality(finding: Finding) -> Message:
    return Message(claim=_season_claim(finding), evidence=_season_evidence(finding))


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
        if f[name] is None or f.get(f"{name}_value") is None:
            continue
        places = {
            "who": who,
            "when": dates.in_cycle(f[name], f["cycle"]),
            "off": _off_average(f[f"{name}_value"], f["average"], finding),
        }
        parts.append(
            say("{who:peaks|peak} {when}{off}", **places)
            if name == "peak"
            else say("{who:is|are} lowest {when}{off}", **places)
        )
    return parts


def _off_average(value: float, average: float, finding: Finding) -> str:
    f = finding.figures
    who = names.subject(finding.measure)
    if (finding.measure is not None and finding.measure.share) or average <= 0:
        size = numbers.difference(value - average, finding.measure)
        return (
            say(" ({size} above the average)", size=size)
            if value > average
            else say(" ({size} below the average)", size=size)
        )
    pct = 100 * (value / average - 1)
    places = {
        "who": who,
        "size": numbers.percent(pct),
        "grain": names.grain_noun((names.grain(finding) or "period") if f["cycle"] == "year" else "day"),
    }
    return (
        say(", {size} above {who:its|their} average {grain}", **places)
        if pct > 0
        else say(", {size} below {who:its|their} average {grain}", **places)
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


# --- divergence --------------------------------------------------------------------------------


def divergence(finding: Finding) -> Message:
    f, measure, span = finding.figures, finding.measure, finding.period
    assert span is not None
    assert finding.baseline is not None
    each = names.each(measure, names.grain(finding))
    places = {
        "who": names.subject(measure, finding.where),
        "size": numbers.percent(f["change_pct"])
        if f["change_pct"] is not None
        else numbers.difference(f["change"], measure),
        "when": dates.since(span),
        "value": numbers.amount(f["value"], measure) + each,
        "expected": numbers.amount(f["expected"], measure),
    }
    claim = (
        say(
            "{who} {who:has|have} been {size} above {who:its|their} path {when}: {value}, where {expected} was to be "
            "expected",
            **places,
        )
        if f["change"] > 0
        else say(
            "{who} {who:has|have} been {size} below {who:its|their} path {when}: {value}, where {expected} was to be "
            "expected",
            **places,
        )
    )
    ends = {
        name: numbers.per_cent(f[name])
        if f["change_pct"] is not None
        else numbers.signed(f[name], numbers.difference(f[name], measure))
        for name in ("low", "high")
    }
    evidence = say(
        "The path is that of {span} against {others}, which had {rest} meanwhile (95% range of the departure {low} to "
        "{high}; {n} rows).",
        span=dates.span_of(finding.baseline),
        others=others(finding),
        rest=numbers.amount(f["rest"], measure) + each,
        n=numbers.whole(f["n"]),
        **ends,
    )
    return Message(claim=claim, evidence=evidence)


def others(finding: Finding) -> Noun:
    facts = finding.candidate.series
    return names.the_others(finding.by, facts.get("parent"), facts.get("besides", ()))


def window(one: dict[str, str]) -> str:
    import numpy as np

    return dates.span_of(Period(start=np.datetime64(one["start"]), end=np.datetime64(one["end"])))
