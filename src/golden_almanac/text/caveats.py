"""What a reader must know of the data, as sentences."""

from __future__ import annotations

from typing import Any

from ..analysis.change import Missing
from . import dates, names, numbers, problem_sentences
from .languages import count, say


def sentence(name: str, facts: dict[str, Any]) -> str:
    """The sentence for one caveat of a scan (see `core.scanning.caveats`)."""
    if name == "partial last period":
        grain = facts["period"].grain
        day = dates.day(facts["last"])
        if grain == "month":
            return say(
                "{month} is unfinished (data end on {day}) and is left out of trends and comparisons.",
                month=names.capital(dates.month(facts["last"])),
                day=day,
            )
        return say(
            "The last {grain} is unfinished (data end on {day}) and is left out of trends and comparisons.",
            grain=names.grain_noun(str(grain)),
            day=day,
        )
    if name == "thin last period":
        rows, least, looked_at = facts["rows"]
        return say(
            "{period} has {rows} rows, each of the {n} before it at least {least}: it looks unfinished and is left out "
            "of trends and comparisons.",
            period=names.capital(dates.period(facts["period"])),
            rows=numbers.whole(rows),
            n=looked_at,
            least=numbers.whole(least),
        )
    if name == "fiscal years":
        span = facts["year"]
        return say(
            "{year} is {span}; other fiscal years accordingly.",
            year=names.capital(dates.year(span)),
            span=dates.span_of(span),
        )
    if name == "partial first period":
        return say(
            "The first {grain} is incomplete and is left out of trends and comparisons.",
            grain=names.grain_noun(str(facts["period"].grain)),
        )
    if name == "rows without a date":
        return count(
            facts["rows"],
            "{n} row has no {column} and is left out of everything over time.",
            "{n} rows have no {column} and are left out of everything over time.",
            n=numbers.whole(facts["rows"]),
            column=facts["column"],
        )
    if name == "sparse periods":
        return say(
            "Only {there} of the {n} {grain}s hold rows, too few to tell a trend between them.",
            there=numbers.whole(facts["there"]),
            n=numbers.whole(facts["periods"]),
            grain=names.grain_noun(str(facts["grain"])),
        )
    if name == "empty periods":
        return count(
            facts["periods"],
            "{n} {grain} within the data holds no rows.",
            "{n} {grain}s within the data hold no rows.",
            n=numbers.whole(facts["periods"]),
            grain=names.grain_noun(str(facts["grain"])),
        )
    if name == "cut periods":
        return count(
            facts["periods"],
            "{n} {grain} has rows on fewer of its days than usual and is left out of trends.",
            "{n} {grain}s have rows on fewer of their days than usual and are left out of trends.",
            n=numbers.whole(facts["periods"]),
            grain=names.grain_noun(str(facts["grain"])),
        )
    if name == "problem":
        return problem_sentences.sentence(facts["problem"])
    if name == "of chance":
        told = names.listed([names.dimension(column) for column in facts["by"]])
        return say("By {columns}, what moved is no more than chance makes.", columns=told)
    if name == "unrecorded":
        return unrecorded(facts["missing"])
    if name == "few periods":
        return count(
            facts["periods"],
            "There is only {n} complete {grain}, too few to tell a trend from chance.",
            "There are only {n} complete {grain}s, too few to tell a trend from chance.",
            n=numbers.whole(facts["periods"]),
            grain=names.grain_noun(str(facts["grain"])),
        )
    if name == "baseline begins late":
        return say(
            "The data begin on {day}, within the baseline, which is therefore incomplete.",
            day=dates.day(facts["first"]),
        )
    if name == "scenarios":
        return say(
            "Figures are those of {read}; {others} in {column} are not added to them.",
            read=facts["read"],
            others=names.listed(facts["others"]),
            column=repr(facts["column"]),
        )
    if name in ("currencies", "units"):
        return say(
            "Figures are those in {read}; those in {others} ({column}) are not added to them.",
            read=facts["read"],
            others=names.listed(facts["others"]),
            column=facts["column"],
        )
    assert name == "no time"
    if facts["columns"]:
        return say(
            "No column holds dates ({columns} holds text), so nothing is said about change over time.",
            columns=names.listed(facts["columns"]),
        )
    return say("No column holds dates, so nothing is said about change over time.")


def unrecorded(missing: Missing) -> str:
    """That days of one of two spans compared hold no rows."""
    places = {"span": dates.during(missing.days), "days": numbers.whole(missing.days.days)}
    if missing.in_baseline:
        return say(
            "There are no rows {span}: {days} days are missing from the baseline, so like is not compared with like.",
            **places,
        )
    return say(
        "There are no rows {span}: {days} days are missing from the period, so like is not compared with like.",
        **places,
    )
