"""What stands on every page beside its findings: headings, names of columns, notes on how to check."""

from __future__ import annotations

from collections.abc import Sequence

from .languages import mark, say

#: Names that columns of figures have, where they are the house's and not the reader's own.
_COLUMNS = (
    mark("period", "column"),
    mark("value", "column"),
    mark("fitted", "column"),
    mark("figure", "column"),
    mark("change", "column"),
    mark("rows", "column"),
    mark("from", "column"),
    mark("to", "column"),
    mark("low", "column"),
    mark("high", "column"),
    mark("component", "column"),
    mark("step", "column"),
    mark("predicted", "column"),
    mark("outcome", "column"),
    mark("error", "column"),
    mark("factor", "column"),
    mark("segment", "column"),
    mark("effect", "column"),
    mark("by itself", "column"),
    mark("median", "column"),
    mark("mean", "column"),
    mark("beyond", "column"),
    mark("term", "column"),
    mark("unadjusted", "column"),
    mark("what", "column"),
)


def column(name: str) -> str:
    """The name of a column of figures; one that is not the house's stays as it is."""
    return say(name.replace("{", "(").replace("}", ")"), "column") if name in _COLUMNS else name


def heading(which: str) -> str:
    """The headings of a page: found, bear in mind, made, check, figures, evidence, summary."""
    return {
        "steps": say("What to do next"),
        "further": say("Also found"),
        "caveats": say("To bear in mind"),
        "made": say("How it was made"),
        "check": say("How to check"),
        "figures": say("Figures drawn"),
        "contents": say("Contents"),
        "summary": say("Summary"),
        "evidence": say("Evidence"),
        "closing": say("To bear in mind, and how it was made"),
        "attached": say("The whole report is attached."),
        "all": say("All"),
        "total": say("Total"),
        "claim": say("What was found"),
        "live": say("As the figures of its sheet say now"),
        "query": say("Query over the source rows"),
        "gives": say("What it gives"),
        "keys": say("Key figures"),
        "every": say("All findings"),
        "filter": say("Show those with"),
        "kind": say("Kind"),
        "about": say("Part"),
        "score": say("Score"),
        "link": say("Link to this finding"),
        "print": say("Print this section"),
        "print short": say("PRINT"),
        # The page puts the format in.
        "take": say("Download this chart as {format}", format="{format}"),
        "beside": say("Beside"),
        "none": say("none"),
        "missing": say("This combination is not on the page."),
    }[which]


def verdict(good: bool) -> str:
    """Whether a finding is for the better, where the reader said what is."""
    return say("That is for the better.") if good else say("That is for the worse.")


def given(expect: Sequence[tuple[str, str]]) -> str:
    """What a query gives: "n = 12, mean = 3.4"."""
    return ", ".join(f"{name} = {value}" for name, value in expect)


def to_check(expect: Sequence[tuple[str, str]]) -> str:
    """The sentence before a query."""
    return say("Run over the source rows, this gives {given}:", given=given(expect))


def more(number: int) -> str:
    return say("… {n} more", n=number)
