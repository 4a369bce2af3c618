"""The slices that explain a change, what went the other way, and where to look next."""

from __future__ import annotations

from ...analysis.change import Explanation, Named
from .. import names, numbers
from ..languages import say
from .change_sizes import contributions, signed, slice_size
from .decomposition import factor_names

#: Slices told in the text.
_MOST_SLICES = 3
#: A change in percent smaller than this is told as "about level".
_LEVEL_PCT = 0.5


def where(one: Explanation) -> list[str]:
    """The slices that explain the change, or that none does."""
    verdict, up = one.verdict, one.change > 0
    if verdict in ("usual", "season") or (one.change == 0 and not one.named):
        return []
    if verdict == "nothing":
        return _largest(one)
    if verdict == "even":
        columns = names.listed([names.plural(b.by) for b in one.breakdowns[:3]])
        if len(one.breakdowns) < 2:
            return [
                say(
                    "The rise is even across the board: it is spread over all {columns}; none stands out.",
                    columns=columns,
                )
                if up
                else say(
                    "The fall is even across the board: it is spread over all {columns}; none stands out.",
                    columns=columns,
                )
            ]
        return [
            say(
                "The rise is even across the board: it is spread over all {columns}; none, nor a few of them together, "
                "stands out.",
                columns=columns,
            )
            if up
            else say(
                "The fall is even across the board: it is spread over all {columns}; none, nor a few of them together, "
                "stands out.",
                columns=columns,
            )
        ]
    if verdict == "offset":
        told = names.listed([f"{_with_status(part)} {slice_size(one, part)}" for part in one.named])
        return [say("Rises and falls offset each other: {told}{rest}.", told=told, rest=_rest(one))]
    rates = [part for part in one.named if part.how != "mix"]
    text = []
    if rates:
        told = names.listed([_named(one, part) for part in rates[:_MOST_SLICES]])
        if one.change != 0 and all(part.told * one.change < 0 for part in rates):
            text.append(
                say("Against the rise went {told}{rest}.", told=told, rest=_rest(one))
                if up
                else say("Against the fall went {told}{rest}.", told=told, rest=_rest(one))
            )
        else:
            text.append(say("What stands out: {told}{rest}.", told=told, rest=_rest(one)))
    text += [_mixed(one, part) for part in one.named if part.how == "mix"][:2]
    return text


def _largest(one: Explanation) -> list[str]:
    """The largest contributions, where there are too few rows to tell them from chance."""
    if not one.breakdowns:
        return []
    breakdown = one.breakdowns[0]
    sizes = contributions(one, breakdown)
    parts = []
    for part in breakdown.contributions[:_MOST_SLICES]:
        size, label = sizes[part.label], names.label(part.label)
        status = f", {_status(part.status)}" if part.status != "kept" else ""
        parts.append(f"{label} ({size}{status})")
    return [
        say(
            "Largest by {part}: {told}; the rows are too few to tell that from chance.",
            part=names.dimension(breakdown.by),
            told=names.listed(parts),
        )
    ]


def against(one: Explanation) -> list[str]:
    """What went the other way, where that is not told already."""
    if one.verdict not in ("slices", "new and ended") or not one.breakdowns:
        return []
    first = one.named[0].where.conditions[0][0]
    breakdown = next((b for b in one.breakdowns if b.by == first), one.breakdowns[0])
    told = {label for part in one.named for _, label in part.where.conditions}
    others = [
        part
        for part in breakdown.contributions
        if part.change * one.change < 0 and part.label not in told and abs(part.change) >= 0.1 * abs(one.change)
    ][:2]
    if not others:
        return []
    sizes = contributions(one, breakdown)
    listed = names.listed([f"{names.label(part.label)} ({sizes[part.label]})" for part in others])
    return [
        say("Against the rise went {told}{rest}.", told=listed, rest="")
        if one.change > 0
        else say("Against the fall went {told}{rest}.", told=listed, rest="")
    ]


def next_look(one: Explanation) -> list[str]:
    """Where to look next, and why."""
    verdict, up = one.verdict, one.change > 0
    if verdict in ("season", "usual", "nothing") or not one.change:
        return []
    if verdict == "even":
        if one.through in ("price", "rate", "volume"):
            factor = factor_names(one)[one.through]
            return [
                say("Look next at {factor}: that made the rise, everywhere.", factor=factor)
                if up
                else say("Look next at {factor}: that made the fall, everywhere.", factor=factor)
            ]
        return [say("Look next at what all have in common, such as prices, the calendar or how rows are recorded.")]
    first = one.named[0]
    label = names.slice_(first.where)
    if verdict == "mix":
        before, now = (numbers.percent(100 * weight) for weight in (first.weight_before, first.weight_now))
        weights = names.weights(one.measure)
        return [
            say(
                "Look next at why {label} went from {before} to {now} of the {weights}.",
                label=label,
                before=before,
                now=now,
                weights=weights,
            )
        ]
    reason = say("it makes {size}", size=slice_size(one, first))
    if 0 < first.told / one.change <= 1.5 and verdict != "offset":
        size = numbers.percent(100 * first.told / one.change)
        reason = say("it makes {size} of the rise", size=size) if up else say("it makes {size} of the fall", size=size)
    if first.status == "new":
        return [say("Look next at {label}: it is new, and {reason}.", label=label, reason=reason)]
    if first.status != "kept":
        return [say("Look next at {label}: it ended, and {reason}.", label=label, reason=reason)]
    return [say("Look next inside {label}: {reason}.", label=label, reason=reason)]


def _status(status: str) -> str:
    """What is said of a slice that is not kept."""
    return say("new") if status == "new" else say("ended")


def _with_status(part: Named) -> str:
    label = names.slice_(part.where)
    return label if part.status == "kept" else f"{label} ({_status(part.status)})"


def _named(one: Explanation, part: Named) -> str:
    told = [", ".join(names.dimension(column) for column, _ in part.where.conditions)]
    told += [_status(part.status)] if part.status != "kept" else []
    size = slice_size(one, part)
    share = part.told / one.change if one.change else 0.0
    if 0 < share <= 2:
        of_all = numbers.percent(100 * share)
        size = (
            say("{size}, {share} of the rise", size=size, share=of_all)
            if one.change > 0
            else say("{size}, {share} of the fall", size=size, share=of_all)
        )
    return f"{names.slice_(part.where)} ({', '.join(told)}; {size})"


def _mixed(one: Explanation, part: Named) -> str:
    own = part.value if part.value is not None else part.baseline
    return say(
        "{label}{value} went from {before} to {now} of the {weights}: by that alone {size}.",
        label=names.slice_(part.where),
        value="" if own is None else f" ({numbers.amount(own, one.measure)})",
        before=numbers.percent(100 * part.weight_before),
        now=numbers.percent(100 * part.weight_now),
        weights=names.weights(one.measure),
        size=signed(one, part.excess),
    )


def _rest(one: Explanation) -> str:
    before, now = one.smallest.rest_before, one.smallest.rest_now
    if before is None or now is None:
        return ""
    if one.measure.additive and before > 0 and now >= 0:
        pct = 100 * (now / before - 1)
        if abs(pct) < _LEVEL_PCT:
            return say("; all else held about level")
        return say("; all else changed by {size}", size=numbers.per_cent(pct))
    return say("; all else changed by {size}", size=signed(one, now - before))
