"""The slices that explain a change, what went the other way, and where to look next."""

from __future__ import annotations

from collections.abc import Sequence

from ...analysis.change import Explanation, Named
from .. import names, numbers
from ..languages import say, statement
from .change_sizes import contributions, signed, slice_size
from .decomposition import factor_names

#: Slices told in the text.
_MOST_SLICES = 3
#: A label makes most of a change when it makes so much of it.
_MOST_OF_IT = 0.6
#: Columns told as looked along.
_MOST_COLUMNS = 3
#: A change in percent smaller than this is told as "about level".
_LEVEL_PCT = 0.5
#: That only a label which doubled beside the others would have been noticed says nothing: the largest say more.
_TELLS_NOTHING = 1.0


def where(explanation: Explanation) -> list[str]:
    """The slices that explain the change, or that none does."""
    verdict, up = explanation.verdict, explanation.change > 0
    if explanation.change == 0 and not explanation.named:
        return []
    if verdict in ("usual", "season"):
        return _own(explanation) if explanation.named else []
    if verdict == "nothing":
        # Of days that nobody recorded no label says more than another.
        return (_unseen(explanation) or _largest(explanation)) if explanation.missing is None else []
    if verdict == "even":
        places = {"columns": _looked_along(explanation), "noticed": _noticed(explanation)}
        return [
            say(
                "The rise is even across the board: by {columns} nothing that holds a tenth of it stands apart (by "
                "{noticed} it would have been noticed).",
                **places,
            )
            if up
            else say(
                "The fall is even across the board: by {columns} nothing that holds a tenth of it stands apart (by "
                "{noticed} it would have been noticed).",
                **places,
            )
        ]
    if verdict == "offset":
        told = names.listed(
            [statement((_with_status(part), " ", slice_size(explanation, part))) for part in explanation.named]
        )
        return [say("Rises and falls offset each other: {told}.", told=_beside_rest(told, explanation))]
    rates = [part for part in explanation.named if part.how != "mix"]
    text = []
    if rates:
        told = names.listed([_named(explanation, part) for part in rates[:_MOST_SLICES]])
        if explanation.change != 0 and all(part.told * explanation.change < 0 for part in rates):
            text.append(
                say("Against the rise went {told}.", told=_beside_rest(told, explanation))
                if up
                else say("Against the fall went {told}.", told=_beside_rest(told, explanation))
            )
        else:
            text.append(say("What stands out: {told}.", told=_beside_rest(told, explanation)))
    text += [_mixed(explanation, part) for part in explanation.named if part.how == "mix"][:2]
    return text


def _own(explanation: Explanation) -> list[str]:
    """The slices that moved on their own within a usual change, and what made most of the rest."""
    moved = [part for part in explanation.named if part.how != "mix"]
    mixed = [_mixed(explanation, part) for part in explanation.named if part.how == "mix"][:2]
    return [*(_on_their_own(explanation, moved) if moved else []), *mixed]


def _on_their_own(explanation: Explanation, moved: Sequence[Named]) -> list[str]:
    told = names.listed([_named(explanation, part) for part in moved[:_MOST_SLICES]])
    beside = _beside_rest(told, explanation)
    first = moved[0].where.conditions[0][0]
    named = {label for part in explanation.named for _, label in part.where.conditions}
    breakdown = next((one for one in explanation.breakdowns if one.by == first), None)
    parts = breakdown.contributions if breakdown is not None else ()
    # Slices of several columns share rows with the other labels: only beside those of one column is there a rest.
    alone = all([column for column, _ in part.where.conditions] == [first] for part in moved)
    rest = explanation.change - (sum(part.told for part in moved) if alone else 0.0)
    most = next(
        (part for part in parts if part.label not in named and part.change * rest > _MOST_OF_IT * rest**2), None
    )
    if beside == told or most is None or breakdown is None or not explanation.measure.additive:
        return [say("Not all moved alike: {told}.", told=beside)]
    places = {"label": names.label(most.label), "size": contributions(explanation, breakdown)[most.label]}
    if alone:
        return [say("Not all moved alike: {told}, most of it {label} ({size}).", told=beside, **places)]
    return [
        say("Not all moved alike: {told}.", told=beside),
        say("By {part}: {label} contributed most, {size}.", part=names.dimension(first), **places),
    ]


def _unseen(explanation: Explanation) -> list[str]:
    """That the rows do not tell where a change came about, with what would have been noticed."""
    if explanation.noticed is None or (explanation.measure.additive and explanation.noticed > _TELLS_NOTHING):
        return []
    return [
        say(
            "The rows do not tell where: by {columns} only what stood apart by {noticed} would have been noticed.",
            columns=_looked_along(explanation),
            noticed=_noticed(explanation),
        )
    ]


def _looked_along(explanation: Explanation) -> str:
    """The columns whose labels would have been noticed: "channel, region and route"."""
    return names.listed([names.dimension(one.by) for one in explanation.looked_along[:_MOST_COLUMNS]])


def _noticed(explanation: Explanation) -> str:
    size = max(one.noticed or 0.0 for one in explanation.looked_along[:_MOST_COLUMNS])
    return (
        numbers.percent(100 * size) if explanation.measure.additive else numbers.difference(size, explanation.measure)
    )


def _largest(explanation: Explanation) -> list[str]:
    """The largest contributions, where there are too few rows to tell them from chance: nor whether a label ended."""
    if not explanation.breakdowns:
        return []
    breakdown = explanation.breakdowns[0]
    sizes = contributions(explanation, breakdown)
    parts = [
        statement((names.label(part.label), " (", sizes[part.label], ")"))
        for part in breakdown.contributions[:_MOST_SLICES]
    ]
    return [
        say(
            "Largest by {part}: {told}; the rows are too few to tell that from chance.",
            part=names.dimension(breakdown.by),
            told=names.listed(parts),
        )
    ]


def against(explanation: Explanation) -> list[str]:
    """What went the other way, where that is not told already."""
    if explanation.verdict not in ("slices", "new and ended") or not explanation.breakdowns:
        return []
    first = explanation.named[0].where.conditions[0][0]
    breakdown = next((b for b in explanation.breakdowns if b.by == first), explanation.breakdowns[0])
    told = {label for part in explanation.named for _, label in part.where.conditions}
    others = [
        part
        for part in breakdown.contributions
        if part.change * explanation.change < 0
        and part.label not in told
        and abs(part.change) >= 0.1 * abs(explanation.change)
    ][:2]
    if not others:
        return []
    sizes = contributions(explanation, breakdown)
    listed = names.listed([statement((names.label(part.label), " (", sizes[part.label], ")")) for part in others])
    return [
        say("Against the rise went {told}.", told=listed)
        if explanation.change > 0
        else say("Against the fall went {told}.", told=listed)
    ]


def next_look(explanation: Explanation) -> list[str]:
    """Where to look next, and why."""
    verdict, up = explanation.verdict, explanation.change > 0
    if verdict == "nothing" or not explanation.change or (verdict in ("season", "usual") and not explanation.named):
        return []
    if verdict == "even":
        if explanation.through in ("price", "rate", "volume"):
            factor = factor_names(explanation)[explanation.through]
            return [
                say("Look next at {factor}: that made the rise, everywhere.", factor=factor)
                if up
                else say("Look next at {factor}: that made the fall, everywhere.", factor=factor)
            ]
        return [say("Look next at what all have in common, such as prices, the calendar or how rows are recorded.")]
    first = explanation.named[0]
    label = names.slice_(first.where)
    if verdict == "mix" or first.how == "mix":
        before, now = (numbers.percent(100 * weight) for weight in (first.weight_before, first.weight_now))
        weights = names.weights(explanation.measure)
        return [
            say(
                "Look next at why {label} went from {before} to {now} of the {weights}.",
                label=label,
                before=before,
                now=now,
                weights=weights,
            )
        ]
    reason = say("{size} came about there", size=slice_size(explanation, first))
    if 0 < first.told / explanation.change <= 1 and verdict != "offset":
        size = numbers.percent(100 * first.told / explanation.change)
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


def _named(explanation: Explanation, part: Named) -> str:
    told = [", ".join(names.dimension(column) for column, _ in part.where.conditions)]
    told += [_status(part.status)] if part.status != "kept" else []
    size = slice_size(explanation, part)
    share = part.told / explanation.change if explanation.change else 0.0
    if 0 < share <= 1:
        of_all = numbers.percent(100 * share)
        size = (
            say("{size}, {share} of the rise", size=size, share=of_all)
            if explanation.change > 0
            else say("{size}, {share} of the fall", size=size, share=of_all)
        )
    return statement((names.slice_(part.where), " (", ", ".join(told), "; ", size, ")"))


def _mixed(explanation: Explanation, part: Named) -> str:
    own = part.value if part.value is not None else part.baseline
    return say(
        "{label}{value} went from {before} to {now} of the {weights}: by that alone {size}.",
        label=names.slice_(part.where),
        value="" if own is None else statement((" (", numbers.amount(own, explanation.measure), ")")),
        before=numbers.percent(100 * part.weight_before),
        now=numbers.percent(100 * part.weight_now),
        weights=names.weights(explanation.measure),
        size=signed(explanation, part.excess),
    )


def _beside_rest(told: str, explanation: Explanation) -> str:
    """What is told of slices, with what all else did behind it."""
    before, now = explanation.smallest.rest_before, explanation.smallest.rest_now
    if before is None or now is None:
        return told
    if explanation.measure.additive and before > 0 and now >= 0:
        pct = 100 * (now / before - 1)
        if abs(pct) < _LEVEL_PCT:
            return say("{text}; all else held about level", text=told)
        return say("{text}; all else changed by {size}", text=told, size=numbers.per_cent(pct))
    return say("{text}; all else changed by {size}", text=told, size=signed(explanation, now - before))
