"""Headline and detail of how values lie and go together: concentration, mix, relationship, distribution, divergence."""

from __future__ import annotations

from typing import Any

from ..core.findings import Finding
from ..core.measures import spoken
from . import names, numbers

# --- concentration -----------------------------------------------------------------------------


def concentration(finding: Finding) -> str:
    f = finding.figures
    top = f["top"]
    who = names.listed([names.label(label) for label in top]) if len(top) <= 3 else f"{len(top)}"
    what = f"of {f['labels']} {names.plural(finding.by)}"
    verb = "makes" if len(top) == 1 else "make"
    return f"{who} {what} {verb} {numbers.percent(100 * f['share'])} of {names.measure_name(finding.measure)}"


def concentration_detail(finding: Finding) -> str:
    f = finding.figures
    even = f"an even share would be {numbers.percent(100 * f['even_share'])}"
    half = f"{f['half']} of them make half"
    now, then = f["share_last_year"], f["share_year_before"]
    course = ""
    if now is not None and then is not None:
        points = numbers.points(100 * (now - then))
        course = f" In the last year the top {len(f['top'])} of the year made {numbers.percent(100 * now)}"
        course += (
            f", {points} {'more' if now > then else 'less'} than in the year before."
            if abs(now - then) > 0.005
            else "."
        )
    return f"{names.capital(even)}; {half}.{course}"


# --- mix ---------------------------------------------------------------------------------------


def mix(finding: Finding) -> str:
    f, measure = finding.figures, finding.measure
    assert finding.period is not None
    verb = "rose" if f["change"] > 0 else "fell"
    size = numbers.difference(f["change"], measure)
    subject = names.measure_name(measure)
    parts = names.plural(finding.by)
    if f["reversal"]:
        other = "fell" if f["change"] > 0 else "rose"
        within = numbers.difference(f["within"], measure)
        why = f"the {parts} weigh otherwise than a year before"
        return f"{subject} {verb} {size}, though within the {parts} it {other} {within}: {why}"
    share = min(1.0, f["mix_share"])
    part = "all of it" if share > 0.95 else numbers.percent(100 * share) + " of that"
    return f"{subject} {verb} {size} on the year before, {part} because the {parts} weigh otherwise"


def mix_detail(finding: Finding) -> str:
    f, measure = finding.figures, finding.measure
    before, after = (numbers.amount(f[name], measure) for name in ("value_before", "value"))
    through, within = (numbers.signed(f[name], numbers.difference(f[name], measure)) for name in ("mix", "within"))
    moved = max(f["parts"], key=lambda one: (abs(one["share"] - one["share_before"]), str(one["label"])))
    rate = moved["after"] if moved["after"] is not None else moved["before"]
    of_all = "" if rate is None else f", at {numbers.amount(rate, measure)}"
    assert finding.period is not None
    return (
        f"It went from {before} to {after} ({names.span_of(finding.period)}): {through} through the weights, {within} "
        f"within the {names.plural(finding.by)}. {names.label(moved['label'])} went from "
        f"{numbers.percent(100 * moved['share_before'])} to {numbers.percent(100 * moved['share'])} of all{of_all}."
    )


# --- relationship ------------------------------------------------------------------------------

_SHAPES = {
    "steady": "",
    "uneven": ", though not evenly",
    "levels off": ", the more the lower they are",
    "sets in late": ", but only in the upper half",
    "turns": ", and the other way round in the upper half",
}


def relationship(finding: Finding) -> str:
    f = finding.figures
    first, second = (spoken(column) for column in f["columns"])
    how = "rise and fall together" if f["slope"] > 0 else "go opposite ways"
    return f"{first} and {second} {how}{_SHAPES[f['shape']]} (correlation {_r(f['r'])})"


def relationship_detail(finding: Finding) -> str:
    f = finding.figures
    first, second = (spoken(column) for column in f["columns"])
    x = finding.candidate.series["x"]
    step = float(x[-1] - x[0]) / max(1, len(x) - 1)
    more = "more" if f["slope"] > 0 else "less"
    ends = [_r(f[name]) for name in ("low", "high")]
    span = "" if ends[0] == ends[1] else f" (95% range {ends[0]} to {ends[1]})"
    return (
        f"On {numbers.whole(f['n'])} rows{span}; within the same week and the same groups it is {_r(f['r_adjusted'])}. "
        f"Rows with {numbers.plain(step)} more {first} have {numbers.plain(abs(f['slope'] * step))} {more} {second} on "
        "average, which is no proof that the one makes the other."
    )


def _r(value: float) -> str:
    return numbers.fixed(value, 2)


# --- distribution ------------------------------------------------------------------------------


def distribution(finding: Finding) -> str:
    f = finding.figures
    name = spoken(f["column"])
    if f["shape"] == "heaps":
        times = numbers.plain(f["on_step"] / f["even_share"], 2)
        step = numbers.plain(f["step"])
        share = numbers.percent(100 * f["on_step"])
        return f"{share} of the values of {name} are multiples of {step}, {times} times the even share"
    if f["shape"] == "two humps":
        first, second = (numbers.amount(f[hump], finding.measure) for hump in ("first_hump", "second_hump"))
        by = f["divided_by"]
        who = f"; the {names.dimension(by)} tells which" if by else ""
        return f"{name} has more than one usual size, such as {first} and {second}, with few rows between them{who}"
    return f"a tenth of the rows make {numbers.percent(100 * f['top_share'])} of {name}"


def distribution_detail(finding: Finding) -> str:
    f = finding.figures
    rows = f"on {numbers.whole(f['n'])} rows"
    middle = f"the median is {numbers.amount(f['median'], finding.measure)}"
    if f["shape"] == "heaps":
        return (
            f"As if estimated, not measured; an even share would be {numbers.percent(100 * f['even_share'])} ({rows})."
        )
    if f["shape"] == "two humps":
        below = numbers.percent(100 * f["below"])
        valley = numbers.amount(f["valley"], finding.measure)
        over = "An average over all describes none of them"
        return f"{over}: {below} of the rows lie below about {valley} ({rows}); {middle}."
    cut = numbers.amount(f["top_from"], finding.measure)
    return f"Those rows have {cut} or more each, while {middle} ({rows}). An average says little of a usual row."


# --- divergence --------------------------------------------------------------------------------


def divergence(finding: Finding) -> str:
    f, measure, span = finding.figures, finding.measure, finding.period
    assert span is not None
    side = "above" if f["change"] > 0 else "below"
    pct = f["change_pct"]
    size = numbers.percent(pct) if pct is not None else numbers.difference(f["change"], measure)
    value, expected = (numbers.amount(f[name], measure) for name in ("value", "expected"))
    return (
        f"{names.of(measure, finding.where)} has been {size} {side} its path since {names.start(span)}: "
        f"{value}{_each(finding)}, where {expected} was to be expected"
    )


def divergence_detail(finding: Finding) -> str:
    f, measure = finding.figures, finding.measure
    facts: Any = finding.candidate.series
    others = names.the_others(finding.by, facts.get("parent"), facts.get("besides", ()))
    if f["change_pct"] is not None:
        ends = " to ".join(numbers.signed(f[name], numbers.percent(f[name])) for name in ("low", "high"))
    else:
        ends = " to ".join(numbers.signed(f[name], numbers.difference(f[name], measure)) for name in ("low", "high"))
    assert finding.baseline is not None
    return (
        f"The path is that of {names.span_of(finding.baseline)} against {others}, which had "
        f"{numbers.amount(f['rest'], measure)}{_each(finding)} meanwhile (95% range of the departure {ends}; "
        f"{numbers.whole(f['n'])} rows)."
    )


def _each(finding: Finding) -> str:
    additive = finding.measure is not None and finding.measure.additive
    return f" {names.per(names.grain(finding))}" if additive else ""
