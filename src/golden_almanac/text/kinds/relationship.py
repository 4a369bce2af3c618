"""Two columns that go together in words."""

from __future__ import annotations

from ...findings import Finding
from .. import names, numbers
from ..languages import mark, say
from ..message import Message

NAME = mark("relationship", "kind")


def message(finding: Finding) -> Message:
    f = finding.figures
    first, second = (names.column(name) for name in f["columns"])
    places = {"first": first, "second": second, "shape": _bent(f["shape"]), "r": _r(f["r"])}
    claim = (
        say("{first} and {second} rise and fall together{shape} (correlation {r})", **places)
        if f["slope"] > 0
        else say("{first} and {second} go opposite ways{shape} (correlation {r})", **places)
    )
    x = finding.candidate.series["x"]
    step = float(x[-1] - x[0]) / max(1, len(x) - 1)
    low, high = _r(f["low"]), _r(f["high"])
    told = {"n": numbers.whole(f["n"]), "low": low, "high": high, "r": _r(f["r_adjusted"])}
    evidence = (
        say("On {n} rows; within the same week and the same groups it is {r}.", **told)
        if low == high
        else say("On {n} rows (95% range {low} to {high}); within the same week and the same groups it is {r}.", **told)
    )
    more = {
        "step": numbers.plain(step),
        "first": first,
        "size": numbers.plain(abs(f["slope"] * step)),
        "second": second,
    }
    caution = (
        say(
            "Rows with {step} more {first} have {size} more {second} on average, which is no proof that the one "
            "makes the "
            "other.",
            **more,
        )
        if f["slope"] > 0
        else say(
            "Rows with {step} more {first} have {size} less {second} on average, which is no proof that the one "
            "makes the "
            "other.",
            **more,
        )
    )
    return Message(claim=claim, evidence=evidence, qualification=caution)


def _bent(shape: str) -> str:
    if shape == "uneven":
        return say(", though not evenly")
    if shape == "levels off":
        return say(", the more the lower they are")
    if shape == "sets in late":
        return say(", but only in the upper half")
    return say(", and the other way round in the upper half") if shape == "turns" else ""


def _r(value: float) -> str:
    return numbers.fixed(value, 2)
