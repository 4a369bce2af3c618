"""What is missing in words: who has no rows, or which column no values, and how many were to be expected."""

from __future__ import annotations

from ...findings import Finding
from ...support.shell import suggested
from ...tables import Period
from ...tables.calendar import DAY
from .. import dates, names, numbers
from ..languages import count, mark, qualified, say
from ..message import Message
from ..suggestions import Suggestion

NAME = mark("gap", "kind")


def message(finding: Finding) -> Message:
    span = finding.period
    assert span is not None
    return Message(claim=_missing(finding, span), evidence=_gap_evidence(finding))


def suggestion(finding: Finding, source: str) -> Suggestion | None:
    f = finding.figures
    expected = f.get("expected_rows")
    if not expected or finding.period is None:
        return None
    places = {"who": _who(finding), "n": numbers.plain(expected), "span": dates.span_of(finding.period)}
    text = (
        say(
            "Set {who} apart when comparing with years before it began: at its share since, {n} rows would have come "
            "before.",
            **places,
        )
        if f.get("what") in ("began", "filled from")
        else say(
            "Ask whether {who} really stopped or rows are missing: {n} rows would have come over {span}.", **places
        )
    )
    return Suggestion(
        text=text,
        amount=float(expected),
        reckoned=_expected_rows(float(expected), finding),
        next_look=suggested("check", source),
        finding=finding.id,
        side="data",
    )


def _who(finding: Finding) -> str:
    """Who or what is missing: a label, a column, a column of a label, or the table."""
    label, column = names.where_label(finding.where), finding.figures.get("column")
    if not column:
        return label or say("the table")
    name = names.column(str(column))
    return qualified(name, mark("{noun} of {label}"), label=label) if label else name


def _missing(finding: Finding, span: Period) -> str:
    f = finding.figures
    if finding.measure is not None:
        when = {
            "filled until": dates.since(span),
            "filled from": say("before {start}", start=dates.start(_after(span))),
            "not filled": dates.during(span),
        }[f["what"]]
        name, rows = names.column(f["column"]), numbers.whole(f["rows"])
        if not finding.where.conditions:
            return say("no {name} is given {when}, in any of {rows} rows", name=name, when=when, rows=rows)
        label = names.where_label(finding.where)
        return say(
            "no {name} of {label} is given {when}, in any of {rows} rows", name=name, label=label, when=when, rows=rows
        )
    if f["what"] == "no rows":
        return say(
            "there are no rows {when}, where about {expected} were to be expected",
            when=dates.during(span),
            expected=numbers.plain(f["expected_rows"], 2),
        )
    places = {"label": names.where_label(finding.where), "part": _part(finding)}
    if f["what"] == "began":
        since = dates.since(_after(span))
        return say("{label} has rows only {since}; it has made {part} since", since=since, **places)
    before = _counted(f["periods_beside"], finding)
    if f["what"] == "ended":
        when = dates.since(span)
        return say(
            "{label} has had no rows {when}; it made {part} in {before} before", when=when, before=before, **places
        )
    when = dates.during(span)
    return say("{label} had no rows {when}; it made {part} in {before} before", when=when, before=before, **places)


def _part(finding: Finding) -> str:
    f = finding.figures
    if f["value_share"] is not None:
        name = names.measure_name(finding.candidate.series["lead"])
        return say("{share} of {name}", share=numbers.percent(100 * f["value_share"]), name=name)
    return say("{share} of the rows", share=numbers.percent(100 * f["share"]))


def _counted(periods: int, finding: Finding) -> str:
    """ "the 12 months", "the month"."""
    grain = names.grain_noun(names.grain(finding))
    return count(periods, "the {grain}", "the {n} {grain}s", grain=grain, n=periods)


def _after(span: Period) -> Period:
    """The day right after a span, told as precisely as the span."""

    following = span.end + DAY
    return Period(start=following, end=following, grain=span.grain, calendar=span.calendar)


def _gap_evidence(finding: Finding) -> str:
    f, there = finding.figures, finding.baseline
    if f["what"] == "no rows":
        rows = numbers.whole(f["rows"])
        return say("All other periods together have {rows} rows; sums over a year lack these.", rows=rows)
    places = {"n": numbers.plain(f["expected_rows"]), "periods": _counted(f["periods"], finding)}
    if there is None:
        return say("By the usual share of filled rows, {n} rows were to be expected in {periods}.", **places)
    places |= {
        "there": dates.span_of(there),
        "rows": numbers.whole(f["rows"]),
        "share": numbers.percent(100 * f["share"]),
    }
    if f["what"] == "began":
        return say(
            "At its share since, {n} rows would have come in {periods} before; over {there} it had {rows}, {share} "
            "of all.",
            **places,
        )
    return say(
        "By its share of the rows, {n} rows were to be expected in {periods}; over {there} it had {rows}, {share} of "
        "all.",
        **places,
    )


def _expected_rows(expected: float, finding: Finding) -> str:
    """How the rows expected were reckoned: by a share of all rows, or by so many rows a period."""
    f = finding.figures
    if finding.baseline is not None and f.get("share"):
        share = numbers.as_percent(numbers.fixed(100 * f["share"], 3))
        return say("{share} × {n} rows", share=share, n=numbers.whole(expected / f["share"]))
    each = numbers.figure(expected / f["periods"], 4)
    return say("{n} rows × {periods} periods", n=each, periods=f["periods"])
