"""A ranking in words: who leads, who is last, who climbed."""

from __future__ import annotations

from ...findings import Finding
from .. import dates, names, numbers
from ..languages import count, joined, mark, say, statement
from ..message import Message

NAME = mark("ranking", "kind")
#: From so many times as much on nobody reads percent.
_TIMES = 5.0


#: Places told in the order of a ranking.
_TOLD = 5


def message(finding: Finding) -> Message:
    f = finding.figures
    if f["what"] == "climbed":
        return Message(claim=_climbed(finding), evidence=_climbed_evidence(finding))
    places = {"parts": names.plural(finding.by), "measure": names.measure_name(finding.measure)}
    if f["what"] == "last":
        claim = say(
            "{label} is last of {n} {parts} in {measure}: {share} of the total, {less} less than {other}",
            label=names.where_label(finding.where),
            n=len(f["order"]),
            share=numbers.percent(100 * f["share"]),
            less=numbers.percent(f["lead_pct"]),
            other=names.label_of(finding.by, f["other"]),
            **places,
        )
        return Message(claim=claim, evidence=_order(finding))
    first = {
        "label": names.label_of(finding.by, f["order"][0]),
        "share": numbers.percent(100 * f["shares"][0]),
        "other": names.label_of(finding.by, f["order"][1]),
    }
    times = 1 + f["lead_pct"] / 100
    rows = numbers.percent(100 * f["row_share"]) if f["by_rows"] else None
    if rows is not None and times >= _TIMES:
        claim = say(
            "{label} leads the {parts} in {measure}: {share} of the total, {times} times as much as {other}, with "
            "{rows} of the rows",
            times=numbers.plain(times, 2),
            rows=rows,
            **first,
            **places,
        )
    elif rows is not None:
        claim = say(
            "{label} leads the {parts} in {measure}: {share} of the total, {more} more than {other}, with {rows} of "
            "the rows",
            more=numbers.percent(f["lead_pct"]),
            rows=rows,
            **first,
            **places,
        )
    elif times >= _TIMES:
        claim = say(
            "{label} leads the {parts} in {measure}: {share} of the total, {times} times as much as {other}",
            times=numbers.plain(times, 2),
            **first,
            **places,
        )
    else:
        claim = say(
            "{label} leads the {parts} in {measure}: {share} of the total, {more} more than {other}",
            more=numbers.percent(f["lead_pct"]),
            **first,
            **places,
        )
    told = [_order(finding)]
    if f["lead_low_pct"] is not None and f["lead_low_pct"] > 0:
        low, high = (numbers.percent(f[which]) for which in ("lead_low_pct", "lead_high_pct"))
        told.append(say("Period by period the lead averaged {low} to {high} (95% range).", low=low, high=high))
    told += [
        say(
            "{label} climbed from place {before} to {after} within a year.",
            label=names.label_of(finding.by, one["label"]),
            before=one["from"],
            after=one["to"],
        )
        for one in f["climbers"][:1]
    ]
    return Message(claim=claim, evidence=joined(" ", told), context=_per_row(finding))


def _per_row(finding: Finding) -> str:
    """What a lead is made of, where it is not rows alone."""
    f = finding.figures
    if f["row_share"] is None or f["by_rows"]:
        return ""
    places = {
        "rows": numbers.percent(100 * f["row_share"]),
        "measure": names.measure_name(finding.measure),
        "other": names.label_of(finding.by, f["order"][1]),
        "size": numbers.percent(abs(f["per_row_pct"])),
    }
    if f["per_row_pct"] >= 100 * (_TIMES - 1):
        times = numbers.plain(1 + f["per_row_pct"] / 100, 2)
        return say(
            "It has {rows} of the rows, and {times} times the {measure} per row of {other}.", times=times, **places
        )
    if f["per_row_pct"] > 0:
        return say("It has {rows} of the rows, and {size} more {measure} per row than {other}.", **places)
    return say("It has {rows} of the rows, and {size} less {measure} per row than {other}.", **places)


def _climbed(finding: Finding) -> str:
    f = finding.figures
    return say(
        "{label} climbed from place {before} to {after} of the {parts} in {measure} within a year, past {passed}",
        label=names.where_label(finding.where),
        before=f["from"],
        after=f["to"],
        parts=names.plural(finding.by),
        measure=names.measure_name(finding.measure),
        passed=names.listed([names.label_of(finding.by, one) for one in f["passed"][:3]]),
    )


def _climbed_evidence(finding: Finding) -> str:
    f = finding.figures
    assert finding.period is not None
    value, other = (numbers.amount(f[which], finding.measure) for which in ("value", "other_value"))
    return say(
        "Over {span} it made {value}, {more} more than {label} ({other}).",
        span=dates.span_of(finding.period),
        value=value,
        more=numbers.percent(f["lead_pct"]),
        label=names.label_of(finding.by, f["other"]),
        other=other,
    )


def _order(finding: Finding) -> str:
    f = finding.figures
    told = joined(
        ", ",
        [
            statement(
                (
                    names.label_of(finding.by, label),
                    ": " if names.bare(label) else " ",
                    numbers.amount(value, finding.measure),
                )
            )
            for label, value in list(zip(f["order"], f["values"], strict=True))[:_TOLD]
        ],
    )
    more = len(f["order"]) - _TOLD
    if more > 0:
        return count(more, "In order: {told} and {n} more.", "In order: {told} and {n} more.", told=told, n=more)
    return say("In order: {told}.", told=told)
