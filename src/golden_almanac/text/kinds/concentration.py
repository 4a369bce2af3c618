"""A concentration in words: who makes most, and what an even share would be."""

from __future__ import annotations

from ...findings import Finding
from .. import names, numbers
from ..languages import count, joined, mark, say
from ..message import Message
from ..suggestions import Suggestion, next_command

NAME = mark("concentration", "kind")


def message(finding: Finding) -> Message:
    f = finding.figures
    top = f["top"]
    places = {
        "n": f["labels"],
        "parts": names.plural(finding.by),
        "share": numbers.percent(100 * f["share"]),
        "measure": names.measure_name(finding.measure),
    }
    rows = numbers.percent(100 * f["row_share"]) if f["by_rows"] else None
    if len(top) == 1 and rows is not None:
        claim = say(
            "{who} of {n} {parts} makes {share} of {measure}, with {rows} of the rows",
            who=names.label_of(finding.by, top[0]),
            rows=rows,
            **places,
        )
    elif len(top) == 1:
        claim = say("{who} of {n} {parts} makes {share} of {measure}", who=names.label_of(finding.by, top[0]), **places)
    else:
        who = names.listed([names.label_of(finding.by, label) for label in top]) if len(top) <= 3 else str(len(top))
        if rows is not None:
            claim = say(
                "{who} of {n} {parts} make {share} of {measure}, with {rows} of the rows", who=who, rows=rows, **places
            )
        else:
            claim = say("{who} of {n} {parts} make {share} of {measure}", who=who, **places)
    return Message(claim=claim, evidence=_even(finding))


def suggestion(finding: Finding, source: str) -> Suggestion | None:
    f, measure = finding.figures, finding.measure
    if measure is None or not f.get("top"):
        return None
    places = {
        "top": names.listed([names.label_of(finding.by, label) for label in f["top"][:3]]),
        "share": numbers.percent(100 * f["share"]),
        "measure": names.measure_name(measure),
    }
    return Suggestion(
        text=say("Secure {top}: {share} of {measure} hangs on it.", **places)
        if len(f["top"]) == 1
        else say("Secure {top}: {share} of {measure} hangs on them.", **places),
        amount=float(f["share"]),
        reckoned=say("{share} of the sum of {measure}", **places),
        next_look=next_command(source, finding),
        finding=finding.id,
        side="data",
    )


def _even(finding: Finding) -> str:
    f = finding.figures
    told = [
        count(
            f["half"],
            "An even share would be {even}; {half} of them makes half.",
            "An even share would be {even}; {half} of them make half.",
            even=numbers.percent(100 * f["even_share"]),
            half=f["half"],
        )
    ]
    now, then = f["share_last_year"], f["share_year_before"]
    if now is not None and then is not None:
        places = {"n": len(f["top"]), "share": numbers.percent(100 * now), "points": numbers.points(100 * (now - then))}
        if abs(now - then) <= 0.005:
            told.append(say("In the last year the top {n} of the year made {share}.", **places))
        elif now > then:
            told.append(
                say(
                    "In the last year the top {n} of the year made {share}, {points} more than in the year before.",
                    **places,
                )
            )
        else:
            told.append(
                say(
                    "In the last year the top {n} of the year made {share}, {points} less than in the year before.",
                    **places,
                )
            )
    return joined(" ", told)
