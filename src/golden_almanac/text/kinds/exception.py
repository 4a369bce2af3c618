"""Two labels together in words: what they make beside what each alone leads one to expect."""

from __future__ import annotations

from ...findings import Finding
from .. import names, numbers
from ..languages import mark, qualified, say
from ..message import Message

NAME = mark("exception", "kind")


def message(finding: Finding) -> Message:
    f, (one, other) = finding.figures, (names.label_of(by, label) for by, label in finding.where.conditions)
    pct = 100 * (f["ratio"] - 1)
    # What is said of two labels together has no pronoun: "they of Referral with Hired".
    measure = names.measure_name(finding.measure)
    measure = measure.in_plural() if names.many(finding.measure) else measure
    if f["ratio"] >= 2:
        size = say("{times} times", times=numbers.plain(f["ratio"], 2))
    elif pct > 0:
        size = say("{size} above", size=numbers.percent(pct))
    else:
        size = say("{size} below", size=numbers.percent(pct))
    claim = say(
        "{who} {who:was|were} {value}, {size} what the two alone lead one to expect",
        who=qualified(measure, mark("{noun} of {one} with {other}"), one=one, other=other),
        value=numbers.amount(f["value"], finding.measure),
        size=size,
    )
    evidence = say(
        "{other} makes {share} of all {measure}, but {here} of that of {one}, where the other cells lead one to expect "
        "{expected} in all. The two together have {n} rows.",
        one=one,
        other=other,
        measure=measure,
        share=numbers.percent(100 * f["share_of_all"]),
        here=numbers.percent(100 * f["share_of_first"]),
        expected=numbers.amount(f["expected"], finding.measure),
        n=numbers.whole(f["n"]),
    )
    return Message(claim=claim, evidence=evidence)
