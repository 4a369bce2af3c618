"""What a change came through: volume, price and mix; rate and mix; the columns that a measure is a sum of."""

from __future__ import annotations

from collections.abc import Sequence

from ...analysis.change import Breakdown, Explanation
from .. import consistent_rounding, names, numbers
from ..languages import say, statement
from .change_sizes import the_noun

#: Parts below this share of the change are not told.
_LEAST_SHARE = 0.05


def reversal(explanation: Explanation) -> list[str]:
    """That the whole went one way and most of its parts the other, by its name."""
    found = reversed_by(explanation)
    if found is None or explanation.verdict in ("usual", "season"):
        return []
    within = explanation.change - found.mix
    mix, inside = consistent_rounding.split([found.mix, within], explanation.change, explanation.measure).texts(
        signed=True
    )
    places = {"parts": names.plural(found.by), "within": inside, "mix": mix}
    return [
        say("It is a reversal: within the {parts} it rose ({within} in all), but the weights moved ({mix}).", **places)
        if within > 0
        else say(
            "It is a reversal: within the {parts} it fell ({within} in all), but the weights moved ({mix}).", **places
        )
    ]


def reversed_by(explanation: Explanation) -> Breakdown | None:
    """The dimension within whose labels the measure moved against the whole, for most of the weight; None for none."""
    if not explanation.measure.bottom or not explanation.change:
        return None
    for breakdown in explanation.breakdowns:
        kept = [part for part in breakdown.contributions if part.status == "kept"]
        weight = sum(((part.weight_before or 0.0) + (part.weight_now or 0.0)) / 2 for part in kept)
        other = sum(
            ((part.weight_before or 0.0) + (part.weight_now or 0.0)) / 2
            for part in kept
            if (part.rate or 0.0) * explanation.change < 0
        )
        if weight and other > 0.8 * weight and (explanation.change - breakdown.mix) * explanation.change < 0:
            return breakdown
    return None


def through(explanation: Explanation, subject: str | None = None) -> list[str]:
    """The change as volume, mix and price; or as mix and what happened within."""
    subject = subject or the_noun(explanation)
    if explanation.factors is not None and explanation.change:
        return [text for text in [_factors(explanation, subject)] if text]
    if (
        explanation.measure.bottom
        and explanation.breakdowns
        and explanation.change
        and reversed_by(explanation) is None
    ):
        telling = max(explanation.breakdowns, key=lambda b: (abs(b.mix), b.by))
        mix, within = consistent_rounding.split(
            [telling.mix, explanation.change - telling.mix], explanation.change, explanation.measure
        ).texts(signed=True)
        return [
            say(
                "By {part}, {mix} is mix and {within} came within the {parts}.",
                part=names.dimension(telling.by),
                parts=names.plural(telling.by),
                mix=mix,
                within=within,
            )
        ]
    return []


def made_of(explanation: Explanation, subject: str | None = None) -> list[str]:
    """The change by the columns that the measure is a sum of."""
    subject = subject or the_noun(explanation)
    if not explanation.bridge or not explanation.change:
        return []
    parts = []
    sizes = _steps(explanation, [part.change for part in explanation.bridge])
    for part, size in zip(explanation.bridge, sizes, strict=True):
        if part.column is None:
            parts.append(say("rows that do not add up {size}", size=size))
            continue
        own = 100 * (part.value - part.before) / part.before if part.before > 0 else None
        text = statement((names.column(part.column), " ", size))
        parts.append(text if own is None else say("{text} ({size} itself)", text=text, size=numbers.per_cent(own)))
    return [_parts_of(subject, parts)]


def _factors(explanation: Explanation, subject: str) -> str:
    factors = explanation.factors
    assert factors is not None
    said = factor_names(explanation)
    units, price = said["units"], said["price"]
    moved = numbers.per_cent(100 * (factors.volume_now / factors.volume_before - 1))
    priced = numbers.per_cent(100 * (factors.price_now / factors.price_before - 1))
    places = {"movement": names.capital(subject), "units": units, "moved": moved, "price": price, "priced": priced}
    if explanation.through == "volume":
        return say("{movement} went with {units} ({moved}), not with {price} ({priced}).", **places)
    if explanation.through in ("price", "rate"):
        return say("{movement} went with {price} ({priced}), not with {units} ({moved}).", **places)
    # Of items that are new or ended the units are not in the volume.
    if not factors.part("new") and not factors.part("ended"):
        said["volume"] = statement((said["volume"], " (", moved, ")"))
    sizes = _steps(explanation, [change for _, change in factors.parts])
    told = [
        (name, size)
        for (name, change), size in zip(factors.parts, sizes, strict=True)
        if abs(change) >= _LEAST_SHARE * abs(explanation.change)
    ]
    parts = [
        say("{size} went with {factor}", size=size, factor=said[name])
        if place == 0
        else say("{size} with {factor}", size=size, factor=said[name])
        for place, (name, size) in enumerate(told)
    ]
    return _parts_of(subject, parts) if parts else ""


def _parts_of(movement: str, parts: Sequence[str]) -> str:
    return names.capital(say("Of {movement}, {told}.", movement=movement, told=names.listed(parts)))


def _steps(explanation: Explanation, changes: Sequence[float]) -> list[str]:
    """The steps from before to now, as the bridge says them."""
    return consistent_rounding.stairs(explanation.before, changes, explanation.value, explanation.measure).steps.texts(
        signed=True
    )


def factor_names(explanation: Explanation) -> dict[str, str]:
    """What each factor of a change is called; "units" is what is counted."""
    factors = explanation.factors
    assert factors is not None
    units = names.noun("rows") if factors.units is None else names.column(factors.units)
    name, parts = names.measure_name(explanation.measure), names.plural(factors.by)
    price = (
        say("{name} per row", name=name)
        if factors.units is None
        else say("{name} per {unit}", name=name, unit=names.one_of(units))
    )
    return {
        "units": units,
        "volume": say("the number of {units}", units=units),
        "price": price,
        "rate": price,
        "mix": say("mix between {parts}", parts=parts),
        "new": say("new {parts}", parts=parts),
        "ended": say("{parts} that ended", parts=parts),
        "rest": say("amounts that are not positive"),
    }


def movement(explanation: Explanation) -> str:
    """ "the rise of revenue", for a sentence that stands by itself."""
    who = names.of(explanation.measure, explanation.where)
    return say("the rise of {who}", who=who) if explanation.change > 0 else say("the fall of {who}", who=who)
