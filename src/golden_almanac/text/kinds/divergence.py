"""A departure in words: how far off the path that was to be expected, since when."""

from __future__ import annotations

from ...findings import Finding
from .. import dates, names, numbers
from ..languages import mark, say
from ..message import Message
from ..movement_phrases import others

NAME = mark("divergence", "kind")


def message(finding: Finding) -> Message:
    f, measure, span = finding.figures, finding.measure, finding.period
    assert span is not None
    assert finding.baseline is not None
    each = names.each(measure, names.grain(finding))
    places = {
        "who": names.subject(measure, finding.where),
        "size": numbers.percent(f["change_pct"])
        if f["change_pct"] is not None
        else numbers.difference(f["change"], measure),
        "when": dates.since(span),
        "value": numbers.amount(f["value"], measure) + each,
        "expected": numbers.amount(f["expected"], measure),
    }
    claim = (
        say(
            "{who} {who:has|have} been {size} above {who:its|their} path {when}: {value}, where {expected} was to be "
            "expected",
            **places,
        )
        if f["change"] > 0
        else say(
            "{who} {who:has|have} been {size} below {who:its|their} path {when}: {value}, where {expected} was to be "
            "expected",
            **places,
        )
    )
    ends = {
        name: numbers.per_cent(f[name])
        if f["change_pct"] is not None
        else numbers.signed(f[name], numbers.difference(f[name], measure))
        for name in ("low", "high")
    }
    evidence = say(
        "The path is that of {span} against {others}, which had {rest} meanwhile (95% range of the departure {low} to "
        "{high}; {n} rows).",
        span=dates.span_of(finding.baseline),
        others=others(finding),
        rest=numbers.amount(f["rest"], measure) + each,
        n=numbers.whole(f["n"]),
        **ends,
    )
    return Message(claim=claim, evidence=evidence)
