"""What to expect, in sentences: how much, against what, how sure, by which way, what was taken into account."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..analysis.forecast import Ahead, Disturbance, KnownEvent, Outlook, Target
from ..stats.forecasting.procedure import SEASONS
from . import dates, names, numbers
from .languages import Noun, count, mark, say
from .summary import Summary, fit
from .text_tables import TextTable

#: The methods in words, as a sentence names them.
_METHODS = {
    "mean": mark("the mean", "method"),
    "last value": mark("the last value", "method"),
    "last season": mark("the same period of the last season", "method"),
    "drift": mark("the last value with its drift", "method"),
    "exponential smoothing": mark("exponential smoothing", "method"),
    "damped trend": mark("exponential smoothing with a damped trend", "method"),
    "smoothed level": mark("exponential smoothing without a trend", "method"),
    "theta": mark("the theta method", "method"),
    "optimised theta": mark("the optimised theta method", "method"),
    "autoregression": mark("autoregression", "method"),
    "autoregression of changes": mark("autoregression of changes", "method"),
    "autoregression of seasonal changes": mark("autoregression of changes from the season before", "method"),
    "autoregression of changes, in logarithms": mark("autoregression of relative changes", "method"),
    "autoregression of seasonal changes, in logarithms": mark(
        "autoregression of relative changes from the season before", "method"
    ),
    "demand now and then": mark("Croston's method", "method"),
    "demand now and then, unbiased": mark("Croston's method without bias", "method"),
    "level with parts of the calendar": mark("a level with parts of the calendar", "method"),
}
_MOST_EVENTS = 3


def method_name(name: str) -> str:
    """What a candidate is called."""
    return say(_METHODS[name], "method")


def _who(found: Outlook) -> Noun:
    return names.subject(found.measure)


def amount(found: Outlook, value: float) -> str:
    """A figure of the measure."""
    return numbers.amount(value, found.measure)


def forecast_summary(found: Outlook) -> Summary:
    """What to expect, then how sure, by which way, and what was taken into account."""
    body = [
        _shape(found),
        _target(found.target, found) if found.target is not None else "",
        _how_sure(found),
        _why(found),
    ]
    body += [_event(one) for one in found.events[:_MOST_EVENTS]]
    tail = [_disturbed(found)] if found.disturbances else []
    tail.append(say("A step, or an event that is not in the data, would change it."))
    return fit(_headline(found), [text for text in body if text], tail)


def _headline(found: Outlook) -> str:
    one = found.total or found.ahead[0]
    places = {
        "who": _who(found),
        "value": amount(found, one.value),
        "when": dates.within(one.period),
        "low": amount(found, one.low80),
        "high": amount(found, one.high80),
    }
    if one.year_before is None:
        return names.capital(
            say("{who} {who:is|are} expected to come to {value} {when} (80% range {low} to {high}).", **places)
            if found.total is not None
            else say("{who} {who:is|are} expected to be {value} {when} (80% range {low} to {high}).", **places)
        )
    places["against"] = _against(found, one)
    return names.capital(
        say("{who} {who:is|are} expected to come to {value} {when}, {against} (80% range {low} to {high}).", **places)
        if found.total is not None
        else say("{who} {who:is|are} expected to be {value} {when}, {against} (80% range {low} to {high}).", **places)
    )


def _against(found: Outlook, one: Ahead) -> str:
    """How it stands against the year before: in percent of sums, in full of what is no sum."""
    assert one.year_before is not None
    if found.total is None or one.year_before <= 0:
        return say("against {before} a year before", before=amount(found, one.year_before))
    change = 100 * (one.value / one.year_before - 1)
    text = numbers.percent(abs(change))
    return (
        say("{change} more than a year before", change=text)
        if change >= 0
        else say("{change} less than a year before", change=text)
    )


def _shape(found: Outlook) -> str:
    """Against the run so far; the highest and lowest period ahead."""
    told = []
    size = len(found.ahead)
    season = SEASONS[found.grain.value]
    before = sum(found.history[-season - size : -season])
    if found.total is not None and len(found.history) >= season + size and season > 1 and size > 1 and before > 0:
        # Set against their own year before: other months are of another season.
        change = 100 * (sum(found.history[-size:]) / before - 1)
        places = {
            "n": numbers.whole(size),
            "units": names.plural(found.grain.value),
            "change": numbers.percent(abs(change)),
        }
        told.append(
            say("The {n} {units} just before were {change} above their year before.", **places)
            if change >= 0
            else say("The {n} {units} just before were {change} below their year before.", **places)
        )
    values = [one.value for one in found.ahead]
    wide = float(np.mean([one.high80 - one.low80 for one in found.ahead])) / 2
    if found.plain is None and size > 2 and max(values) - min(values) > wide:
        top, low = found.ahead[int(np.argmax(values))], found.ahead[int(np.argmin(values))]
        told.append(
            say(
                "The highest is expected {top_when} ({top}), the lowest {low_when} ({low}).",
                top_when=dates.within(top.period),
                top=amount(found, top.value),
                low_when=dates.within(low.period),
                low=amount(found, low.value),
            )
        )
    return " ".join(told)


def _how_sure(found: Outlook) -> str:
    if min(found.history) == max(found.history):
        return say("It was {value} in every period.", value=amount(found, found.history[-1]))
    if found.naive_ranges or not found.errors:
        return say("The past is too short to try this out: the ranges are those of carrying the last value on.")
    first, last = found.errors[0], found.errors[-1]
    places = {
        "n": numbers.whole(found.origins),
        "first": numbers.percent(100 * first),
        "last": numbers.percent(100 * last),
        "far": numbers.whole(len(found.errors)),
        "units": names.plural(found.grain.value),
    }
    text = (
        say(
            "Tried from {n} points of the past, it missed on average by {first} of the usual level one step ahead "
            "and, {far} {units} ahead, by {last}.",
            **places,
        )
        if len(found.errors) > 1
        else say(
            "Tried from {n} points of the past, it missed on average by {first} of the usual level one step ahead.",
            **places,
        )
    )
    if found.plain is None and found.own > 0 and found.naive > found.own:
        more = say(
            "Repeating the season before missed {times} times as much.", times=numbers.fixed(found.naive / found.own, 1)
        )
        return f"{text} {more}"
    return text


def _why(found: Outlook) -> str:
    if min(found.history) == max(found.history) or found.naive_ranges:
        return ""
    if found.plain is not None:
        return (
            say("Nothing foretold it better than the mean: what moves it looks like chance.")
            if found.plain == "mean"
            else say("Nothing foretold it better than the last value: where it goes from there looks like chance.")
        )
    best = max(found.candidates, key=lambda one: one.weight)
    return say(
        "Of {n} methods weighted by their past errors, {method} has most weight ({weight}).",
        n=numbers.whole(len(found.candidates)),
        method=method_name(best.name),
        weight=numbers.share(best.weight),
    )


def _event(one: KnownEvent) -> str:
    when = names.listed([dates.period(period) for period in one.ahead[:3]])
    if one.effect is None:
        return say("“{event}” ({when}) was never seen before: nothing is reckoned for it.", event=one.name, when=when)
    return count(
        one.seen,
        "“{event}” ({when}) is reckoned with as before: {effect} on the days that it takes, seen once.",
        "“{event}” ({when}) is reckoned with as before: {effect} on the days that it takes, seen {n} times.",
        event=one.name,
        when=when,
        effect=numbers.per_cent(100 * one.effect),
        n=numbers.whole(one.seen),
    )


def _disturbed(found: Outlook) -> str:
    return " ".join(_one_disturbance(found, one) for one in found.disturbances[:2])


def _one_disturbance(found: Outlook, one: Disturbance) -> str:
    places = {
        "when": names.capital(dates.period(one.period)),
        "value": amount(found, one.value),
        "expected": amount(found, one.expected),
    }
    if one.kind == "outlier":
        return say("{when} ({value}, where {expected} was usual) was left out of the past.", **places)
    return say(
        "What was before the step of {when} (from {expected} to {value}) was carried over to its level.", **places
    )


def _target(one: Target, found: Outlook) -> str:
    units = names.plural(found.grain.value)
    places = {
        "target": amount(found, one.value),
        "year": dates.period(one.year),
        "n": numbers.whole(one.periods),
        "units": units,
        "reached": amount(found, one.reached),
        "expected": amount(found, one.reached + one.expected),
    }
    if one.factor is None or one.factor <= 0:
        return say("The target of {target} for {year} is reached: {reached} came so far.", **places)
    apart = 100 * (one.factor - 1)
    places |= {"apart": numbers.percent(abs(apart)), "tried": numbers.whole(one.tried)}
    text = (
        say(
            "To reach {target} in {year}, the {n} {units} that are left would have to be {apart} above the forecast, "
            "which makes {expected}.",
            **places,
        )
        if apart > 0
        else say(
            "The forecast makes {expected} in {year}, and {target} is reached with {apart} less in what is left.",
            **places,
        )
    )
    if not one.tried:
        return text
    times = count(
        one.met,
        "Of the last {tried} periods tried, {met} was so far from what was foretold.",
        "Of the last {tried} periods tried, {met} were so far from what was foretold.",
        met=numbers.whole(one.met),
        tried=places["tried"],
    )
    return f"{text} {times}"


def forecast_caveats(found: Outlook) -> list[str]:
    """What to bear in mind: an unfinished period, holes, a short past, events of one name."""
    told = []
    if found.unfinished is not None:
        told.append(
            say(
                "{period} is unfinished and is left out of the past; it is forecast as a whole.",
                period=names.capital(dates.period(found.ahead[0].period)),
            )
        )
    if found.naive_ranges:
        told.append(say("There are too few points to try the forecast out: the range is that of the naive guess."))
    elif found.short:
        told.append(say("The past is shorter than what is forecast, or than two seasons: take it with care."))
    if found.holes:
        told.append(
            count(
                len(found.holes),
                "{n} period without rows was filled in from its season and neighbours.",
                "{n} periods without rows were filled in from their season and neighbours.",
                n=numbers.whole(len(found.holes)),
            )
        )
    if found.reconciled is not None:
        told.append(
            say("The parts were forecast by themselves and added up.")
            if found.reconciled == "added up"
            else say("Parts and whole were forecast by themselves and moved towards each other until they agreed.")
        )
    return told


def forecast_tables(found: Outlook) -> tuple[TextTable, ...]:
    """The periods ahead with their ranges; by label the sums or the first period; the methods."""
    heads = (
        names.capital(names.one_of(names.grain_noun(found.grain.value))),
        say("Forecast", "column"),
        say("80% range"),
        say("95% range"),
        say("Year before", "column"),
    )
    rows = [_row(found, one) for one in found.ahead]
    if found.total is not None and len(found.ahead) > 1:
        rows.append((say("All", "column"), *_row(found, found.total)[1:]))
    made = [TextTable(title="", heads=heads, rows=tuple(rows), left=1)]
    if found.parts and found.by is not None:
        parts = tuple(
            (names.label(part.label) if part.label is not None else say("All others"), *_part_row(found, part.ahead))
            for part in found.parts
        )
        title = say("By {part}", part=names.dimension(found.by.name))
        first = dates.period(found.ahead[0].period)
        wanted = (
            names.capital(names.dimension(found.by.name)),
            say("Forecast", "column"),
            say("80% range") + f" ({first})",
            say("Year before", "column"),
        )
        made.append(TextTable(title=title, heads=wanted, rows=parts, left=1))
    return tuple(made)


def _row(found: Outlook, one: Ahead) -> tuple[str, ...]:
    return (
        dates.period(one.period),
        amount(found, one.value),
        _range(found, one.low80, one.high80),
        _range(found, one.low95, one.high95),
        "–" if one.year_before is None else amount(found, one.year_before),
    )


def _part_row(found: Outlook, ahead: Sequence[Ahead]) -> tuple[str, ...]:
    summed = found.total is not None
    value = sum(one.value for one in ahead) if summed else ahead[0].value
    before = [one.year_before for one in ahead] if summed else [ahead[0].year_before]
    known = [one for one in before if one is not None]
    told = amount(found, sum(known)) if len(known) == len(before) else "–"
    return amount(found, value), _range(found, ahead[0].low80, ahead[0].high80), told


def _range(found: Outlook, low: float, high: float) -> str:
    return say("{low} to {high}", low=amount(found, low), high=amount(found, high))


def methods_table(found: Outlook) -> TextTable:
    """The candidates, the best first, with their errors and weights."""
    rows = tuple(
        (
            names.capital(method_name(one.name)),
            numbers.fixed(one.mase, 2) if np.isfinite(one.mase) else "–",
            numbers.share(one.weight),
        )
        for one in found.candidates
    )
    return TextTable(title=say("Methods"), heads=(say("Method"), say("Error (MASE)"), say("Weight")), rows=rows, left=1)
