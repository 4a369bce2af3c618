"""A group set against its siblings in words."""

from __future__ import annotations

from ...aggregation.measures import Measure
from ...findings import Finding
from ...support.shell import suggested
from .. import names, numbers
from ..languages import mark, say
from ..message import Message
from ..movement_phrases import others
from ..suggestions import Suggestion, better, next_command

NAME = mark("difference", "kind")
_MOST_DIGITS = 8


def message(finding: Finding) -> Message:
    f, measure = finding.figures, finding.measure
    values = _told_apart(f["value"], f["rest"], measure)
    answers = _of_two_answers(finding)
    other = _only_other(finding)
    claim = (
        say(
            "{who} {who:is|are} {value}, against {rest} for {label}",
            who=names.subject(measure, finding.where),
            label=names.label(other),
            **values,
        )
        if other is not None
        else say(
            "{who} {who:is|are} {value}, against {rest} for {others}",
            who=names.subject(measure, finding.where),
            others=others(finding),
            **values,
        )
        if answers is None
        else say(
            "{who} {who:is|are} {value} where {column} is {label}, against {rest} where it is {other}",
            who=names.subject(measure),
            column=names.column(finding.by or ""),
            label=answers[0],
            other=answers[1],
            **values,
        )
    )
    side = 1 if f["gap"] > 0 else -1
    low, high = sorted((side * f["gap_low"], side * f["gap_high"]))
    places = {
        "gap": numbers.difference(f["gap"], measure),
        "low": _bare(low, finding),
        "high": numbers.difference(high, measure),
        "n": numbers.whole(f["n"]),
        "share": numbers.percent(100 * f["share"]),
    }
    evidence = (
        say("That is {gap} more (95% range {low} to {high}), on {n} rows, {share} of all.", **places)
        if f["gap"] > 0
        else say("That is {gap} less (95% range {low} to {high}), on {n} rows, {share} of all.", **places)
    )
    return Message(claim=claim, evidence=evidence)


def _told_apart(value: float, rest: float, measure: Measure | None) -> dict[str, str]:
    """Two amounts with as many digits as tell them apart."""
    for digits in range(3, _MOST_DIGITS + 1):
        told = {name: numbers.amount(one, measure, digits) for name, one in (("value", value), ("rest", rest))}
        if told["value"] != told["rest"]:
            break
    return told


def _only_other(finding: Finding) -> str | None:
    """The only label beside that of a finding, where both stand by themselves: control beside variant."""
    labels = finding.candidate.series["labels"]
    if finding.candidate.series.get("in_all", len(labels)) != 2:
        return None
    own = finding.where.conditions[-1][1]
    parent = finding.candidate.series.get("parent")
    if len(finding.where.conditions) > 1 or len(labels) != 2 or (parent is not None and parent.conditions):
        return None
    other = next((label for label in labels if label != own), None)
    return None if other is None or names.bare(other) or names.bare(own) else str(other)


def _of_two_answers(finding: Finding) -> tuple[str, str] | None:
    """The label of a finding and the only other one of its column, where both say nothing without it: yes and no, 1 and
    0; None for others."""
    labels = finding.candidate.series["labels"]
    own = finding.where.conditions[-1][1]
    if len(finding.where.conditions) > 1 or len(labels) != 2 or not all(names.bare(label) for label in labels):
        return None
    other = next(label for label in labels if label != own)
    return names.answer(own), names.answer(other)


def suggestion(finding: Finding, source: str) -> Suggestion | None:
    f, measure = finding.figures, finding.measure
    if measure is None or f.get("weight") is None or f.get("gap") is None:
        return None
    way = better(finding)
    gap = float(f["gap"])
    worse = way is not None and (gap > 0) == (way == "down")
    # A gap in what comes of one is as many times that as there are: rows of an average, orders of complaints per order.
    n = float(f["weight"])
    total = gap * n / measure.factor
    places = {
        "label": names.where_label(finding.where),
        "others": names.the_others(finding.by, None, (), finding.where),
        "gap": numbers.difference(gap, measure),
        "measure": names.measure_name(measure),
    }
    reckoned = say("{gap} × {n} rows", gap=numbers.difference(gap, measure, digits=6), n=numbers.whole(n))
    if measure.kind == "ratio":
        reckoned = say(
            "{gap} × {n} ({column})",
            gap=numbers.difference(gap / measure.factor, None, digits=6),
            n=numbers.plain(n),
            column=names.weights(measure),
        )
    if worse:
        what = (
            say("{n} rows", n=numbers.plain(abs(total)))
            if measure.share
            else say("{size} ({column})", size=numbers.plain(abs(total)), column=names.counted(measure))
            if measure.kind == "ratio"
            else say("{size} in all", size=numbers.difference(total, measure))
        )
        if way == "down":
            text = say("Look at {label} first: were it like {others}, it would spare {what}.", what=what, **places)
        elif measure.share or measure.kind == "ratio":
            text = say("Look at {label} first: were it like {others}, it would gain {what}.", what=what, **places)
        else:
            # Nobody adds up marks.
            text = say("Look at {label} first: it is {gap} behind {others} in {measure}.", **places)
    elif way is not None:
        text = say("Learn from {label}: {others} are {gap} behind it in {measure}.", **places)
    else:
        text = say("Ask why {label} differs from {others} by {gap} in {measure}.", **places)
    column = finding.figures.get("column") or next((part.column for part in measure.parts if part.column), None)
    where = [] if finding.condition is None else ["-w", finding.condition]
    look = suggested("drivers", source, "--outcome", column, *where) if column else next_command(source, finding)
    return Suggestion(
        text=text,
        amount=total,
        reckoned=reckoned,
        next_look=look,
        finding=finding.id,
        side="decline" if worse else "improvement" if way is not None else "data",
    )


def _bare(low: float, finding: Finding) -> str:
    """The lower end of a range, without the unit that the upper end says; below nought with its sign."""
    size = numbers.difference(low, finding.measure).replace("\u00a0", " ").split(" ")[0]
    return "\u2212" + size if low < 0 else size
