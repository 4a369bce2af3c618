"""What goes with an outcome, in sentences: drivers, segments, what has no clear effect, what was left out."""

from __future__ import annotations

from collections.abc import Sequence

from ..aggregation.measures import Measure
from ..analysis.drivers import Condition, Driver, Effect, Factor, Found, Segment
from ..analysis.relation import least_telling
from . import dates, names, numbers
from .core_sentences import retold
from .languages import Noun, count, joined, mark, qualified, say, statement, voice
from .languages.inflection import plain
from .summary import Summary, fit

_MOST_DRIVERS, _MOST_SEGMENTS = 4, 2


def subject(found: Found) -> Noun:
    """The outcome as the subject of a sentence: "delay", "the on time rate", "revenue per passenger"."""
    measure = found.outcome.measure
    if found.outcome.yes_no:
        return plain(say("the {name}", name=_outcome(measure))) if voice().english else _outcome(measure)
    if found.outcome.kind == "number":
        return names.column(found.outcome.name, measure.unit)
    return names.measure_name(measure)


def _outcome(measure: Measure) -> Noun:
    return names.measure_name(measure)


def size(value: float, measure: Measure) -> str:
    return numbers.difference(value, measure)


def span(low: float, high: float, measure: Measure) -> str:
    ends = [numbers.signed(end, numbers.difference(end, measure)) for end in (low, high)]
    return say("95% range {low} to {high}", low=ends[0], high=ends[1])


def driver(driver: Driver, found: Found) -> str:
    """The claim of a driver, without its full stop."""
    measure = found.outcome.measure
    first = driver.effects[0]
    who = subject(found)
    if not driver.factor.number:
        places = {"who": who, "size": size(first.effect, measure), "beside": _beside(driver, first)}
        if found.few:
            return names.capital(
                say("{who} {who:is|are} {size} higher {beside}, taken by itself", **places)
                if first.effect > 0
                else say("{who} {who:is|are} {size} lower {beside}, taken by itself", **places)
            )
        return names.capital(
            say("{who} {who:is|are} {size} higher {beside}, all else equal", **places)
            if first.effect > 0
            else say("{who} {who:is|are} {size} lower {beside}, all else equal", **places)
        )
    return names.capital(_numeric(driver, found, who))


def _numeric(driver: Driver, found: Found, who: Noun) -> str:
    measure, shape = found.outcome.measure, driver.shape
    name = factor_name(driver.factor)
    if shape is not None and shape.cut is not None:
        cut = shape.cut
        told = {"who": who, "name": name, "size": size(cut.difference, measure), "at": numbers.trimmed(cut.at)}
        return (
            say("{who} {who:is|are} {size} higher where {name} is above {at} than up to it, all else equal", **told)
            if cut.difference > 0
            else say("{who} {who:is|are} {size} lower where {name} is above {at} than up to it, all else equal", **told)
        )
    if shape is not None and shape.bend is not None:
        bend = shape.bend
        low, high = shape.curve[0], shape.curve[-1]
        near = min(shape.curve, key=lambda point: abs(point[0] - bend))
        before, after = near[1] - low[1], high[1] - near[1]
        places = {
            "who": who,
            "name": name,
            "at": numbers.plain(bend),
            "before": _went(before, measure),
            "after": _went(after, measure),
        }
        if shape.name == "levels off":
            return say("{who} {before} as {name} rises to about {at}, then levels off, all else equal", **places)
        if shape.name == "sets in":
            return say("{who} hardly moves with {name} up to about {at}, then {after}, all else equal", **places)
        return say("{who} {before} as {name} rises to about {at}, then {after}, all else equal", **places)
    first = driver.effects[0]
    each = first.per_step or 0.0
    unit = f" {driver.factor.unit}" if driver.factor.unit else ""
    told = {"who": who, "name": name, "size": size(each, measure), "step": numbers.plain(first.step or 1.0) + unit}
    if found.few:
        return (
            say("{who} {who:is|are} {size} higher for each {step} more of {name}, taken by itself", **told)
            if each > 0
            else say("{who} {who:is|are} {size} lower for each {step} more of {name}, taken by itself", **told)
        )
    return (
        say("{who} {who:is|are} {size} higher for each {step} more of {name}, all else equal", **told)
        if each > 0
        else say("{who} {who:is|are} {size} lower for each {step} more of {name}, all else equal", **told)
    )


def _went(value: float, measure: Measure) -> str:
    amount = size(value, measure)
    return say("rises by {size}", size=amount) if value > 0 else say("falls by {size}", size=amount)


def driver_detail(driver: Driver, found: Found) -> str:
    """The evidence: range, what it shows by itself, the other levels, the odds."""
    measure = found.outcome.measure
    first = driver.effects[0]
    told = []
    alone = numbers.signed(first.unadjusted, size(first.unadjusted, measure))
    if not driver.factor.number:
        told.append(
            say(
                "{range}; by itself it is {alone}, {n} rows with {value} on average.",
                range=names.capital(span(first.low, first.high, measure)),
                alone=alone,
                n=numbers.whole(first.n),
                value=numbers.amount(first.value or 0.0, measure),
            )
        )
        others = [
            statement(
                (level(effect, driver.factor), " (", numbers.signed(effect.effect, size(effect.effect, measure)), ")")
            )
            for effect in driver.effects[1:4]
        ]
        if others:
            told.append(say("Also apart from the others: {told}.", told=names.listed(others)))
    else:
        told.append(
            say(
                "One standard deviation ({step}) goes with {size} on a straight line ({range}); by itself {alone}.",
                step=numbers.plain(first.per or 1.0),
                size=numbers.signed(first.effect, size(first.effect, measure)),
                range=span(first.low, first.high, measure),
                alone=alone,
            )
        )
        if driver.shape is not None and driver.shape.cut is not None:
            cut = driver.shape.cut
            told.append(
                say(
                    "{below} rows lie up to the cut, {above} above; {p} for the best of all cuts.",
                    below=numbers.whole(cut.n_below),
                    above=numbers.whole(cut.n_above),
                    p=numbers.p_value(cut.p),
                )
            )
    if first.odds_ratio is not None:
        told.append(say("Odds ratio {ratio}.", ratio=numbers.plain(first.odds_ratio, 2)))
    told.append(say("Shuffled, it costs {share} of what varies.", share=numbers.percent(100 * driver.importance)))
    return joined(" ", told)


def segment(segment: Segment, found: Found) -> str:
    """The claim of a segment, without its full stop."""
    measure = found.outcome.measure
    places = {
        "who": subject(found),
        "value": numbers.amount(segment.value, measure),
        "where": conditions(segment),
        "overall": numbers.amount(segment.overall, measure),
    }
    rate = found.outcome.yes_no or found.outcome.kind == "rate"
    if segment.lift is not None and (segment.lift >= 1.1 or 0 < segment.lift <= 0.9):
        times = numbers.plain(segment.lift, 2)
        text = (
            say("{who} {who:is|are} {value} where {where}, {times} times the overall {overall}", times=times, **places)
            if rate
            else say(
                "{who} {who:averages|average} {value} where {where}, {times} times the overall {overall}",
                times=times,
                **places,
            )
        )
    else:
        text = (
            say("{who} {who:is|are} {value} where {where}, where it is {overall} overall", **places)
            if rate
            else say("{who} {who:averages|average} {value} where {where}, where it is {overall} overall", **places)
        )
    return names.capital(text)


def segment_detail(segment: Segment, found: Found) -> str:
    measure = found.outcome.measure
    low, high = (numbers.amount(end, measure) for end in (segment.low, segment.high))
    return say(
        "{n} rows, {share} of all {of}. On the {unseen} of them that took no part in finding it: {value} (95% range "
        "{low} to "
        "{high}).",
        n=numbers.whole(segment.n),
        share=numbers.percent(100 * segment.share),
        of=names.noun("rows") if found.outcome.weights is None else names.weights(measure),
        unseen=numbers.whole(segment.estimate_n),
        value=numbers.amount(segment.estimate, measure),
        low=low,
        high=high,
    )


def conditions(segment: Segment) -> str:
    """ "route is Outer Bar and load is above 40"."""
    return names.listed([condition(part) for part in segment.conditions])


def condition(condition: Condition) -> str:
    name = part_name(condition.factor) if " of " in condition.factor else names.column(condition.column)
    if condition.value is None:
        return say("{name} is missing", name=name)
    if isinstance(condition.value, tuple):
        return say("{name} is not {value}", name=name, value=condition.but)
    if condition.op == "=":
        value = names.label(str(condition.value))
        return say(
            "{name} is {value}", name=name, value=dates.calendar_name(value) if " of " in condition.factor else value
        )
    at = numbers.trimmed(float(condition.value))
    return (
        say("{name} is above {at}", name=name, at=at)
        if condition.op == ">"
        else say("{name} is at most {at}", name=name, at=at)
    )


def factor_name(factor: Factor) -> Noun:
    """A factor as said: "load", "weekday of date"."""
    return part_name(factor.spoken) if factor.part else names.noun(factor.spoken)


def part_name(text: str) -> Noun:
    """ "weekday of date"."""
    part, _, column = text.partition(" of ")
    if voice().english or not column:
        return names.noun(text)
    return qualified(names.noun(part), mark("{noun} of {label}"), label=names.noun(column))


def level(effect: Effect, factor: Factor) -> str:
    """A level of a factor: a label as it is, or a month or weekday as it is called."""
    told = names.label(effect.level)
    return dates.calendar_name(told) if factor.part else told


def drivers_summary(found: Found) -> Summary:
    """What goes with the outcome most, which slices stand out, what has no clear effect, what was left out."""
    measure, about = found.outcome.measure, found.outcome
    told = [statement((driver(one, found), ".")) for one in found.drivers[:_MOST_DRIVERS]]
    slices = [
        say("{claim} ({share} of all).", claim=segment(one, found), share=numbers.percent(100 * one.share))
        for one in found.segments[:_MOST_SEGMENTS]
    ]
    tail = []
    if found.unclear:
        tail.append(
            say("No clear effect: {names}.", names=_some([factor_name(one.factor) for one in found.unclear], 6))
        )
    if found.left_out:
        tail.append(
            say(
                "Left out: {names} (they restate the outcome or another factor, or cannot be used).",
                names=_some([names.column(one.factor) for one in found.left_out], 4, 4),
            )
        )
    tail.append(say("These go with the outcome; whether they cause it, the table cannot tell."))
    if about.sampled is not None:
        tail.append(say("All from {sample}.", sample=about.told()))
    if not told:
        nothing = say(
            "Nothing here goes clearly with {who} ({value} on {n} rows): {factors} factors were tried.",
            who=subject(found),
            value=numbers.amount(about.overall, measure),
            n=numbers.whole(about.n),
            factors=len(found.factors),
        )
        return fit(nothing, slices, tail[:-1] if not slices else tail)
    return fit(told[0], [*told[1:], *slices], tail)


#: Why a factor is not told, as the core gives it.


def reason(text: str) -> str:
    """Why a factor is not told."""
    return retold(text)


def caveats(found: Found) -> list[str]:
    """What to bear in mind of how the effects were made."""
    told = []
    if found.outcome.sampled is not None:
        told.append(say("Everything is taken from {sample}.", sample=retold(found.outcome.told())))
    if found.few:
        told.append(
            say(
                "There are only {n} rows, so each factor was taken by itself (permutation tests): which of them matter "
                "beside each other cannot be told, and one that goes with less than {share} of the differences would "
                "hardly show.",
                n=numbers.whole(found.outcome.n),
                share=numbers.percent(100 * least_telling(found.outcome.n) ** 2),
            )
        )
    elif found.clusters is not None:
        told.append(
            say(
                "Rows of one {column} resemble each other, so the ranges count these, not rows.",
                column=names.dimension(found.clusters),
            )
        )
    elif found.errors != "HC3":
        told.append(say("Rows of one week resemble each other, so the ranges count weeks, not rows."))
    gone = found.outcome.table.rows - found.outcome.n
    if gone:
        told.append(
            count(
                gone,
                "{n} row has no value of the outcome and is left out.",
                "{n} rows have no value of the outcome and are left out.",
                n=numbers.whole(gone),
            )
        )
    return told


def _some(told: Sequence[str], most: int, kept: int = 5) -> str:
    """Names, or the first of them and how many more."""
    if len(told) <= most:
        return names.listed(told)
    more = len(told) - kept
    return count(more, "{first} and {n} more", "{first} and {n} more", first=joined(", ", told[:kept]), n=more)


def _beside(driver: Driver, effect: Effect) -> str:
    """ "with Petrel than with the other vessels"; of two labels, the other is named."""
    told = level(effect, driver.factor)
    if driver.factor.part == "weekday":
        return say("on {weekday}s than on other days", weekday=told)
    if driver.factor.part == "month":
        return say("in {month} than in other months", month=told)
    if driver.factor.part:
        return say("with {label} than with the other {parts}", label=told, parts=names.plural(driver.factor.part))
    if len(driver.every) == 2:
        if str(effect.level) in ("yes", "no", "0", "1"):
            name = factor_name(driver.factor)
            if str(effect.level) in ("yes", "1"):
                return say("where {name} is yes than where it is not", name=name)
            return say("where {name} is no than where it is not", name=name)
        other = next(known for known in driver.every if known is not effect)
        return say("with {label} than with {other}", label=told, other=level(other, driver.factor))
    return say("with {label} than with the other {parts}", label=told, parts=names.plural(driver.factor.column))
