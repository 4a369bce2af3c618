"""What goes with an outcome, in sentences: drivers, segments, what has no clear effect, what was left out."""

from __future__ import annotations

from ..core.drivers import Condition, Driver, Effect, Found, Segment
from ..core.measures import Measure, spoken
from . import names, numbers
from .summary import Summary, fit

_MOST_DRIVERS, _MOST_SEGMENTS = 4, 2


def subject(found: Found) -> str:
    """The outcome as the subject of a sentence: "delay", "the on time rate", "revenue per passengers"."""
    measure = found.outcome.measure
    if found.outcome.yes_no:
        return f"the {measure.label}"
    return measure.label.removeprefix("average ") if found.outcome.kind == "number" else measure.label


def size(value: float, measure: Measure) -> str:
    return numbers.difference(value, measure)


def span(low: float, high: float, measure: Measure) -> str:
    ends = [numbers.signed(end, numbers.difference(end, measure)) for end in (low, high)]
    return f"95% range {ends[0]} to {ends[1]}"


def driver(one: Driver, found: Found) -> str:
    """The claim of a driver, without its full stop."""
    measure = found.outcome.measure
    first = one.effects[0]
    who = names.capital(subject(found))
    if not one.factor.number:
        return f"{who} is {size(first.effect, measure)} {_side(first.effect)} {_beside(one, first)}, all else equal"
    shape = one.shape
    name = one.factor.spoken
    if shape is not None and shape.cut is not None:
        cut = shape.cut
        at = _cut(cut.at)
        return (
            f"{who} is {size(cut.difference, measure)} {_side(cut.difference)} where {name} is above {at} than up "
            f"to it, "
            "all else equal"
        )
    if shape is not None and shape.bend is not None:
        at = numbers.plain(shape.bend)
        low, high = shape.curve[0], shape.curve[-1]
        near = min(shape.curve, key=lambda point: abs(point[0] - shape.bend))  # type: ignore[operator]
        before, after = near[1] - low[1], high[1] - near[1]
        if shape.name == "levels off":
            return (
                f"{who} {_goes(before)} by {size(before, measure)} as {name} rises to about {at}, then levels off, all "
                "else equal"
            )
        if shape.name == "sets in":
            return (
                f"{who} hardly moves with {name} up to about {at}, then {_goes(after)} by {size(after, measure)}, "
                f"all else "
                "equal"
            )
        return (
            f"{who} {_goes(before)} by {size(before, measure)} as {name} rises to about {at}, then {_goes(after)} by "
            f"{size(after, measure)}, all else equal"
        )
    step = numbers.plain(first.step or 1.0)
    each = first.per_step or 0.0
    unit = f" {one.factor.unit}" if one.factor.unit else ""
    return f"{who} is {size(each, measure)} {_side(each)} for each {step}{unit} more of {name}, all else equal"


def driver_detail(one: Driver, found: Found) -> str:
    """The evidence: range, what it shows by itself, the other levels, the odds."""
    measure = found.outcome.measure
    first = one.effects[0]
    told = []
    if not one.factor.number:
        told.append(names.capital(span(first.low, first.high, measure)))
        alone = numbers.signed(first.unadjusted, size(first.unadjusted, measure))
        told[-1] += f"; by itself it is {alone}"
        told[-1] += f", {numbers.whole(first.n)} rows with {numbers.amount(first.value or 0.0, measure)} on average."
        others = [
            f"{names.label(effect.level)} ({numbers.signed(effect.effect, size(effect.effect, measure))})"
            for effect in one.effects[1:4]
        ]
        if others:
            told.append(f"Also apart from the others: {names.listed(others)}.")
    else:
        per = numbers.plain(first.per or 1.0)
        whole = numbers.signed(first.effect, size(first.effect, measure))
        told.append(
            f"One standard deviation ({per}) goes with {whole} on a straight line "
            f"({span(first.low, first.high, measure)}); "
            f"by itself {numbers.signed(first.unadjusted, size(first.unadjusted, measure))}."
        )
        if one.shape is not None and one.shape.cut is not None:
            cut = one.shape.cut
            told.append(
                f"{numbers.whole(cut.n_below)} rows lie up to the cut, {numbers.whole(cut.n_above)} above; "
                f"{numbers.p_value(cut.p)} for the best of all cuts."
            )
    if first.odds_ratio is not None:
        told.append(f"Odds ratio {numbers.plain(first.odds_ratio, 2)}.")
    told.append(f"Shuffled, it costs {numbers.percent(100 * one.importance)} of what varies.")
    return " ".join(told)


def segment(one: Segment, found: Found) -> str:
    """The claim of a segment, without its full stop."""
    measure = found.outcome.measure
    lift = ""
    if one.lift is not None and (one.lift >= 1.1 or 0 < one.lift <= 0.9):
        lift = f", {numbers.plain(one.lift, 2)} times the overall {numbers.amount(one.overall, measure)}"
    else:
        lift = f", where it is {numbers.amount(one.overall, measure)} overall"
    verb = "is" if found.outcome.yes_no or found.outcome.kind == "rate" else "averages"
    return f"{names.capital(subject(found))} {verb} {numbers.amount(one.value, measure)} where {conditions(one)}{lift}"


def segment_detail(one: Segment, found: Found) -> str:
    measure = found.outcome.measure
    low, high = (numbers.amount(end, measure) for end in (one.low, one.high))
    of = "rows" if found.outcome.weights is None else f"{names.weights(measure)}"
    return (
        f"{numbers.whole(one.n)} rows, {numbers.percent(100 * one.share)} of all {of}. On the "
        f"{numbers.whole(one.estimate_n)} of them that took no part in finding it: "
        f"{numbers.amount(one.estimate, measure)} (95% range {low} to {high})."
    )


def conditions(one: Segment) -> str:
    """ "route is Outer Bar and load is above 40"."""
    return names.listed([condition(part) for part in one.conditions])


def condition(one: Condition) -> str:
    name = one.factor if " of " in one.factor else spoken(one.column)
    if one.value is None:
        return f"{name} is missing"
    if isinstance(one.value, tuple):
        return f"{name} is not {one.but}"
    if one.op == "=":
        return f"{name} is {one.value}"
    return f"{name} is {'above' if one.op == '>' else 'at most'} {_cut(float(one.value))}"


def drivers_summary(found: Found) -> Summary:
    """What goes with the outcome most, which slices stand out, what has no clear effect, what was left out."""
    measure, about = found.outcome.measure, found.outcome
    told = [f"{driver(one, found)}." for one in found.drivers[:_MOST_DRIVERS]]
    slices = [
        f"{segment(one, found)} ({numbers.percent(100 * one.share)} of all)." for one in found.segments[:_MOST_SEGMENTS]
    ]
    tail = []
    if found.unclear:
        listed = [one.factor.spoken for one in found.unclear]
        shown = names.listed(listed[:6]) if len(listed) <= 6 else f"{', '.join(listed[:5])} and {len(listed) - 5} more"
        tail.append(f"No clear effect: {shown}.")
    if found.left_out:
        names_ = [spoken(one.factor) for one in found.left_out]
        shown = names.listed(names_[:4]) if len(names_) <= 4 else f"{', '.join(names_[:4])} and {len(names_) - 4} more"
        tail.append(f"Left out: {shown} (they restate the outcome or another factor, or cannot be used).")
    tail.append("These go with the outcome; whether they cause it, the table cannot tell.")
    if about.sampled is not None:
        tail.append(f"All from {about.told()}.")
    if not told:
        nothing = (
            f"Nothing here goes clearly with {subject(found)} ({numbers.amount(about.overall, measure)} on "
            f"{numbers.whole(about.n)} rows): {len(found.factors)} factors were tried"
        )
        return fit(f"{nothing}.", slices, tail[:-1] if not slices else tail)
    return fit(told[0], [*told[1:], *slices], tail)


def _beside(one: Driver, effect: Effect) -> str:
    """ "with Petrel than with the other vessels"; of two labels, the other is named."""
    word = names.plural(one.factor.column) if not one.factor.part else f"{one.factor.part}s"
    if one.factor.part == "weekday":
        return f"on {effect.level}s than on other days"
    if one.factor.part == "month":
        return f"in {effect.level} than in other months"
    if len(one.every) == 2:
        if str(effect.level) in ("yes", "no", "0", "1"):
            yes = str(effect.level) in ("yes", "1")
            return f"where {one.factor.spoken} is {'yes' if yes else 'no'} than where it is not"
        other = next(known for known in one.every if known is not effect)
        return f"with {names.label(effect.level)} than with {names.label(other.level)}"
    return f"with {names.label(effect.level)} than with the other {word}"


def _side(value: float) -> str:
    return "higher" if value > 0 else "lower"


def _goes(value: float) -> str:
    return "rises" if value > 0 else "falls"


def _cut(value: float) -> str:
    """A cut point with all its digits and no noughts behind them."""
    text = numbers.plain(value, 6)
    return text.rstrip("0").rstrip(".") if "." in text and " " not in text else text
