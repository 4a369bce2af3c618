"""A period far off in words: its value beside those around it."""

from __future__ import annotations

from ...findings import Finding
from ...support.shell import suggested
from .. import dates, names, numbers
from ..languages import count, mark, say, statement
from ..message import Message
from ..movement_phrases import says_something
from ..suggestions import Suggestion, side_of, subtraction

NAME = mark("spike", "kind")


def message(finding: Finding) -> Message:
    f, measure, span = finding.figures, finding.measure, finding.period
    assert span is not None
    grain = names.grain_noun(f["grain"])
    claim = say(
        "{who} {who:was|were} {value} {when}, against {usual} in the {grain}s around it",
        who=names.subject(measure, finding.where),
        value=numbers.amount(f["value"], measure),
        when=dates.when(span, measure),
        usual=numbers.amount(f["expected"], measure),
        grain=grain,
    )
    pct = "" if not says_something(f["change_pct"]) else statement((" (", numbers.per_cent(f["change_pct"]), ")"))
    low, high = (numbers.amount(f[name], measure) for name in ("expected_low", "expected_high"))
    evidence = count(
        f["n"],
        "That is {gap}{pct} against the {around} {grain}s before and after it, on {n} row; by the other {grain}s it "
        "would lie between {low} and {high} (95%).",
        "That is {gap}{pct} against the {around} {grain}s before and after it, on {n} rows; by the other {grain}s it "
        "would lie between {low} and {high} (95%).",
        gap=numbers.signed(f["change"], numbers.difference(f["change"], measure)),
        pct=pct,
        around=f["around"],
        grain=grain,
        n=numbers.whole(f["n"]),
        low=low,
        high=high,
    )
    said = [
        say(
            "{who} {who:was|were} {value} ({usual} around it)",
            who=names.subject(other),
            value=numbers.amount(own["value"], other),
            usual=numbers.amount(own["expected"], other),
        )
        for other, own in finding.candidate.series.get("others", ())[:2]
    ]
    if said:
        evidence += " " + say("In the same {grain} {told}.", grain=grain, told=names.listed(said))
    return Message(claim=claim, evidence=evidence)


def suggestion(finding: Finding, source: str) -> Suggestion | None:
    f, measure = finding.figures, finding.measure
    if measure is None or finding.period is None or f.get("expected") is None or f.get("value") is None:
        return None
    off = float(f["value"]) - float(f["expected"])
    places = {
        "who": names.subject(measure, finding.where),
        "when": dates.within(finding.period),
        "size": numbers.difference(off, measure),
    }
    text = (
        say(
            "Note what happened {when}: {who} {who:was|were} {size} above what the time around it leads one to "
            "expect; leave "
            "it out of averages.",
            **places,
        )
        if off > 0
        else say(
            "Note what happened {when}: {who} {who:was|were} {size} below what the time around it leads one to "
            "expect; leave "
            "it out of averages.",
            **places,
        )
    )
    return Suggestion(
        text=text,
        amount=off,
        reckoned=subtraction(float(f["value"]), float(f["expected"]), measure),
        next_look=suggested(
            "change", source, "-m", measure.name, "--period", f"{finding.period.start}/{finding.period.end}"
        ),
        finding=finding.id,
        side=side_of(finding),
    )
