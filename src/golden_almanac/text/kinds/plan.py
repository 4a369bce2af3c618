"""What was beside its plan in words: how far off, since when, and where most."""

from __future__ import annotations

from ...findings import Finding
from .. import dates, names, numbers
from ..languages import mark, say
from ..message import Message
from ..suggestions import Suggestion, next_command, side_of

NAME = mark("plan", "kind")


def message(finding: Finding) -> Message:
    f, measure, span = finding.figures, finding.measure, finding.period
    assert measure is not None
    assert span is not None
    places = {
        "who": names.subject(measure, finding.where),
        "size": numbers.percent(f["gap_pct"]),
        "plan": names.label(f["plan"]),
        "when": dates.since(span) if f["since"] else dates.during(span),
    }
    up = f["gap"] > 0
    if f["since"]:
        claim = (
            say("{who} {who:has|have} been {size} above {plan} {when}", **places)
            if up
            else say("{who} {who:has|have} been {size} below {plan} {when}", **places)
        )
    else:
        claim = (
            say("{who} {who:was|were} {size} above {plan} {when}", **places)
            if up
            else say("{who} {who:was|were} {size} below {plan} {when}", **places)
        )
    most = f["most"]
    if most is not None:
        claim = say(
            "{claim}, most of it in {label} ({size})",
            claim=claim,
            label=names.label_of(most["by"], most["label"]),
            size=numbers.per_cent(most["gap_pct"]),
        )
    ends = {
        "value": numbers.amount(f["value"], measure),
        "planned": numbers.amount(f["planned"], measure),
        "gap": numbers.signed(f["gap"], numbers.difference(f["gap"], measure)),
    }
    evidence = (
        say("That is {value} against {planned} ({gap}).", **ends)
        if f["before_pct"] is None
        else say(
            "That is {value} against {planned} ({gap}); before, it was {before}.",
            before=numbers.per_cent(f["before_pct"]),
            **ends,
        )
    )
    return Message(claim=claim, evidence=evidence)


def suggestion(finding: Finding, source: str) -> Suggestion | None:
    f, measure, span = finding.figures, finding.measure, finding.period
    if measure is None or span is None or f.get("gap") is None:
        return None
    places = {
        "who": names.subject(measure, finding.where),
        "plan": names.label(f["plan"]),
        "size": numbers.difference(f["gap"], measure),
    }
    return Suggestion(
        text=say("Find why {who} {who:lies|lie} above {plan}: {size} so far.", **places)
        if f["gap"] > 0
        else say("Find why {who} {who:lies|lie} below {plan}: {size} so far.", **places),
        amount=float(f["gap"]),
        reckoned=say(
            "{value} − {planned}",
            value=numbers.amount(f["value"], measure),
            planned=numbers.amount(f["planned"], measure),
        ),
        next_look=next_command(source, finding, "change", "--baseline", str(f["plan"])),
        finding=finding.id,
        side=side_of(finding),
    )
