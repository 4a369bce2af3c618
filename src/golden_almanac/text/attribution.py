"""Why a movement came about, as far as the columns tell: mix, volume, or within."""

from __future__ import annotations

from typing import Any

from ..findings import Finding
from . import names, numbers
from .languages import say

#: A part that makes at least so much of a change is called the whole of it.
_NEARLY_ALL, _MOST = 0.85, 0.5


def why(finding: Finding) -> str:
    """One sentence from the finding's `why` figures, or ""."""
    facts: dict[str, Any] | None = finding.figures.get("why")
    if not facts:
        return ""
    return _mix(finding, facts) if facts["how"] == "mix" else _volume(finding, facts)


def _mix(finding: Finding, facts: dict[str, Any]) -> str:
    share = facts["mix"] / facts["change"]
    lead = facts["lead"]
    rows = say(
        "{label} ({measure} {value}) went from {before} to {now} of the {weights}",
        measure=names.measure_name(finding.measure),
        label=names.label(lead["label"]),
        value=numbers.amount(lead["own"], finding.measure),
        before=numbers.percent(100 * lead["weight_before"]),
        now=numbers.percent(100 * lead["weight_now"]),
        weights=names.weights(finding.measure),
    )
    places = {"part": names.dimension(facts["by"]), "parts": names.plural(facts["by"]), "rows": rows}
    down = facts["change"] < 0
    if share >= _NEARLY_ALL:
        within = numbers.percent(max(0.0, 100 * (1 - share)))
        return (
            say(
                "The fall is one of mix, not of any {part} falling: {rows}; the {parts} taken one by one account for "
                "{within}.",
                within=within,
                **places,
            )
            if down
            else say(
                "The rise is one of mix, not of any {part} rising: {rows}; the {parts} taken one by one account for "
                "{within}.",
                within=within,
                **places,
            )
        )
    if share >= _MOST:
        size = numbers.percent(100 * share)
        return (
            say("{size} of the fall is mix between {parts}: {rows}.", size=size, **places)
            if down
            else say("{size} of the rise is mix between {parts}: {rows}.", size=size, **places)
        )
    return ""


def _volume(finding: Finding, facts: dict[str, Any]) -> str:
    if facts["rows"] == facts["rows_before"]:
        # A table of totals, which has a row for each: nobody asks about their number.
        return ""
    volume, up = facts["volume"] / facts["change"], facts["change"] > 0
    pct = 100 * (facts["rows"] / facts["rows_before"] - 1)
    places = {"name": names.measure_name(finding.measure), "rows": numbers.per_cent(pct)}
    if volume >= _NEARLY_ALL:
        return (
            say("The rise went with more rows ({rows}), not with {name} per row.", **places)
            if up
            else say("The fall went with fewer rows ({rows}), not with {name} per row.", **places)
        )
    if volume <= 1 - _NEARLY_ALL:
        return (
            say("The rise went with more {name} per row, not with the number of rows ({rows}).", **places)
            if up
            else say("The fall went with less {name} per row, not with the number of rows ({rows}).", **places)
        )
    size = numbers.percent(100 * volume)
    return (
        say("More rows ({rows}) account for {size} of the rise, {name} per row for the rest.", size=size, **places)
        if up
        else say(
            "Fewer rows ({rows}) account for {size} of the fall, {name} per row for the rest.", size=size, **places
        )
    )
