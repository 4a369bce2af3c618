"""The summary of a whole report of a table: the most consequential thing that happened, how the period went and why,
what else moved, what goes with the measure people worry about, what is to be expected."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from ..analysis.change import Explanation
from ..analysis.drivers import Found
from ..analysis.forecast import Outlook
from ..findings import Finding
from ..findings.matching import matching
from . import caveats as told_caveats
from . import change_sentences as why_changed
from . import dates, names
from .composition import Story, stories
from .driver_sentences import drivers_summary
from .forecast_sentences import forecast_summary
from .joint_changes import others
from .languages import say
from .summary import Fact, Summary, latest_matters, planned
from .summary import latest_facts as facts_of

#: Kinds that say that something happened; a season or a leader is how things are.
HAPPENED = ("trend", "shift", "divergence", "spike", "change", "gap", "mix")
#: Kinds that are of a moment.
_MOMENTS = ("spike", "gap")
#: Days before the period within which something must have begun to be news.
_NEWS = 400
#: Stories told beside the first.
_MOST_STORIES = 3
#: A sum as rows times amount per row, and no more.
_ROWS_AND_SIZE = 2


def opening_summary(
    findings: Sequence[Finding],
    changes: Sequence[tuple[Finding, Explanation]],
    drivers: Found | None,
    outlook: Outlook | None,
    steps: Sequence[str],
    caveats: Sequence[tuple[str, dict[str, Any]]],
    length: str = "standard",
    familiar: Collection[str] = (),
) -> Summary:
    """The summary; `changes` are (finding, explanation) of the leading measure first, all of one period. What is
    `familiar` (see `findings.matching`) comes behind what is new."""
    lead = changes[0][1]
    happened = ranked_news(findings, lead, familiar)
    told = stories([one for one in happened if one.kind != "change"][: _MOST_STORIES + 1])
    opening = facts_of(lead, "standard", findings)
    leads = not told or latest_matters(lead, told[0].findings[0].score.total)
    news = [one for one in happened if one.kind == "change" and one.measure != lead.measure]
    if leads and news and lead.usual is not None and lead.usual.usual:
        # A figure within its usual range is no headline where another measure's moved.
        first = Fact(text=news[0].headline, part="change", about=(news[0].id,), place=0.0)
    else:
        first = opening.pop(0) if leads else _story(told.pop(0), 0.0)
    named = {finding.where for story in told for finding in story.findings}
    named |= {finding.where for finding in findings if finding.id in first.about}
    # Where it came about is told once: by the findings of those slices, where they have some.
    again = all(part.where in named for part in lead.named)
    body = _known(first, findings)
    body += [fact for fact in opening if fact.part != "where" or not again]
    if lead.rows != lead.rows_before or (lead.factors is not None and len(lead.factors.parts) > _ROWS_AND_SIZE):
        # Where rows stand for periods, there is no number of them to tell apart from their size.
        body += [Fact(text=text, part="why", place=0.5) for text in why_changed.through(lead)]
    if outlook is not None:
        body.append(Fact(text=forecast_summary(outlook).headline, part="outlook", about=("forecast",), place=8.0))
    more = [_story(one, place) for place, one in enumerate(told[:_MOST_STORIES], start=1)]
    body += more[:1]
    if drivers is not None and drivers.drivers:
        body.append(Fact(text=drivers_summary(drivers).headline, part="drivers", about=("drivers",), place=7.0))
    body += more[1:]
    body += [Fact(text=text, part="others", place=0.7) for text in others(changes)]
    body += [Fact(text=text, part="watch", place=9.0) for text in steps[:1]]
    tail = [Fact(text=told_caveats.sentence(name, facts), part="caveat") for name, facts in caveats]
    if leads and not happened and not lead.named and (lead.usual is None or lead.usual.usual):
        if lead.usual is not None:
            # A figure within its usual range is no news: that is what is said of it.
            first = replace(first, text=_nothing(changes[0][0], lead))
        else:
            body.append(Fact(text=say("Nothing else stands out beyond chance."), place=5.0))
    return planned(first, body, tail, length)


def _known(first: Fact, findings: Sequence[Finding]) -> list[Fact]:
    """What people know of the time of the headline: the likeliest why, next to it."""
    notes = [note for finding in findings if finding.id in first.about for note in finding.notes]
    if not notes:
        return []
    text = say("Known of that time: {notes}.", notes="; ".join(dict.fromkeys(notes)))
    return [Fact(text=text, part="why", about=first.about, place=-1.0)]


def _nothing(finding: Finding, lead: Explanation) -> str:
    """The headline of a period in which nothing happened."""
    return say(
        "Nothing is out of the ordinary {when}: {who} {who:was|were} {value}, {compared}.",
        when=dates.when(lead.period, lead.measure),
        who=names.subject(lead.measure),
        value=why_changed.counted(finding),
        compared=why_changed.compared(finding, dates.period(lead.baseline)),
    )


def ranked_news(findings: Sequence[Finding], lead: Explanation, familiar: Collection[str] = ()) -> list[Finding]:
    """What happened, news first: what the last editions did not tell; what began, or came about, within about a year
    of the period reported on."""
    since = lead.period.start - np.timedelta64(_NEWS, "D")

    def old(finding: Finding) -> bool:
        span = finding.period
        if span is None:
            return True
        # A week that stood out is news in the month that it lies in.
        return not span.overlaps(lead.period) if finding.kind in _MOMENTS else bool(span.start < since)

    kept = [finding for finding in findings if finding.kind in HAPPENED]
    return sorted(kept, key=lambda one: (matching(one) in familiar, old(one)))


def _story(story: Story, place: float) -> Fact:
    about = tuple(finding.id for finding in story.findings)
    return Fact(text=story.text, part="story", about=about, place=place, story=story)
