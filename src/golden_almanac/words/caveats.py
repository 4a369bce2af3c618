"""What a reader must know of the data, as sentences."""

from __future__ import annotations

from typing import Any

from . import names, numbers


def sentence(name: str, facts: dict[str, Any]) -> str:
    """The sentence for one caveat of a scan (see `core.scanning.caveats`)."""
    if name == "partial last period":
        grain = facts["period"].grain
        which = names.month(facts["last"]) if grain == "month" else f"The last {grain}"
        return (
            f"{which} is unfinished (data end on {names.day(facts['last'])}) and is left out of trends and comparisons."
        )
    if name == "fiscal years":
        span = facts["year"]
        return f"F{names.year(span)[1:]} is {names.span_of(span)}; other fiscal years accordingly."
    if name == "partial first period":
        return f"The first {facts['period'].grain} is incomplete and is left out of trends and comparisons."
    if name == "rows without a date":
        return (
            f"{numbers.whole(facts['rows'])} rows have no {facts['column']} and are left out of everything over time."
        )
    if name == "empty periods":
        count = facts["periods"]
        return f"{numbers.whole(count)} {facts['grain']}{'s' if count != 1 else ''} within the data hold no rows."
    if name == "few periods":
        count = facts["periods"]
        return (
            f"There {'are' if count != 1 else 'is'} only {numbers.whole(count)} complete {facts['grain']}"
            f"{'s' if count != 1 else ''}, too few to tell a trend from chance."
        )
    if name == "baseline begins late":
        return f"The data begin on {names.day(facts['first'])}, within the baseline, which is therefore incomplete."
    assert name == "no time"
    hint = f" ({names.listed(facts['columns'])} holds text)" if facts["columns"] else ""
    return f"No column holds dates{hint}, so nothing is said about change over time."
