"""A headline and a detail for each kind of finding.

The headline is the claim with its number, true by itself; the detail adds what it is compared with,
why, and how sure it is. Every number comes from the finding's figures.
"""

from __future__ import annotations

from collections.abc import Callable

from ..core.findings import Finding
from ..core.measures import spoken
from ..core.tables import Period
from . import change, names, numbers, odd, shapes
from .why import why

_Writer = Callable[[Finding], str]


def headline(finding: Finding) -> str:
    """One sentence: what, where, by how much, since when."""
    return names.capital(_HEADLINES[finding.kind](finding)) + "."


def detail(finding: Finding) -> str:
    """One to three sentences: against what, why, how sure."""
    sentences = [_DETAILS[finding.kind](finding), why(finding)]
    return " ".join(names.capital(sentence) for sentence in sentences if sentence)


# --- trend -------------------------------------------------------------------------------------


def _trend(finding: Finding) -> str:
    f, measure, span = finding.figures, finding.measure, finding.period
    assert span is not None
    when = f"since {names.start(span)}" if f["bend"] else f"from {names.span_of(span)}"
    own = _movement(f["change_pct"], f["change"], f["start"], f["end"], finding)
    subject = names.of(measure, finding.where)
    verb = "has " + own.replace("rose", "risen").replace("fell", "fallen") if f["bend"] else own
    if not finding.where.conditions:
        return f"{subject} {verb} {when}"
    others = _others(finding)
    rest = _rest(f["rest_change_pct"], f["rest_change"], f["change_pct"], f["change"], finding, others)
    return f"{subject} {verb} {when}, {rest}"


def _movement(pct: float | None, change: float, start: float, end: float, finding: Finding) -> str:
    verb = "rose" if change > 0 else "fell" if change < 0 else "held level"
    if finding.measure is not None and finding.measure.share:
        return (
            f"{verb} {numbers.difference(change, finding.measure)}, from {numbers.percent(100 * start)} to "
            f"{numbers.percent(100 * end)},"
        )
    if pct is None or (finding.measure is not None and not finding.measure.additive):
        return f"{verb} from {numbers.amount(start, finding.measure)} to {numbers.amount(end, finding.measure)}"
    return f"{verb} {numbers.percent(pct)}"


def _rest(rest_pct: float | None, rest: float, own_pct: float | None, own: float, finding: Finding, others: str) -> str:
    """What the siblings did meanwhile: "against +18% for the other routes"."""
    in_percent = (
        rest_pct is not None and own_pct is not None and finding.measure is not None and finding.measure.additive
    )
    if in_percent:
        assert rest_pct is not None
        assert own_pct is not None
        small, text = abs(rest_pct) < 0.05 * abs(own_pct), numbers.signed(rest_pct, numbers.percent(rest_pct))
    else:
        small, text = abs(rest) < 0.05 * abs(own), numbers.signed(rest, numbers.difference(rest, finding.measure))
    return f"while {others} held level" if small else f"against {text} for {others}"


def _trend_detail(finding: Finding) -> str:
    f = finding.figures
    before, after = f["windows"]["before"], f["windows"]["after"]
    each = f" {names.per(names.grain(finding))}" if finding.measure is not None and finding.measure.additive else ""
    first, last = (numbers.amount(f[name], finding.measure) for name in ("observed_start", "observed_end"))
    same = " (the same time of year)" if f["windows"]["same_months"] else ""
    text = (
        f"{names.it(finding.measure)} {'averaged' if each or not _share(finding) else 'was'} {first}{each} over "
        f"{_window(before)} and {last} "
        f"over {_window(after)}{same}"
    )
    if finding.measure is not None and finding.measure.additive:
        start, end = (numbers.amount(f[name], finding.measure) for name in ("start", "end"))
        text += (
            f"; the fitted line, free of the season, runs from {start} to {end}"
            if f["windows"]["same_months"]
            else (f"; the fitted line runs from {start} to {end}")
        )
    return text + "."


# --- shift -------------------------------------------------------------------------------------


def _shift(finding: Finding) -> str:
    f, measure, span = finding.figures, finding.measure, finding.period
    assert span is not None
    up = finding.direction == "up"
    subject = names.of(measure, finding.where)
    verb = "stepped up" if up else "stepped down"
    if f["change_pct"] is not None and measure is not None and measure.additive:
        size = numbers.signed(f["change_pct"], numbers.percent(f["change_pct"]))
    else:
        size = numbers.signed(f["change"], numbers.difference(f["change"], measure))
    if not finding.where.conditions:
        return f"{subject} {verb} in {names.start(span)}: {size} against {_before(finding)}"
    others = _others(finding)
    rest_pct = 100 * (f["rest_after"] / f["rest_before"] - 1) if f["rest_before"] > 0 else None
    rest = _rest(rest_pct, f["rest_after"] - f["rest_before"], f["change_pct"], f["change"], finding, others)
    return f"{subject} {verb} in {names.start(span)}: {size} on {_before(finding)}, {rest}"


def _before(finding: Finding) -> str:
    return "a year before" if finding.figures["windows"]["same_months"] else "the time before"


def _shift_detail(finding: Finding) -> str:
    f = finding.figures
    each = f" {names.per(names.grain(finding))}" if finding.measure is not None and finding.measure.additive else ""
    verb = "was" if _share(finding) else "averaged"
    same = " (the same time of year)" if f["windows"]["same_months"] else ""
    return (
        f"{names.it(finding.measure)} {verb} {numbers.amount(f['after'], finding.measure)}{each} over "
        f"{_window(f['windows']['after'])}, against "
        f"{numbers.amount(f['before'], finding.measure)} over {_window(f['windows']['before'])}{same}."
    )


# --- seasonality -------------------------------------------------------------------------------


def _seasonality(finding: Finding) -> str:
    f = finding.figures
    parts = []
    many = names.many(finding.measure)
    for name, place in (("peak", "peak" if many else "peaks"), ("trough", "are lowest" if many else "is lowest")):
        if f[name] is not None and f.get(f"{name}_value") is not None:
            on = "on" if f["cycle"] == "week" else "in"
            parts.append(f"{place} {on} {f[name]}{_off_average(f[f'{name}_value'], f['average'], finding)}")
    subject = names.measure_name(finding.measure)
    if not parts:
        if f["cycle"] != "year":
            return (
                f"{subject} {'go' if many else 'goes'} up and down with the {f['cycle']}, though no part of "
                f"it leads for certain"
            )
        return f"{subject} {'follow' if many else 'follows'} a yearly season, though no month leads every year"
    return f"{subject} {', and '.join(parts)}"


def _off_average(value: float, average: float, finding: Finding) -> str:
    if _share(finding) or average <= 0:
        side = "above" if value > average else "below"
        return f" ({numbers.difference(value - average, finding.measure)} {side} the average)"
    pct = 100 * (value / average - 1)
    side = "above" if pct > 0 else "below"
    grain = names.grain(finding) or "period" if finding.figures["cycle"] == "year" else "day"
    return f", {numbers.percent(pct)} {side} {'their' if names.many(finding.measure) else 'its'} average {grain}"


def _seasonality_detail(finding: Finding) -> str:
    f = finding.figures
    if f["cycle"] != "year":
        each = " a day" if finding.measure is not None and finding.measure.additive else ""
        return (
            f"The average was {numbers.amount(f['average'], finding.measure)}{each} over {f['blocks']} full "
            f"{f['cycle']}s{'' if f['cycle'] == 'week' else ' (days 1 to 28)'}; within them the {f['cycle']} accounts "
            f"for {numbers.percent(100 * f['strength'])} of the ups and downs."
        )
    return (
        f"The average {names.grain(finding) or 'period'} of the {f['years']} full years was "
        f"{numbers.amount(f['average'], finding.measure)}; the season accounts for "
        f"{numbers.percent(100 * f['strength'])} of the ups and downs that are left when the trend is taken out."
    )


# --- ranking -----------------------------------------------------------------------------------


def _ranking(finding: Finding) -> str:
    f = finding.figures
    if f["what"] != "first":
        return _placed(finding)
    first, second = f["order"][0], f["order"][1]
    share = numbers.percent(100 * f["shares"][0])
    return (
        f"{names.label(first)} leads the {names.plural(finding.by)} in {names.measure_name(finding.measure)}: "
        f"{share} of the total, {numbers.percent(f['lead_pct'])} more than {names.label(second)}"
    )


def _placed(finding: Finding) -> str:
    """Who is last, or has climbed past others."""
    f = finding.figures
    label, other = finding.where.label, names.label(f["other"])
    parts, name = names.plural(finding.by), names.measure_name(finding.measure)
    if f["what"] == "last":
        share = numbers.percent(100 * f["share"])
        less = f"{numbers.percent(f['lead_pct'])} less than {other}"
        return f"{label} is last of {len(f['order'])} {parts} in {name}: {share} of the total, {less}"
    passed = names.listed([names.label(one) for one in f["passed"][:3]])
    places = f"from place {f['from']} to {f['to']} of the {parts}"
    return f"{label} climbed {places} in {name} within a year, past {passed}"


def _ranking_detail(finding: Finding) -> str:
    f = finding.figures
    if f["what"] == "climbed":
        value, other = (numbers.amount(f[which], finding.measure) for which in ("value", "other_value"))
        assert finding.period is not None
        return (
            f"Over {names.span_of(finding.period)} it made {value}, {numbers.percent(f['lead_pct'])} more than "
            f"{names.label(f['other'])} ({other})."
        )
    rest = [
        f"{names.label(label)} {numbers.amount(value, finding.measure)}"
        for label, value in list(zip(f["order"], f["values"], strict=True))[:5]
    ]
    more = f" and {len(f['order']) - 5} more" if len(f["order"]) > 5 else ""
    text = f"In order: {', '.join(rest)}{more}."
    if f["what"] == "last":
        return text
    if f["lead_low_pct"] is not None and f["lead_low_pct"] > 0:
        ends = (numbers.percent(f[which]) for which in ("lead_low_pct", "lead_high_pct"))
        text += f" Period by period the lead averaged {' to '.join(ends)} (95% range)."
    for one in f["climbers"][:1]:
        text += f" {names.label(one['label'])} climbed from place {one['from']} to {one['to']} within a year."
    return text


# --- difference --------------------------------------------------------------------------------


def _difference(finding: Finding) -> str:
    f = finding.figures
    subject = names.of(finding.measure, finding.where)
    others = _others(finding)
    return (
        f"{subject} is {numbers.amount(f['value'], finding.measure)}, against "
        f"{numbers.amount(f['rest'], finding.measure)} for {others}"
    )


def _difference_detail(finding: Finding) -> str:
    f = finding.figures
    side = "above" if f["gap"] > 0 else "below"
    low, high = sorted((abs(f["gap_low"]), abs(f["gap_high"])))
    gap = numbers.difference(f["gap"], finding.measure)
    return (
        f"It lies {gap} {side} them (95% range {_range(low, high, finding)}), on {numbers.whole(f['n'])} rows, "
        f"{numbers.percent(100 * f['share'])} of all."
    )


def _range(low: float, high: float, finding: Finding) -> str:
    a, b = (numbers.difference(value, finding.measure) for value in (low, high))
    first = a.split(" ")[0]
    return f"{first} to {b}"


# --- outlier -----------------------------------------------------------------------------------

_FAULTS = {
    "sign": "its sign looks turned round",
    "large": "nothing shows that it is an error, but nothing else comes near it",
}


def _outlier(finding: Finding) -> str:
    f = finding.figures
    name = spoken(f["column"])
    where = f" for {finding.where.label}" if finding.where.conditions else ""
    times = f["times_typical"]
    size = (
        f"{numbers.plain(times, 2)} times what is usual{where}"
        if times is not None and times > 1
        else f"far from the usual {numbers.plain(f['typical'])}{where}"
    )
    value = numbers.amount(f["value"], finding.measure)
    return f"row {numbers.whole(f['row'])} has {_article(name)} {name} of {value}, {size}"


def _article(word: str) -> str:
    return "an" if word[:1].lower() in "aeiou" else "a"


def _outlier_detail(finding: Finding) -> str:
    f = finding.figures
    factor = str(f["fault"]).removeprefix("factor of ")
    if str(f["fault"]).startswith("factor of 1/"):
        fault = f"it looks keyed {factor.removeprefix('1/')} times too small"
    elif str(f["fault"]).startswith("factor"):
        fault = f"it looks keyed {factor} times too large"
    else:
        fault = _FAULTS[f["fault"]]
    row = f" ({spoken(f['key_column'])} {f['key']}" if f["key"] else " ("
    day = f", {f['date']})" if f["date"] and f["key"] else f"{f['date']})" if f["date"] else ")" if f["key"] else ""
    place = (row + day) if (f["key"] or f["date"]) else ""
    low, high = (numbers.amount(f[name], finding.measure) for name in ("expected_low", "expected_high"))
    nearest = "largest" if f["value"] >= f["typical"] else "smallest"
    return (
        f"{names.capital(fault)}{place}; usual values lie between {low} and {high}, the next {nearest} is "
        f"{numbers.amount(f['next_value'], finding.measure)}."
    )


def _others(finding: Finding) -> str:
    facts = finding.candidate.series
    return names.the_others(finding.by, facts.get("parent"), facts.get("besides", ()))


def _share(finding: Finding) -> bool:
    return finding.measure is not None and finding.measure.share


def _window(window: dict[str, str]) -> str:
    import numpy as np

    return names.span_of(Period(start=np.datetime64(window["start"]), end=np.datetime64(window["end"])))


_HEADLINES: dict[str, _Writer] = {
    "trend": _trend,
    "shift": _shift,
    "seasonality": _seasonality,
    "ranking": _ranking,
    "difference": _difference,
    "outlier": _outlier,
    "spike": odd.spike,
    "exception": odd.exception,
    "gap": odd.gap,
    "change": change.headline,
    "concentration": shapes.concentration,
    "mix": shapes.mix,
    "relationship": shapes.relationship,
    "distribution": shapes.distribution,
    "divergence": shapes.divergence,
}
_DETAILS: dict[str, _Writer] = {
    "trend": _trend_detail,
    "shift": _shift_detail,
    "seasonality": _seasonality_detail,
    "ranking": _ranking_detail,
    "difference": _difference_detail,
    "outlier": _outlier_detail,
    "spike": odd.spike_detail,
    "exception": odd.exception_detail,
    "gap": odd.gap_detail,
    "change": change.detail,
    "concentration": shapes.concentration_detail,
    "mix": shapes.mix_detail,
    "relationship": shapes.relationship_detail,
    "distribution": shapes.distribution_detail,
    "divergence": shapes.divergence_detail,
}
