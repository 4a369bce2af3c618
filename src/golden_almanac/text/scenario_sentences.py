"""Stated scenarios in sentences, all labelled as arithmetic."""

from __future__ import annotations

from ..analysis.stated_scenarios import Projection, Scenario
from . import names, numbers
from .languages import count, say
from .languages.phrases import phrase
from .summary import Summary, fit
from .text_tables import TextTable

_MOST = 4


def _span(found: Projection) -> str:
    size = len(found.paths[0])
    if found.grain == "year":
        return count(size, "{n} year", "{n} years", "scenario", n=numbers.whole(size))
    return count(size, "{n} month", "{n} months", "scenario", n=numbers.whole(size))


def scenarios_summary(found: Projection) -> Summary:
    """Where each scenario ends, which leads, where one overtakes another; and that it is arithmetic."""
    ends = [path[-1].end for path in found.paths]
    ranked = sorted(range(len(ends)), key=lambda place: -ends[place])
    top = ranked[0]
    places = {"name": found.scenarios[top].name, "end": numbers.plain(ends[top], 6), "span": _span(found)}
    if len(ends) == 1:
        headline = say("On the assumptions stated, {name} comes to {end} after {span}.", **places)
    else:
        low = ranked[-1]
        headline = say(
            "On the assumptions stated, {name} comes to most after {span}: {end}, against {other} of {last}.",
            **places,
            other=numbers.plain(ends[low], 6),
            last=found.scenarios[low].name,
        )
    body = [_made_of(found, place) for place in ranked[:_MOST]]
    body += [
        say(
            "{ahead} overtakes {behind} at step {step}.",
            ahead=one.ahead,
            behind=one.behind,
            step=numbers.whole(one.step),
        )
        for one in found.crossings[:_MOST]
    ]
    if len(ends) == 2 and not found.crossings:
        body.append(say("Neither overtakes the other in that time."))
    return fit(headline, body, [say("This is arithmetic on stated assumptions, and no forecast.")])


def _made_of(found: Projection, place: int) -> str:
    path = found.paths[place]
    told = [say("{amount} to begin with", amount=numbers.plain(path[0].begin, 6))]
    parts = (
        (phrase("{amount} paid in"), sum(one.payments for one in path)),
        (phrase("{amount} grown"), sum(one.growth for one in path)),
        (phrase("{amount} of costs"), sum(one.costs for one in path)),
        (phrase("{amount} of taxes"), sum(one.taxes for one in path)),
    )
    told += [text.replace("{amount}", numbers.plain(value, 6)) for text, value in parts if value]
    return f"{found.scenarios[place].name}: {names.listed(told)}."


def assumptions(one: Scenario) -> str:
    """The assumptions of a scenario, in one line."""
    told = [
        say("begins with {amount}", amount=numbers.plain(one.start, 6)),
        say("grows by {rate} a year", rate=numbers.percent(one.rate)),
    ]
    if one.payment:
        told.append(say("{amount} paid in at the end of each step", amount=numbers.plain(one.payment, 6)))
    if one.payment_growth:
        told.append(say("payments grow by {rate} a year", rate=numbers.percent(one.payment_growth)))
    if one.lumps:
        told.append(
            names.listed(
                [
                    say("{amount} at step {step}", amount=numbers.plain(value, 6), step=numbers.whole(step))
                    for step, value in sorted(one.lumps.items())
                ]
            )
        )
    if one.cost:
        told.append(say("costs of {rate} a year", rate=numbers.percent(one.cost)))
    if one.fee:
        told.append(say("a fee of {amount} each step", amount=numbers.plain(one.fee, 6)))
    if one.tax:
        told.append(say("a tax of {rate} on what grew", rate=numbers.percent(one.tax)))
    return f"{one.name}: {'; '.join(told)}."


def scenarios_tables(found: Projection) -> tuple[TextTable, ...]:
    """The end of every step, a column for each scenario."""
    size = len(found.paths[0])
    stride = max(1, -(-size // 24))
    shown = sorted({*range(stride - 1, size, stride), size - 1})
    heads = (say("Year") if found.grain == "year" else say("Month"), *(one.name for one in found.scenarios))
    rows = tuple(
        (numbers.whole(step + 1), *(numbers.plain(path[step].end, 6) for path in found.paths)) for step in shown
    )
    return (TextTable(title="", heads=heads, rows=rows, left=1),)
