"""Why a measure changed, in sentences: what was usual, where it came about, through what, what offset it, what is left,
and where to look next. Each sentence says one thing, with its figures; none says what the figures do not."""

from __future__ import annotations

from ..core.changes import Breakdown, Expected, Explanation, Named
from ..core.findings import Finding
from . import adding, names, numbers
from .languages import count, mark, say
from .message import Message

#: Slices told in the text, and parts below this share of the change, which are not told.
_MOST_SLICES, _LEAST_SHARE = 3, 0.05
#: A change in percent smaller than this is told as "about level".
_LEVEL_PCT = 0.5
#: Changes that round to nought percent are none in words; the figures keep them.
_NO_CHANGE_PCT = 0.05


def message(finding: Finding) -> Message:
    return Message(claim=_claim(finding), evidence=_expectation(finding))


def headline(finding: Finding) -> str:
    return message(finding).headline


def _claim(finding: Finding) -> str:
    f, measure = finding.figures, finding.measure
    assert finding.period is not None
    assert finding.baseline is not None
    if f["value"] is None or f["baseline"] is None:
        # An average of a slice that ended or is new has nothing to be compared with.
        gone, there = (finding.period, finding.baseline) if f["value"] is None else (finding.baseline, finding.period)
        known = f["baseline"] if f["value"] is None else f["value"]
        return say(
            "{label} has no rows {gone} ({measure} {there}: {known}); that contributed {size}",
            label=names.where_label(finding.where),
            gone=names.within(gone),
            measure=names.measure_name(measure),
            there=names.within(there),
            known=numbers.amount(known, measure),
            size=numbers.signed(f["change"], numbers.difference(f["change"], measure)),
        )
    return say(
        "{who} {who:was|were} {value} {when}, {compared}",
        who=names.subject(measure, finding.where),
        value=numbers.amount(f["value"], measure),
        when=names.within(finding.period),
        compared=compared(finding, names.period(finding.baseline)),
    )


def compared(finding: Finding, baseline: str) -> str:
    """ "9.1% above August 2025", "4.6 points below August 2025", "level with August 2025"."""
    f, measure = finding.figures, finding.measure
    change = f["change"]
    if change == 0 or (f["change_pct"] is not None and abs(f["change_pct"]) < _NO_CHANGE_PCT):
        return say("level with {baseline}", baseline=baseline)
    if f["change_pct"] is None:
        size = numbers.difference(change, measure)
    elif measure is not None and not measure.additive:
        size = f"{numbers.difference(change, measure)} ({numbers.percent(f['change_pct'])})"
    else:
        size = numbers.percent(f["change_pct"])
    return (
        say("{size} above {baseline}", size=size, baseline=baseline)
        if change > 0
        else say("{size} below {baseline}", size=size, baseline=baseline)
    )


def level(finding: Finding) -> bool:
    """Whether a change rounds to none."""
    f = finding.figures
    return f["change"] == 0 or (f["change_pct"] is not None and abs(f["change_pct"]) < _NO_CHANGE_PCT)


#: What an expected range rests on, as the core names it.
_BASES = (mark("earlier steps of the same length"), mark("the spread of the rows"))


def basis(text: str) -> str:
    """What an expected range rests on: "the season, from 3 earlier years"."""
    if text.startswith("the season, from "):
        years = text.removeprefix("the season, from ").removesuffix(" earlier years")
        return say("the season, from {years} earlier years", years=years)
    return say(text)


def _expectation(finding: Finding) -> str:
    f = finding.figures
    if finding.where.conditions or f.get("expected_low") is None:
        return ""
    low, high = (
        numbers.signed(f[end], numbers.difference(f[end], finding.measure)) for end in ("expected_low", "expected_high")
    )
    return say(
        "A change between {low} and {high} was to be expected ({basis}).",
        low=low,
        high=high,
        basis=basis(str(f["expected_basis"])),
    )


# --- the sentences of an explanation -------------------------------------------------------------


def paragraph(one: Explanation) -> list[str]:
    """The sentences of a change after its headline, the most telling first."""
    return [*usual(one), *where(one), *reversal(one), *through(one), *made_of(one), *against(one), *next_look(one)]


def usual(one: Explanation) -> list[str]:
    """The change beside what was to be expected."""
    by = one.usual
    if by is None:
        return []
    low, high = _span(one, by)
    up = one.change > 0
    places = {
        "size": _size(one, one.change),
        "alike": _alike(one, by),
        "low": low,
        "high": high,
        "basis": basis(by.basis),
    }
    if by.usual and by.season:
        return [
            say(
                "That is the season: a rise of {size}, where {alike} is usual (between {low} and {high}; {basis}).",
                **places,
            )
            if up
            else say(
                "That is the season: a fall of {size}, where {alike} is usual (between {low} and {high}; {basis}).",
                **places,
            )
        ]
    if by.usual and by == one.chance:
        return [say("That is no more than chance makes from row to row (between {low} and {high}).", **places)]
    if by.usual:
        return [say("That is within its usual movement (between {low} and {high}).", **places)]
    surprise = one.change - by.change
    places |= {
        "extra": numbers.signed(surprise, numbers.difference(surprise, one.measure)),
        "least": _signed(one, one.change - by.high),
        "most": _signed(one, one.change - by.low),
    }
    if not by.season:
        return [
            say(
                "That is unusual: between {low} and {high} was to be expected ({basis}); the surprise is {extra} "
                "(between "
                "{least} and {most}).",
                **places,
            )
        ]
    return [
        say(
            "That is unusual for the season: a rise of {size}, where {alike} is usual (between {low} and {high}; "
            "{basis}); "
            "the surprise is {extra} (between {least} and {most}).",
            **places,
        )
        if up
        else say(
            "That is unusual for the season: a fall of {size}, where {alike} is usual (between {low} and {high}; "
            "{basis}); "
            "the surprise is {extra} (between {least} and {most}).",
            **places,
        )
    ]


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
        told = names.listed([f"{_with_status(part)} {_told(one, part)}" for part in one.named])
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


def reversal(one: Explanation) -> list[str]:
    """That the whole went one way and most of its parts the other, by its name."""
    found = reversed_by(one)
    if found is None or one.verdict in ("usual", "season"):
        return []
    within = one.change - found.mix
    mix, inside = adding.split([found.mix, within], one.change, one.measure).texts(signed=True)
    places = {"parts": names.plural(found.by), "within": inside, "mix": mix}
    return [
        say("It is a reversal: within the {parts} it rose ({within} in all), but the weights moved ({mix}).", **places)
        if within > 0
        else say(
            "It is a reversal: within the {parts} it fell ({within} in all), but the weights moved ({mix}).", **places
        )
    ]


def reversed_by(one: Explanation) -> Breakdown | None:
    """The dimension within whose labels the measure moved against the whole, for most of the weight; None for none."""
    if not one.measure.bottom or not one.change:
        return None
    for breakdown in one.breakdowns:
        kept = [part for part in breakdown.contributions if part.status == "kept"]
        weight = sum(((part.weight_before or 0.0) + (part.weight_now or 0.0)) / 2 for part in kept)
        other = sum(
            ((part.weight_before or 0.0) + (part.weight_now or 0.0)) / 2
            for part in kept
            if (part.rate or 0.0) * one.change < 0
        )
        if weight and other > 0.8 * weight and (one.change - breakdown.mix) * one.change < 0:
            return breakdown
    return None


def through(one: Explanation, subject: str | None = None) -> list[str]:
    """The change as volume, mix and price; or as mix and what happened within."""
    subject = subject or the_noun(one)
    if one.factors is not None and one.change:
        return [text for text in [_factors(one, subject)] if text]
    if one.measure.bottom and one.breakdowns and one.change and reversed_by(one) is None:
        telling = max(one.breakdowns, key=lambda b: (abs(b.mix), b.by))
        mix, within = adding.split([telling.mix, one.change - telling.mix], one.change, one.measure).texts(signed=True)
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


def made_of(one: Explanation, subject: str | None = None) -> list[str]:
    """The change by the columns that the measure is a sum of."""
    subject = subject or the_noun(one)
    if not one.bridge or not one.change:
        return []
    parts = []
    sizes = adding.split([part.change for part in one.bridge], one.change, one.measure).texts(signed=True)
    for part, size in zip(one.bridge, sizes, strict=True):
        if part.column is None:
            parts.append(say("rows that do not add up {size}", size=size))
            continue
        own = 100 * (part.value - part.before) / part.before if part.before > 0 else None
        moved = say(" ({size} itself)", size=numbers.per_cent(own)) if own is not None else ""
        parts.append(f"{names.column(part.column)} {size}{moved}")
    return [say("Of {movement}, {told}.", movement=subject, told=names.listed(parts))]


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
    reason = say("it makes {size}", size=_told(one, first))
    if 0 < first.told / one.change <= 1.5 and verdict != "offset":
        size = numbers.percent(100 * first.told / one.change)
        reason = say("it makes {size} of the rise", size=size) if up else say("it makes {size} of the fall", size=size)
    if first.status == "new":
        return [say("Look next at {label}: it is new, and {reason}.", label=label, reason=reason)]
    if first.status != "kept":
        return [say("Look next at {label}: it ended, and {reason}.", label=label, reason=reason)]
    return [say("Look next inside {label}: {reason}.", label=label, reason=reason)]


def _factors(one: Explanation, subject: str) -> str:
    factors = one.factors
    assert factors is not None
    said = factor_names(one)
    units, price = said["units"], said["price"]
    moved = numbers.per_cent(100 * (factors.volume_now / factors.volume_before - 1))
    priced = numbers.per_cent(100 * (factors.price_now / factors.price_before - 1))
    places = {"movement": names.capital(subject), "units": units, "moved": moved, "price": price, "priced": priced}
    if one.through == "volume":
        return say("{movement} went with {units} ({moved}), not with {price} ({priced}).", **places)
    if one.through in ("price", "rate"):
        return say("{movement} went with {price} ({priced}), not with {units} ({moved}).", **places)
    # Of items that are new or ended the units are not in the volume.
    if not factors.part("new") and not factors.part("ended"):
        said["volume"] += f" ({moved})"
    sizes = adding.split([change for _, change in factors.parts], one.change, one.measure).texts(signed=True)
    told = [
        (name, size)
        for (name, change), size in zip(factors.parts, sizes, strict=True)
        if abs(change) >= _LEAST_SHARE * abs(one.change)
    ]
    parts = [
        say("{size} went with {factor}", size=size, factor=said[name])
        if place == 0
        else say("{size} with {factor}", size=size, factor=said[name])
        for place, (name, size) in enumerate(told)
    ]
    return say("Of {movement}, {told}.", movement=subject, told=names.listed(parts)) if parts else ""


def _status(status: str) -> str:
    """What is said of a slice that is not kept."""
    return say("new") if status == "new" else say("ended")


def _with_status(part: Named) -> str:
    label = names.slice_(part.where)
    return label if part.status == "kept" else f"{label} ({_status(part.status)})"


def the_noun(one: Explanation) -> str:
    """ "the rise", "the fall"."""
    return say("the rise") if one.change > 0 else say("the fall")


def movement(one: Explanation) -> str:
    """ "the rise of revenue", for a sentence that stands by itself."""
    who = names.of(one.measure, one.where)
    return say("the rise of {who}", who=who) if one.change > 0 else say("the fall of {who}", who=who)


def factor_names(one: Explanation) -> dict[str, str]:
    """What each factor of a change is called; "units" is what is counted."""
    factors = one.factors
    assert factors is not None
    units = names.noun("rows") if factors.units is None else names.column(factors.units)
    name, parts = names.measure_name(one.measure), names.plural(factors.by)
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


def _named(one: Explanation, part: Named) -> str:
    told = [", ".join(names.dimension(column) for column, _ in part.where.conditions)]
    told += [_status(part.status)] if part.status != "kept" else []
    size = _told(one, part)
    share = part.told / one.change if one.change else 0.0
    if 0 < share <= 2:
        of_all = numbers.percent(100 * share)
        size = (
            say("{size}, {share} of the rise", size=size, share=of_all)
            if one.change > 0
            else say("{size}, {share} of the fall", size=size, share=of_all)
        )
    return f"{names.slice_(part.where)} ({', '.join(told)}; {size})"


def contributions(one: Explanation, breakdown: Breakdown) -> dict[str | None, str]:
    """What each label contributed to a change, rounded together: the same in sentences, charts and tables."""
    parts = breakdown.contributions
    told = adding.split([part.change for part in parts], one.change, one.measure).texts(signed=True)
    return {part.label: text for part, text in zip(parts, told, strict=True)}


def _told(one: Explanation, part: Named) -> str:
    """What is told of a slice; of one label of a dimension what is told of it among the others."""
    if len(part.where.conditions) == 1 and part.told == part.change:
        column, label = part.where.conditions[0]
        breakdown = next((found for found in one.breakdowns if found.by == column), None)
        if breakdown is not None:
            return contributions(one, breakdown).get(label) or _signed(one, part.told)
    return _signed(one, part.told)


def _mixed(one: Explanation, part: Named) -> str:
    own = part.value if part.value is not None else part.baseline
    return say(
        "{label}{value} went from {before} to {now} of the {weights}: by that alone {size}.",
        label=names.slice_(part.where),
        value="" if own is None else f" ({numbers.amount(own, one.measure)})",
        before=numbers.percent(100 * part.weight_before),
        now=numbers.percent(100 * part.weight_now),
        weights=names.weights(one.measure),
        size=_signed(one, part.excess),
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
    return say("; all else changed by {size}", size=_signed(one, now - before))


def _span(one: Explanation, by: Expected) -> tuple[str, str]:
    return _expected(one, by.low), _expected(one, by.high)


def _expected(one: Explanation, change: float) -> str:
    if one.change_pct is not None:
        return numbers.per_cent(100 * change / one.before)
    return _signed(one, change)


def _alike(one: Explanation, by: Expected) -> str:
    """The usual change, without its sign where that is the sign of the change told before it."""
    if by.change * one.change > 0:
        return _expected(one, by.change).lstrip(numbers.MINUS + "+")
    return _expected(one, by.change)


def _size(one: Explanation, change: float) -> str:
    return numbers.percent(one.change_pct) if one.change_pct is not None else numbers.difference(change, one.measure)


def _signed(one: Explanation, change: float) -> str:
    return numbers.signed(change, numbers.difference(change, one.measure))


def counted_days(days: int) -> str:
    """That both sides of a comparison count so many days."""
    return count(
        days,
        "The period is unfinished, so both sides count its first {days} day only.",
        "The period is unfinished, so both sides count its first {days} days only.",
        days=days,
    )
