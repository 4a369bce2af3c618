"""How the values of a column lie, in words."""

from __future__ import annotations

from ...findings import Finding
from .. import names, numbers
from ..languages import mark, say
from ..message import Message

NAME = mark("distribution", "kind")


def message(finding: Finding) -> Message:
    f, measure = finding.figures, finding.measure
    name, n = names.column(f["column"]), numbers.whole(f["n"])
    median = numbers.amount(f["median"], measure)
    if f["shape"] == "heaps":
        claim = say(
            "{share} of the values of {name} are multiples of {step}, {times} times the even share",
            share=numbers.percent(100 * f["on_step"]),
            name=name,
            step=numbers.plain(f["step"]),
            times=numbers.plain(f["on_step"] / f["even_share"], 2),
        )
        even = numbers.percent(100 * f["even_share"])
        evidence = say("As if estimated, not measured; an even share would be {even} (on {n} rows).", even=even, n=n)
        return Message(claim=claim, evidence=evidence)
    if f["shape"] == "two humps":
        first, second = (numbers.amount(f[hump], measure) for hump in ("first_hump", "second_hump"))
        by = f["divided_by"]
        claim = say(
            "{name} has more than one usual size, such as {first} and {second}, with few rows between them",
            name=name,
            first=first,
            second=second,
        )
        if by:
            claim = say("{text}; the {part} tells which", text=claim, part=names.dimension(by))
        evidence = say(
            "An average over all describes none of them: {below} of the rows lie below about {valley} (on {n} rows); "
            "the "
            "median is {median}.",
            below=numbers.percent(100 * f["below"]),
            valley=numbers.amount(f["valley"], measure),
            n=n,
            median=median,
        )
        return Message(claim=claim, evidence=evidence)
    share = numbers.percent(100 * f["top_share"])
    claim = say("a tenth of the rows make {share} of {name}", share=share, name=name)
    evidence = say(
        "Those rows have {cut} or more each, while the median is {median} (on {n} rows). An average says little of a "
        "usual "
        "row.",
        cut=numbers.amount(f["top_from"], measure),
        median=median,
        n=n,
    )
    return Message(claim=claim, evidence=evidence)
