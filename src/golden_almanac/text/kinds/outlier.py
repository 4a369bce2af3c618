"""One row in words: its value beside what is usual, and the error it looks like."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ...findings import Finding
from ...sql.expressions import quote_name
from ...support.shell import suggested
from .. import consistent_rounding, names, numbers
from ..languages import mark, say, statement
from ..message import Message
from ..suggestions import Suggestion

NAME = mark("outlier", "kind")
#: Numbers from here on are worked out from what a row holds: nobody sees them beside it.
_NUMBERED = 10**12


def message(finding: Finding) -> Message:
    f = finding.figures
    times = f["times_typical"]
    size = (
        say("{times} times what is usual", times=numbers.plain(times, 2))
        if times is not None and times > 1
        else say("far from the usual {typical}", typical=numbers.plain(f["typical"]))
    )
    if finding.where.conditions:
        size = say("{size} for {label}", size=size, label=names.where_label(finding.where))
    name = names.column(f["column"])
    places = {"row": _row(f), "name": name, "value": numbers.amount(f["value"], finding.measure), "size": size}
    claim = (
        say("row {row} has an {name} of {value}, {size}", **places)
        if name[:1].lower() in "aeiou"
        else say("row {row} has a {name} of {value}, {size}", **places)
    )
    return Message(claim=claim, evidence=_outlier_evidence(finding))


def _row(f: Mapping[str, Any]) -> str:
    """What a row is known by: its number in the file; on a server, where rows have none, its key."""
    if f["row"] < _NUMBERED:
        return numbers.whole(f["row"])
    return str(f["key"]) if f["key"] is not None else f"{f['row']:x}"


def suggestion(finding: Finding, source: str) -> Suggestion | None:
    f = finding.figures
    off = float(f["value"]) - float(f["typical"])
    measure = finding.measure if finding.measure and not finding.measure.share else None
    told = consistent_rounding.stairs(float(f["typical"]), [off], float(f["value"]), measure)
    return Suggestion(
        text=say(
            "Check row {row} before anything is sent: {name} {value} ({fault}) moves every total it is in by about "
            "{size}.",
            row=_row(f),
            name=names.column(f["column"]),
            value=numbers.amount(f["value"], measure),
            fault=fault(f),
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
    places = {"fault": _placed(names.capital(fault(f)), finding), "low": low, "high": high}
    return (
        say(
            "{fault}; usual values lie between {low} and {high}, the next largest is {following}.",
            following=following,
            **places,
        )
        if f["value"] >= f["typical"]
        else say(
            "{fault}; usual values lie between {low} and {high}, the next smallest is {following}.",
            following=following,
            **places,
        )
    )


def fault(f: Mapping[str, Any]) -> str:
    """The error that a row looks like."""
    factor = f.get("fault_factor")
    if factor is not None and factor < 1:
        return say("it looks keyed {factor} times too small", factor=round(1 / factor))
    if factor is not None:
        return say("it looks keyed {factor} times too large", factor=round(factor))
    if f["fault"] == "sign":
        return say("its sign looks turned round")
    return say("nothing shows that it is an error, but nothing else comes near it")


def _placed(text: str, finding: Finding) -> str:
    """A text with the key and the date of the row behind it: "… (sailing 4711, 2025-03-04)"."""
    f = finding.figures
    told = [f"{names.column(f['key_column'])} {f['key']}"] if f["key"] else []
    told += [str(f["date"])] if f["date"] else []
    return statement((text, f" ({', '.join(told)})")) if told else text
