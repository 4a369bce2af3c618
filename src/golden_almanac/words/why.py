"""Why a movement came about, as far as the columns tell: mix, volume, or within."""

from __future__ import annotations

from typing import Any

from ..core.findings import Finding
from . import names, numbers

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
    word = names.dimension(facts["by"])
    rows = f"{_label(lead['label'])} ({numbers.amount(lead['own'], finding.measure)}) went from "
    rows += f"{numbers.percent(100 * lead['weight_before'])} to {numbers.percent(100 * lead['weight_now'])} of the "
    rows += names.weights(finding.measure)
    verb = "fall" if facts["change"] < 0 else "rise"
    if share >= _NEARLY_ALL:
        worse = "falling" if facts["change"] < 0 else "rising"
        within = numbers.percent(max(0.0, 100 * (1 - share)))
        own = f"the {names.plural(facts['by'])} taken one by one account for {within}"
        return f"The {verb} is one of mix, not of any {word} {worse}: {rows}; {own}."
    if share >= _MOST:
        return f"{numbers.percent(100 * share)} of the {verb} is mix between {names.plural(facts['by'])}: {rows}."
    return ""


def _volume(finding: Finding, facts: dict[str, Any]) -> str:
    whole = facts["change"]
    volume = facts["volume"] / whole
    verb = "rise" if whole > 0 else "fall"
    more = "more" if whole > 0 else "fewer"
    name = names.measure_name(finding.measure)
    if volume >= _NEARLY_ALL:
        return f"The {verb} went with {more} rows ({_rows(facts)}), not with {name} per row."
    if volume <= 1 - _NEARLY_ALL:
        size = "more" if whole > 0 else "less"
        return f"The {verb} went with {size} {name} per row, not with the number of rows ({_rows(facts)})."
    return (
        f"{names.capital(more)} rows ({_rows(facts)}) account for {numbers.percent(100 * volume)} of the {verb}, "
        f"{name} per row for the rest."
    )


def _rows(facts: dict[str, Any]) -> str:
    pct = 100 * (facts["rows"] / facts["rows_before"] - 1)
    return numbers.signed(pct, numbers.percent(pct))


def _label(label: str | None) -> str:
    return "(no value)" if label is None else label
