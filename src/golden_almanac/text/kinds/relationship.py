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
    places = {"first": first, "second": second}
    together = (
        say("{first} and {second} rise and fall together", **places)
        if f["slope"] > 0
        else say("{first} and {second} go opposite ways", **places)
    )
    claim = say("{text} (correlation {r})", text=_bent(together, f["shape"]), r=_r(f["r"]))
    x = finding.candidate.series["x"]
    step = float(x[-1] - x[0]) / max(1, len(x) - 1)
    low, high = _r(f["low"]), _r(f["high"])
    told = {"n": numbers.whole(f["n"]), "low": low, "high": high, "r": _r(f["r_adjusted"])}
    told["grain"] = names.grain_noun(f["within"])
    if f["within"] is None:
        evidence = (
            say("On {n} rows; within the same groups it is {r}.", **told)
            if low == high
            else say("On {n} rows (95% range {low} to {high}); within the same groups it is {r}.", **told)
        )
    else:
        evidence = (
            say("On {n} rows; within the same {grain} and the same groups it is {r}.", **told)
            if low == high
            else say(
                "On {n} rows (95% range {low} to {high}); within the same {grain} and the same groups it is {r}.",
                **told,
            )
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


def _bent(text: str, shape: str) -> str:
    """A text on two columns, with how they depart from a straight line behind it."""
    if shape == "uneven":
        return say("{text}, though not evenly", text=text)
    if shape == "levels off":
        return say("{text}, the more the lower they are", text=text)
    if shape == "sets in late":
        return say("{text}, but only in the upper half", text=text)
    return say("{text}, and the other way round in the upper half", text=text) if shape == "turns" else text


def _r(value: float) -> str:
    return numbers.fixed(value, 2)
