"""An average that moves with its weights in words."""

from __future__ import annotations

from ...findings import Finding
from .. import consistent_rounding, dates, names, numbers
from ..languages import mark, say
from ..message import Message, sentence
from ..suggestions import Suggestion, next_command, side_of

NAME = mark("mix", "kind")


def message(finding: Finding) -> Message:
    f, measure = finding.figures, finding.measure
    assert finding.period is not None
    up = f["change"] > 0
    places = {
        "who": names.subject(measure),
        "size": numbers.difference(f["change"], measure),
        "parts": names.plural(finding.by),
    }
    if f["reversal"]:
        within = numbers.difference(f["within"], measure)
        claim = (
            say(
                "{who} rose {size}, though within the {parts} {who:it|they} fell {within}: the {parts} weigh "
                "otherwise than a "
                "year before",
                within=within,
                **places,
            )
            if up
            else say(
                "{who} fell {size}, though within the {parts} {who:it|they} rose {within}: the {parts} weigh "
                "otherwise than a "
                "year before",
                within=within,
                **places,
            )
        )
        return Message(claim=claim, evidence=_mix_evidence(finding))
    share = min(1.0, f["mix_share"])
    part = say("all of it") if share > 0.95 else say("{share} of that", share=numbers.percent(100 * share))
    claim = (
        say("{who} rose {size} on the year before, {part} because the {parts} weigh otherwise", part=part, **places)
        if up
        else say(
            "{who} fell {size} on the year before, {part} because the {parts} weigh otherwise", part=part, **places
        )
    )
    return Message(claim=claim, evidence=_mix_evidence(finding))


def suggestion(finding: Finding, source: str) -> Suggestion | None:
    f, measure = finding.figures, finding.measure
    if measure is None or f.get("mix") is None:
        return None
    mix, within = consistent_rounding.split([f["mix"], f["within"]], f["change"], measure).texts(signed=True)
    return Suggestion(
        text=say(
            "Report {measure} by {part}, not in all: {mix} of its movement is the weight of the {parts}, {within} what "
            "happened within them.",
            measure=names.measure_name(measure),
            part=names.dimension(finding.by),
            parts=names.plural(finding.by),
            mix=mix,
            within=within,
        ),
        amount=float(f["mix"]),
        reckoned=say("midpoint weights; both parts add up to the change"),
        next_look=next_command(source, finding, "change", *([] if finding.by is None else ["-b", finding.by])),
        finding=finding.id,
        side=side_of(finding),
    )


def _mix_evidence(finding: Finding) -> str:
    f, measure = finding.figures, finding.measure
    assert finding.period is not None
    moved = max(f["parts"], key=lambda one: (abs(one["share"] - one["share_before"]), str(one["label"])))
    rate = moved["after"] if moved["after"] is not None else moved["before"]
    weight = say(
        "{label} went from {share_before} to {share} of all",
        label=names.label_of(finding.by, moved["label"]),
        share_before=numbers.percent(100 * moved["share_before"]),
        share=numbers.percent(100 * moved["share"]),
    )
    through, within = consistent_rounding.split([f["mix"], f["within"]], f["change"], measure).texts(signed=True)
    return say(
        "It went from {before} to {after} ({span}): {through} through the weights, {within} within the {parts}.",
        before=numbers.amount(f["value_before"], measure),
        after=numbers.amount(f["value"], measure),
        span=dates.span_of(finding.period),
        through=through,
        within=within,
        parts=names.plural(finding.by),
    ) + " " + sentence(
        weight if rate is None else say("{text}, at {rate}", text=weight, rate=numbers.amount(rate, measure))
    )  # fmt: skip
