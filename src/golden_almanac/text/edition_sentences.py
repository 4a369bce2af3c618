"""What is said from one edition to the next: what is new, gone, stronger, weaker, restated; what people changed."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from ..aggregation.measures import Measure
from ..tables import Period
from . import dates, names, numbers
from .languages import count, say

#: Findings of one sort that are told by their headline, and figures restated.
_MOST, MOST_RESTATED = 4, 6


def day_of(edition: str) -> str:
    """An edition's name as a day, where it is one."""
    try:
        return dates.day(date.fromisoformat(edition[:10]))  # type: ignore[arg-type]
    except ValueError:
        return edition


def since_claim(previous: str, new: int, gone: int, restated_figures: int) -> str:
    """What a section on the last edition claims."""
    when = day_of(previous)
    parts = []
    if new:
        parts.append(count(new, "{n} finding is new", "{n} findings are new", n=numbers.whole(new)))
    if gone:
        parts.append(count(gone, "{n} finding is gone", "{n} findings are gone", n=numbers.whole(gone)))
    if restated_figures:
        n = numbers.whole(restated_figures)
        parts.append(count(restated_figures, "{n} figure was restated", "{n} figures were restated", n=n))
    if not parts:
        return say("Since the edition of {when} nothing is new and nothing is gone.", when=when)
    return say("Since the edition of {when} {what}.", when=when, what=names.listed(parts))


def listed_under(sort: str, headlines: Sequence[str]) -> str:
    """Findings of one sort: their headlines, and how many more there are."""
    if not headlines:
        return ""
    told = " ".join(headlines[:_MOST])
    more = len(headlines) - _MOST
    heads = {
        "new": say("New: {told}", told=told),
        "gone": say("No longer told: {told}", told=told),
        "stronger": say("Stronger: {told}", told=told),
        "weaker": say("Weaker: {told}", told=told),
    }
    text = heads[sort]
    return f"{text} {count(more, 'And {n} more.', 'And {n} more.', n=numbers.whole(more))}" if more > 0 else text


def going_on(headline: str, editions: int) -> str:
    """A finding that has been told for some editions in a row."""
    return say("Going on for {n} editions: {told}", n=numbers.whole(editions), told=headline)


def restated(measure: Measure, span: Period, was: float, now: float | None) -> str:
    """A figure of the last edition that the source gives otherwise now."""
    places = {"who": names.subject(measure), "when": dates.within(span), "was": numbers.amount(was, measure, 4)}
    if now is None:
        return names.capital(
            say("{who} {when} {who:was|were} {was} in the last edition, and the source has none now.", **places)
        )
    shown = numbers.amount(now, measure, 4)
    if shown == places["was"]:
        shown, places["was"] = numbers.amount(now, measure, 9), numbers.amount(was, measure, 9)
    return names.capital(
        say("{who} {when} {who:was|were} {was} in the last edition and {who:is|are} {now} now.", now=shown, **places)
    )


def more_restated(more: int) -> str:
    """How many figures more were restated."""
    return count(more, "{n} more figure was restated.", "{n} more figures were restated.", n=numbers.whole(more))


def remark(who: str, text: str) -> str:
    return say("Remark of {who}: {text}", who=who, text=text) if who else say("Remark: {text}", text=text)


def correction(who: str, was: str, now: str, why: str) -> str:
    return say("Corrected by {who}: {now} in place of {was} ({why}).", who=who, now=now, was=was, why=why.rstrip("."))


def to_review(edition: str) -> str:
    """Beside words of a person whose facts have changed."""
    return say(
        "To be reviewed: this was written by hand for the edition of {when}, and its figures are others now.",
        when=day_of(edition),
    )


def checked(figures: int, agree: int) -> str:
    """The foot of a report: how many of its figures came out again."""
    if not figures:
        return say("None of the findings has figures that SQL gives again.")
    return say(
        "{agree} of {n} figures of the findings came out again when their SQL was run over the source.",
        agree=numbers.whole(agree),
        n=numbers.whole(figures),
    )


def alert_told(name: str) -> str:
    return say("Alert: {name}", name=name)
