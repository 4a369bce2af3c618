"""Why a measure changed, in sentences: what was usual, where it came about, through what, what offset it, what is left,
and where to look next. Each sentence says one thing, with its figures; none says what the figures do not."""

from __future__ import annotations

from ..core.changes import Breakdown, Expected, Explanation, Named
from ..core.findings import Finding
from ..core.measures import spoken
from . import names, numbers

#: Slices told in the text, and parts below this share of the change, which are not told.
_MOST_SLICES, _LEAST_SHARE = 3, 0.05
#: A change in percent smaller than this is told as "about level".
_LEVEL_PCT = 0.5
#: Changes that round to nought percent are none in words; the figures keep them.
_NO_CHANGE_PCT = 0.05


def headline(finding: Finding) -> str:
    f, measure = finding.figures, finding.measure
    assert finding.period is not None
    assert finding.baseline is not None
    subject = names.of(measure, finding.where)
    if f["value"] is None or f["baseline"] is None:
        # An average of a slice that ended or is new has nothing to be compared with.
        gone, there = (finding.period, finding.baseline) if f["value"] is None else (finding.baseline, finding.period)
        known = f["baseline"] if f["value"] is None else f["value"]
        size = numbers.signed(f["change"], numbers.difference(f["change"], measure))
        return (
            f"{finding.where.label} has no rows {names.within(gone)} ({names.measure_name(measure)} "
            f"{names.within(there)}: {numbers.amount(known, measure)}); that contributed {size}"
        )
    return (
        f"{subject} {names.was(measure)} {numbers.amount(f['value'], measure)} {names.within(finding.period)}, "
        f"{change_size(finding)} {names.period(finding.baseline)}"
    )


def change_size(finding: Finding) -> str:
    """ "9.1% above", "4.6 points below", "level with"."""
    f, measure = finding.figures, finding.measure
    change = f["change"]
    if change == 0 or (f["change_pct"] is not None and abs(f["change_pct"]) < _NO_CHANGE_PCT):
        return "level with"
    side = "above" if change > 0 else "below"
    if f["change_pct"] is None:
        return f"{numbers.difference(change, measure)} {side}"
    if measure is not None and not measure.additive:
        return f"{numbers.difference(change, measure)} ({numbers.percent(f['change_pct'])}) {side}"
    return f"{numbers.percent(f['change_pct'])} {side}"


def detail(finding: Finding) -> str:
    f = finding.figures
    if finding.where.conditions or f.get("expected_low") is None:
        return ""
    low, high = f["expected_low"], f["expected_high"]
    ends = [numbers.signed(end, numbers.difference(end, finding.measure)) for end in (low, high)]
    return f"A change between {ends[0]} and {ends[1]} was to be expected ({f['expected_basis']})."


# --- small helpers -----------------------------------------------------------------------------


def paragraph(one: Explanation) -> list[str]:
    """The sentences of a change after its headline, the most telling first."""
    return [*usual(one), *where(one), *reversal(one), *through(one), *made_of(one), *against(one), *next_look(one)]


def usual(one: Explanation) -> list[str]:
    """The change beside what was to be expected."""
    by = one.usual
    if by is None:
        return []
    size, verb = _size(one, one.change), _noun(one)
    if by.usual and by.season:
        return [
            (
                f"That is the season: a {verb} of {size}, where {_alike(one, by)} is usual "
                f"(between {_span(one, by)}; {by.basis})."
            )
        ]
    if by.usual and by == one.chance:
        return [f"That is no more than chance makes from row to row (between {_span(one, by)})."]
    if by.usual:
        return [f"That is within its usual movement (between {_span(one, by)})."]
    surprise = one.change - by.change
    text = f"That is unusual: between {_span(one, by)} was to be expected ({by.basis})"
    if by.season:
        text = (
            f"That is unusual for the season: a {verb} of {size}, where {_alike(one, by)} is usual "
            f"(between {_span(one, by)}; {by.basis})"
        )
    extra = numbers.signed(surprise, numbers.difference(surprise, one.measure))
    low, high = (numbers.signed(end, numbers.difference(end, one.measure)) for end in _surprise(one, by))
    return [f"{text}; the surprise is {extra} (between {low} and {high})."]


def where(one: Explanation) -> list[str]:
    """The slices that explain the change, or that none does."""
    verdict = one.verdict
    if verdict in ("usual", "season") or (one.change == 0 and not one.named):
        return []
    if verdict == "nothing":
        return _largest(one)
    if verdict == "even":
        columns = names.listed([names.plural(b.by) for b in one.breakdowns[:3]])
        more = "" if len(one.breakdowns) < 2 else ", nor a few of them together,"
        return [f"The {_noun(one)} is even across the board: it is spread over all {columns}; none{more} stands out."]
    if verdict == "offset":
        told = names.listed(
            [f"{names.slice_(part.where)}{_status(part, ' ({})')} {_signed(one, part.told)}" for part in one.named]
        )
        return [f"Rises and falls offset each other: {told}{_rest(one)}."]
    rates = [part for part in one.named if part.how != "mix"]
    text = []
    if rates:
        told = names.listed([_named(one, part) for part in rates[:_MOST_SLICES]])
        other_way = one.change != 0 and all(part.told * one.change < 0 for part in rates)
        opening = f"Against the {_noun(one)} went" if other_way else "What stands out:"
        text.append(f"{opening} {told}{_rest(one)}.")
    text += [_mixed(one, part) for part in one.named if part.how == "mix"][:2]
    return text


def _largest(one: Explanation) -> list[str]:
    """The largest contributions, where there are too few rows to tell them from chance."""
    if not one.breakdowns:
        return []
    breakdown = one.breakdowns[0]
    parts = []
    for part in breakdown.contributions[:_MOST_SLICES]:
        status = {"new": ", new", "ended": ", ended"}.get(part.status, "")
        parts.append(f"{names.label(part.label)} ({_signed(one, part.change)}{status})")
    told = f"Largest by {names.dimension(breakdown.by)}: {names.listed(parts)}"
    return [f"{told}; the rows are too few to tell that from chance."]


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
    listed = names.listed([f"{names.label(part.label)} ({_signed(one, part.change)})" for part in others])
    return [f"Against the {_noun(one)} went {listed}."]


def reversal(one: Explanation) -> list[str]:
    """That the whole went one way and most of its parts the other, by its name."""
    found = reversed_by(one)
    if found is None or one.verdict in ("usual", "season"):
        return []
    mix, within = found.mix, one.change - found.mix
    return [
        (
            f"It is a reversal: within the {names.plural(found.by)} it {'rose' if within > 0 else 'fell'} "
            f"({_signed(one, within)} in all), but the weights moved ({_signed(one, mix)})."
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
    subject = subject or f"the {_noun(one)}"
    if one.factors is not None and one.change:
        return [_factors(one, subject)]
    if one.measure.bottom and one.breakdowns and one.change and reversed_by(one) is None:
        telling = max(one.breakdowns, key=lambda b: (abs(b.mix), b.by))
        within = one.change - telling.mix
        return [
            (
                f"By {names.dimension(telling.by)}, {_signed(one, telling.mix)} is mix and {_signed(one, within)} came "
                f"within the {names.plural(telling.by)}."
            )
        ]
    return []


def made_of(one: Explanation, subject: str | None = None) -> list[str]:
    """The change by the columns that the measure is a sum of."""
    subject = subject or f"the {_noun(one)}"
    if not one.bridge or not one.change:
        return []
    parts = []
    for part in one.bridge:
        if part.column is None:
            parts.append(f"rows that do not add up {_signed(one, part.change)}")
            continue
        moved = (
            numbers.signed(part.value - part.before, _percent_of(part.value - part.before, part.before))
            if part.before > 0
            else ""
        )
        parts.append(f"{spoken(part.column)} {_signed(one, part.change)}" + (f" ({moved} itself)" if moved else ""))
    return [f"Of {subject}, {names.listed(parts)}."]


def next_look(one: Explanation) -> list[str]:
    """Where to look next, and why."""
    verdict = one.verdict
    if verdict in ("season", "usual", "nothing") or not one.change:
        return []
    if verdict == "even":
        if one.through in ("price", "rate", "volume"):
            return [f"Look next at {factor_names(one)[one.through]}: that made the {_noun(one)}, everywhere."]
        return ["Look next at what all have in common, such as prices, the calendar or how rows are recorded."]
    first = one.named[0]
    if verdict == "mix":
        before, now = (numbers.percent(100 * weight) for weight in (first.weight_before, first.weight_now))
        return [f"Look next at why {names.slice_(first.where)} went from {before} to {now} of the {_weights(one)}."]
    reason = f"it makes {_signed(one, first.told)}"
    if 0 < first.told / one.change <= 1.5 and verdict != "offset":
        reason = f"it makes {numbers.percent(100 * first.told / one.change)} of the {_noun(one)}"
    if first.status != "kept":
        came = "it is new" if first.status == "new" else "it ended"
        return [f"Look next at {names.slice_(first.where)}: {came}, and {reason}."]
    return [f"Look next inside {names.slice_(first.where)}: {reason}."]


def _factors(one: Explanation, subject: str) -> str:
    factors = one.factors
    assert factors is not None
    said = factor_names(one)
    units, price = said["volume"].removeprefix("the number of "), said["price"]
    volume = 100 * (factors.volume_now / factors.volume_before - 1)
    each = 100 * (factors.price_now / factors.price_before - 1)
    moved = numbers.signed(volume, numbers.percent(volume))
    priced = numbers.signed(each, numbers.percent(each))
    if one.through == "volume":
        return f"{names.capital(subject)} went with {units} ({moved}), not with {price} ({priced})."
    if one.through in ("price", "rate"):
        return f"{names.capital(subject)} went with {price} ({priced}), not with {units} ({moved})."
    # Of items that are new or ended the units are not in the volume.
    if not factors.part("new") and not factors.part("ended"):
        said["volume"] += f" ({moved})"
    parts = [
        f"{_signed(one, change)} went with {said[name]}" if place == 0 else f"{_signed(one, change)} with {said[name]}"
        for place, (name, change) in enumerate(
            (name, change) for name, change in factors.parts if abs(change) >= _LEAST_SHARE * abs(one.change)
        )
    ]
    return f"Of {subject}, {names.listed(parts)}." if parts else ""


def _status(part: Named, form: str) -> str:
    """What is to be said of a slice that is new or ended; nothing of others."""
    return "" if part.status == "kept" else form.format(part.status)


def movement(one: Explanation) -> str:
    """ "the rise of revenue", for a sentence that stands by itself."""
    return f"the {_noun(one)} of {names.of(one.measure, one.where)}"


def factor_names(one: Explanation) -> dict[str, str]:
    """What each factor of a change is called."""
    factors = one.factors
    assert factors is not None
    units = "rows" if factors.units is None else spoken(factors.units)
    price = f"{names.measure_name(one.measure)} per " + ("row" if factors.units is None else _one_of(units))
    return {
        "volume": f"the number of {units}",
        "price": price,
        "rate": price,
        "mix": f"mix between {names.plural(factors.by)}",
        "new": f"new {names.plural(factors.by)}",
        "ended": f"{names.plural(factors.by)} that ended",
        "rest": "amounts that are not positive",
    }


def _named(one: Explanation, part: Named) -> str:
    word = ", ".join(names.dimension(column) for column, _ in part.where.conditions)
    status = _status(part, ", {}")
    size = _signed(one, part.told)
    share = part.told / one.change if one.change else 0.0
    of_all = f", {numbers.percent(100 * share)} of the {_noun(one)}" if 0 < share <= 2 else ""
    return f"{names.slice_(part.where)} ({word}{status}; {size}{of_all})"


def _mixed(one: Explanation, part: Named) -> str:
    own = part.value if part.value is not None else part.baseline
    known = "" if own is None else f" ({numbers.amount(own, one.measure)})"
    return (
        f"{names.slice_(part.where)}{known} went from {numbers.percent(100 * part.weight_before)} to "
        f"{numbers.percent(100 * part.weight_now)} of the {_weights(one)}: by that alone {_signed(one, part.excess)}."
    )


def _rest(one: Explanation) -> str:
    before, now = one.smallest.rest_before, one.smallest.rest_now
    if before is None or now is None:
        return ""
    if one.measure.additive and before > 0 and now >= 0:
        pct = 100 * (now / before - 1)
        size = (
            "held about level" if abs(pct) < _LEVEL_PCT else f"changed by {numbers.signed(pct, numbers.percent(pct))}"
        )
    else:
        size = f"changed by {_signed(one, now - before)}"
    return f"; all else {size}"


def _surprise(one: Explanation, by: Expected) -> tuple[float, float]:
    return one.change - by.high, one.change - by.low


def _span(one: Explanation, by: Expected) -> str:
    return " and ".join(_expected(one, end) for end in (by.low, by.high))


def _expected(one: Explanation, change: float) -> str:
    if one.change_pct is not None:
        pct = 100 * change / one.before
        return numbers.signed(pct, numbers.percent(pct))
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


def _percent_of(change: float, base: float) -> str:
    return numbers.percent(100 * change / base)


def _noun(one: Explanation) -> str:
    return "rise" if one.change > 0 else "fall"


def _weights(one: Explanation) -> str:
    """What the weights of an average are shares of: rows, or what its amounts are divided by."""
    return names.weights(one.measure)


def _one_of(units: str) -> str:
    return units[:-1] if units.endswith("s") and not units.endswith("ss") else units
