"""What changed, beside its baseline and beside what was to be expected."""

from __future__ import annotations

from ...analysis.change import Explanation
from ...findings import Finding
from .. import dates, names, numbers
from ..core_sentences import retold
from ..languages import count, say, statement
from ..message import Message

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
            gone=dates.within(gone),
            measure=names.measure_name(measure),
            there=dates.within(there),
            known=numbers.amount(known, measure),
            size=numbers.signed(f["change"], numbers.difference(f["change"], measure)),
        )
    return say(
        "{who} {who:was|were} {value} {when}, {compared}",
        who=names.subject(measure, finding.where),
        value=counted(finding),
        when=dates.when(finding.period, measure),
        compared=compared(finding, dates.period(finding.baseline)),
    )


def counted(finding: Finding) -> str:
    """The value; of a rate that rests on few, with the counts: "0% (0 of 14 rows)"."""
    f = finding.figures
    value = numbers.amount(f["value"], finding.measure)
    if f.get("events") is None:
        return value
    return say(
        "{value} ({yes} of {of} rows)", value=value, yes=numbers.whole(f["events"]), of=numbers.whole(f["events_of"])
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
        size = statement((numbers.difference(change, measure), " (", numbers.percent(f["change_pct"]), ")"))
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
        basis=retold(f["expected_basis"]),
    )


def unfinished(explanation: Explanation) -> str:
    """That both sides of a comparison count as much of the period as there is."""
    days = explanation.period.days
    if explanation.period.whole_months():
        return say("The period is unfinished, so both sides count its complete months only.")
    return count(
        days,
        "The period is unfinished, so both sides count its first {days} day only.",
        "The period is unfinished, so both sides count its first {days} days only.",
        days=days,
    )
