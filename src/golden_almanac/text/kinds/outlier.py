"""One row in words: its value beside what is usual, and the error it looks like."""

from __future__ import annotations

from ...findings import Finding
from ...sql.expressions import quote_name
from ...support.shell import suggested
from .. import consistent_rounding, names, numbers
from ..languages import mark, say
from ..message import Message
from ..suggestions import Suggestion

NAME = mark("outlier", "kind")


def message(finding: Finding) -> Message:
    f = finding.figures
    times = f["times_typical"]
    typical, inside = numbers.plain(f["typical"]), ""
    if finding.where.conditions:
        inside = say(" for {label}", label=names.where_label(finding.where))
    size = (
        say("{times} times what is usual{inside}", times=numbers.plain(times, 2), inside=inside)
        if times is not None and times > 1
        else say("far from the usual {typical}{inside}", typical=typical, inside=inside)
    )
    name = names.column(f["column"])
    places = {
        "row": numbers.whole(f["row"]),
        "name": name,
        "value": numbers.amount(f["value"], finding.measure),
        "size": size,
    }
    claim = (
        say("row {row} has an {name} of {value}, {size}", **places)
        if name[:1].lower() in "aeiou"
        else say("row {row} has a {name} of {value}, {size}", **places)
    )
    return Message(claim=claim, evidence=_outlier_evidence(finding))


def suggestion(finding: Finding, source: str) -> Suggestion | None:
    f = finding.figures
    off = float(f["value"]) - float(f["typical"])
    measure = finding.measure if finding.measure and not finding.measure.share else None
    told = consistent_rounding.stairs(float(f["typical"]), [off], float(f["value"]), measure)
    return Suggestion(
        text=say(
            "Check row {row} before anything is sent: {name} {value}{fault} moves every total it is in by about "
            "{size}.",
            row=numbers.whole(f["row"]),
            name=names.column(f["column"]),
            value=numbers.amount(f["value"], measure),
            fault=f" ({fault(str(f['fault']))})" if f.get("fault") else "",
            size=numbers.plain(abs(off)),
        ),
        amount=off,
        reckoned=say("{value} − {typical} (median)", value=told.end, typical=told.start),
        next_look=suggested(
            "check", source, "--sql", f"SELECT * FROM source WHERE {quote_name(f['column'])} = {f['value']!r}"
        ),
        finding=finding.id,
        side="data",
    )


def _outlier_evidence(finding: Finding) -> str:
    f = finding.figures
    low, high, following = (
        numbers.amount(f[name], finding.measure) for name in ("expected_low", "expected_high", "next_value")
    )
    places = {"fault": names.capital(fault(str(f["fault"]))), "place": _place(finding), "low": low, "high": high}
    return (
        say(
            "{fault}{place}; usual values lie between {low} and {high}, the next largest is {following}.",
            following=following,
            **places,
        )
        if f["value"] >= f["typical"]
        else say(
            "{fault}{place}; usual values lie between {low} and {high}, the next smallest is {following}.",
            following=following,
            **places,
        )
    )


def fault(name: str) -> str:
    """The error that a row looks like."""
    factor = name.removeprefix("factor of ")
    if name.startswith("factor of 1/"):
        return say("it looks keyed {factor} times too small", factor=factor.removeprefix("1/"))
    if name.startswith("factor"):
        return say("it looks keyed {factor} times too large", factor=factor)
    if name == "sign":
        return say("its sign looks turned round")
    return say("nothing shows that it is an error, but nothing else comes near it")


def _place(finding: Finding) -> str:
    """The key and the date of a row: " (sailing 4711, 2025-03-04)"."""
    f = finding.figures
    told = [f"{names.column(f['key_column'])} {f['key']}"] if f["key"] else []
    told += [str(f["date"])] if f["date"] else []
    return f" ({', '.join(told)})" if told else ""
