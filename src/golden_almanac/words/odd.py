"""Headline and detail of what stands apart: a week, a pair of labels, periods without rows."""

from __future__ import annotations

from ..core.findings import Finding
from ..core.measures import spoken
from ..core.tables import Period
from . import names, numbers

# --- spike -------------------------------------------------------------------------------------


def spike(finding: Finding) -> str:
    f, measure, span = finding.figures, finding.measure, finding.period
    assert span is not None
    value, usual = numbers.amount(f["value"], measure), numbers.amount(f["expected"], measure)
    around = f"against {usual} in the {f['grain']}s around it"
    return f"{names.measure_name(measure)} was {value} {names.within(span)}, {around}"


def spike_detail(finding: Finding) -> str:
    f = finding.figures
    pct = "" if f["change_pct"] is None else f" ({numbers.signed(f['change_pct'], numbers.percent(f['change_pct']))})"
    gap = numbers.signed(f["change"], numbers.difference(f["change"], finding.measure))
    low, high = (numbers.amount(f[name], finding.measure) for name in ("expected_low", "expected_high"))
    text = (
        f"That is {gap}{pct} against the {f['around']} {f['grain']}s before and after it, on "
        f"{numbers.whole(f['n'])} rows; by the other {f['grain']}s it would lie between {low} and {high} (95%)."
    )
    said = [
        f"{names.measure_name(measure)} was {numbers.amount(own['value'], measure)} "
        f"({numbers.amount(own['expected'], measure)} around it)"
        for measure, own in finding.candidate.series.get("others", ())[:2]
    ]
    return f"{text} In the same {f['grain']} {names.listed(said)}." if said else text


# --- exception ---------------------------------------------------------------------------------


def exception(finding: Finding) -> str:
    f, (one, other) = finding.figures, (names.label(label) for _, label in finding.where.conditions)
    pct = 100 * (f["ratio"] - 1)
    times = f"{numbers.plain(f['ratio'], 2)} times" if f["ratio"] >= 2 else f"{numbers.percent(pct)} {_side(pct)}"
    value = numbers.amount(f["value"], finding.measure)
    return (
        f"{names.measure_name(finding.measure)} of {one} with {other} was {value}, {times} what the two alone lead one "
        "to expect"
    )


def _side(value: float) -> str:
    return "above" if value > 0 else "below"


def exception_detail(finding: Finding) -> str:
    f, (one, other) = finding.figures, (names.label(label) for _, label in finding.where.conditions)
    expected = numbers.amount(f["expected"], finding.measure)
    return (
        f"{other} makes {numbers.percent(100 * f['share_of_all'])} of all {names.measure_name(finding.measure)}, but "
        f"{numbers.percent(100 * f['share_of_first'])} of that of {one}, where the other cells lead one to expect "
        f"{expected} in all. The two together have {numbers.whole(f['n'])} rows."
    )


# --- gap ---------------------------------------------------------------------------------------


def gap(finding: Finding) -> str:
    f, span = finding.figures, finding.period
    assert span is not None
    if finding.measure is not None:
        name = spoken(f["column"])
        said = {
            "filled until": f"since {names.start(span)}",
            "filled from": f"before {names.start(_after(span))}",
            "not filled": _during(span),
        }
        return f"no {name} is given {said[f['what']]}, in any of {numbers.whole(f['rows'])} rows"
    if f["what"] == "no rows":
        return (
            f"there are no rows {_during(span)}, where about {numbers.plain(f['expected_rows'], 2)} were to be expected"
        )
    label, part = finding.where.label, _made_of(finding)
    if f["what"] == "began":
        return f"{label} has rows only since {names.start(_after(span))}; it has made {part} since"
    when = f"since {names.start(span)}" if f["what"] == "ended" else _during(span)
    verb = "has had" if f["what"] == "ended" else "had"
    return f"{label} {verb} no rows {when}; it made {part} in {_counted(f['periods_beside'], finding)} before"


def _made_of(finding: Finding) -> str:
    f = finding.figures
    if f["value_share"] is not None:
        return f"{numbers.percent(100 * f['value_share'])} of {names.measure_name(finding.candidate.series['lead'])}"
    return f"{numbers.percent(100 * f['share'])} of the rows"


def _during(span: Period) -> str:
    text = names.span_of(span)
    return f"{'from' if ' to ' in text else 'in'} {text}"


def _counted(periods: int, finding: Finding) -> str:
    """ "the 12 months", "the month"."""
    grain = names.grain(finding) or "period"
    return f"the {grain}" if periods == 1 else f"the {periods} {grain}s"


def _after(span: Period) -> Period:
    """The day right after a span, told as precisely as the span."""
    import numpy as np

    following = span.end + np.timedelta64(1, "D")
    return Period(start=following, end=following, grain=span.grain, calendar=span.calendar)


def gap_detail(finding: Finding) -> str:
    f, there = finding.figures, finding.baseline
    if f["what"] == "no rows":
        return f"All other periods together have {numbers.whole(f['rows'])} rows; sums over a year lack these."
    expected = f"{numbers.plain(f['expected_rows'])} rows were to be expected in {_counted(f['periods'], finding)}"
    if there is None:
        return f"By the usual share of filled rows, {expected}."
    if f["what"] == "began":
        would = f"{numbers.plain(f['expected_rows'])} rows would have come in {_counted(f['periods'], finding)}"
        expected = f"at its share since, {would} before"
    else:
        expected = f"by its share of the rows, {expected}"
    return (
        f"{expected}; over {names.span_of(there)} it had {numbers.whole(f['rows'])}, "
        f"{numbers.percent(100 * f['share'])} of all."
    )
