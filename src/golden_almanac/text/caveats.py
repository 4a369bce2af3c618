"""What a reader must know of the data, as sentences."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ..analysis.change import Missing
from . import dates, names, numbers, problem_sentences
from .languages import count, say


def sentence(name: str, facts: dict[str, Any]) -> str:
    """The sentence for one caveat of a scan (see `analysis.scan_pipeline.caveats`)."""
    return _SAID[name](facts)


def _unfinished(facts: dict[str, Any]) -> str:
    day = dates.day(facts["last"])
    if facts["period"].grain == "month":
        return say(
            "{month} is unfinished (data end on {day}) and is left out of trends and comparisons.",
            month=names.capital(dates.month(facts["last"])),
            day=day,
        )
    return say(
        "The last {grain} is unfinished (data end on {day}) and is left out of trends and comparisons.",
        grain=names.grain_noun(str(facts["period"].grain)),
        day=day,
    )


def _thin(facts: dict[str, Any]) -> str:
    rows, least, looked_at = facts["rows"]
    return say(
        "{period} has {rows} rows, each of the {n} before it at least {least}: it looks unfinished and is left out "
        "of trends and comparisons.",
        period=names.capital(dates.period(facts["period"])),
        rows=numbers.whole(rows),
        n=looked_at,
        least=numbers.whole(least),
    )


def _fiscal_years(facts: dict[str, Any]) -> str:
    span = facts["year"]
    return say(
        "{year} is {span}; other fiscal years accordingly.",
        year=names.capital(dates.year(span)),
        span=dates.span_of(span),
    )


def _first_incomplete(facts: dict[str, Any]) -> str:
    return say(
        "The first {grain} is incomplete and is left out of trends and comparisons.",
        grain=names.grain_noun(str(facts["period"].grain)),
    )


def _undated(facts: dict[str, Any]) -> str:
    return count(
        facts["rows"],
        "{n} row has no {column} and is left out of everything over time.",
        "{n} rows have no {column} and are left out of everything over time.",
        n=numbers.whole(facts["rows"]),
        column=facts["column"],
    )


def _sparse(facts: dict[str, Any]) -> str:
    return say(
        "Only {there} of the {n} {grain}s hold rows, too few to tell a trend between them.",
        there=numbers.whole(facts["there"]),
        **_periods(facts),
    )


def _empty(facts: dict[str, Any]) -> str:
    return count(
        facts["periods"],
        "{n} {grain} within the data holds no rows.",
        "{n} {grain}s within the data hold no rows.",
        **_periods(facts),
    )


def _cut(facts: dict[str, Any]) -> str:
    return count(
        facts["periods"],
        "{n} {grain} has rows on fewer of its days than usual and is left out of trends.",
        "{n} {grain}s have rows on fewer of their days than usual and are left out of trends.",
        **_periods(facts),
    )


def _few(facts: dict[str, Any]) -> str:
    if not facts["periods"]:
        return say("No {grain} is complete, so no trend can be told.", grain=_periods(facts)["grain"])
    return count(
        facts["periods"],
        "There is only {n} complete {grain}, too few to tell a trend from chance.",
        "There are only {n} complete {grain}s, too few to tell a trend from chance.",
        **_periods(facts),
    )


def _periods(facts: dict[str, Any]) -> dict[str, Any]:
    return {"n": numbers.whole(facts["periods"]), "grain": names.grain_noun(str(facts["grain"]))}


def _of_chance(facts: dict[str, Any]) -> str:
    told = names.listed([names.dimension(column) for column in facts["by"]])
    return say("By {columns}, what moved is no more than chance makes.", columns=told)


def _begins_late(facts: dict[str, Any]) -> str:
    return say(
        "The data begin on {day}, within the baseline, which is therefore incomplete.", day=dates.day(facts["first"])
    )


def _scenarios(facts: dict[str, Any]) -> str:
    return say(
        "Figures are those of {read}; {others} in {column} are not added to them.",
        read=facts["read"],
        others=names.listed(facts["others"]),
        column=repr(facts["column"]),
    )


def _units(facts: dict[str, Any]) -> str:
    return say(
        "Figures are those in {read}; those in {others} ({column}) are not added to them.",
        read=facts["read"],
        others=names.listed(facts["others"]),
        column=facts["column"],
    )


def _quantities(facts: dict[str, Any]) -> str:
    return count(
        len(facts["columns"]),
        "{columns} is in several units ({column}: {labels}) and is not added up.",
        "{columns} are in several units ({column}: {labels}) and are not added up.",
        columns=names.capital(names.listed([names.column(one) for one in facts["columns"]])),
        column=facts["column"],
        labels=names.listed(facts["labels"][:4]),
    )


def _no_time(facts: dict[str, Any]) -> str:
    if facts["columns"]:
        return count(
            len(facts["columns"]),
            "No column holds dates ({columns} holds text), so nothing is said about change over time.",
            "No column holds dates ({columns} hold text), so nothing is said about change over time.",
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


_SAID: dict[str, Callable[[dict[str, Any]], str]] = {
    "partial last period": _unfinished,
    "thin last period": _thin,
    "fiscal years": _fiscal_years,
    "partial first period": _first_incomplete,
    "rows without a date": _undated,
    "sparse periods": _sparse,
    "empty periods": _empty,
    "cut periods": _cut,
    "few periods": _few,
    "within a season": lambda _: say("The data cover less than two years, so what moves may be the season."),
    "problem": lambda facts: problem_sentences.sentence(facts["problem"]),
    "of chance": _of_chance,
    "unrecorded": lambda facts: unrecorded(facts["missing"]),
    "baseline begins late": _begins_late,
    "scenarios": _scenarios,
    "currencies": _units,
    "units": _units,
    "quantities": _quantities,
    "no time": _no_time,
}
