"""Messages of what stands apart: a row, a week, a pair of labels, periods without rows."""

from __future__ import annotations

from ..findings import Finding
from ..tables import Period
from . import dates, names, numbers
from .languages import count, say
from .message import Message

# --- outlier -----------------------------------------------------------------------------------


def outlier(finding: Finding) -> Message:
    f = finding.figures
    times = f["times_typical"]
    typical, inside = numbers.plain(f["typical"]), ""
    if finding.where.conditions:
        inside = say(" for {label}", label=names.where_label(finding.where))
    size = (
        say("{times} times what is usual{inside}", times=numbers.plain(times, 2), inside=inside)
        if times is not None and times > 1
        else say("far from the usual {typical}{inside}", typical=typical, inside=inside)
    )
    name = names.column(f["column"])
    places = {
        "row": numbers.whole(f["row"]),
        "name": name,
        "value": numbers.amount(f["value"], finding.measure),
        "size": size,
    }
    claim = (
        say("row {row} has an {name} of {value}, {size}", **places)
        if name[:1].lower() in "aeiou"
        else say("row {row} has a {name} of {value}, {size}", **places)
    )
    return Message(claim=claim, evidence=_outlier_evidence(finding))


def _outlier_evidence(finding: Finding) -> str:
    f = finding.figures
    low, high, following = (
        numbers.amount(f[name], finding.measure) for name in ("expected_low", "expected_high", "next_value")
    )
    places = {"fault": names.capital(fault(str(f["fault"]))), "place": _place(finding), "low": low, "high": high}
    return (
        say(
            "{fault}{place}; usual values lie between {low} and {high}, the next largest is {following}.",
            following=following,
            **places,
        )
        if f["value"] >= f["typical"]
        else say(
            "{fault}{place}; usual values lie between {low} and {high}, the next smallest is {following}.",
            following=following,
            **places,
        )
    )


def fault(name: str) -> str:
    """The error that a row looks like."""
    factor = name.removeprefix("factor of ")
    if name.startswith("factor of 1/"):
        return say("it looks keyed {factor} times too small", factor=factor.removeprefix("1/"))
    if name.startswith("factor"):
        return say("it looks keyed {factor} times too large", factor=factor)
    if name == "sign":
        return say("its sign looks turned round")
    return say("nothing shows that it is an error, but nothing else comes near it")


def _place(finding: Finding) -> str:
    """The key and the date of a row: " (sailing 4711, 2025-03-04)"."""
    f = finding.figures
    told = [f"{names.column(f['key_column'])} {f['key']}"] if f["key"] else []
    told += [str(f["date"])] if f["date"] else []
    return f" ({', '.join(told)})" if told else ""


# --- spike -------------------------------------------------------------------------------------


def spike(finding: Finding) -> Message:
    f, measure, span = finding.figures, finding.measure, finding.period
    assert span is not None
    grain = names.grain_noun(f["grain"])
    claim = say(
        "{who} {who:was|were} {value} {when}, against {usual} in the {grain}s around it",
        who=names.subject(measure),
        value=numbers.amount(f["value"], measure),
        when=dates.within(span),
        usual=numbers.amount(f["expected"], measure),
        grain=grain,
    )
    pct = "" if f["change_pct"] is None else f" ({numbers.per_cent(f['change_pct'])})"
    low, high = (numbers.amount(f[name], measure) for name in ("expected_low", "expected_high"))
    evidence = say(
        "That is {gap}{pct} against the {around} {grain}s before and after it, on {n} rows; by the other {grain}s it "
        "would "
        "lie between {low} and {high} (95%).",
        gap=numbers.signed(f["change"], numbers.difference(f["change"], measure)),
        pct=pct,
        around=f["around"],
        grain=grain,
        n=numbers.whole(f["n"]),
        low=low,
        high=high,
    )
    said = [
        say(
            "{who} {who:was|were} {value} ({usual} around it)",
            who=names.subject(other),
            value=numbers.amount(own["value"], other),
            usual=numbers.amount(own["expected"], other),
        )
        for other, own in finding.candidate.series.get("others", ())[:2]
    ]
    if said:
        evidence += " " + say("In the same {grain} {told}.", grain=grain, told=names.listed(said))
    return Message(claim=claim, evidence=evidence)


# --- exception ---------------------------------------------------------------------------------


def exception(finding: Finding) -> Message:
    f, (one, other) = finding.figures, (names.label(label) for _, label in finding.where.conditions)
    pct = 100 * (f["ratio"] - 1)
    measure = names.subject(finding.measure)
    if f["ratio"] >= 2:
        size = say("{times} times", times=numbers.plain(f["ratio"], 2))
    elif pct > 0:
        size = say("{size} above", size=numbers.percent(pct))
    else:
        size = say("{size} below", size=numbers.percent(pct))
    claim = say(
        "{who} {who:was|were} {value}, {size} what the two alone lead one to expect",
        who=names.subject(finding.measure).with_tail(say(" of {one} with {other}", one=one, other=other)),
        value=numbers.amount(f["value"], finding.measure),
        size=size,
    )
    evidence = say(
        "{other} makes {share} of all {measure}, but {here} of that of {one}, where the other cells lead one to expect "
        "{expected} in all. The two together have {n} rows.",
        one=one,
        other=other,
        measure=measure,
        share=numbers.percent(100 * f["share_of_all"]),
        here=numbers.percent(100 * f["share_of_first"]),
        expected=numbers.amount(f["expected"], finding.measure),
        n=numbers.whole(f["n"]),
    )
    return Message(claim=claim, evidence=evidence)


# --- gap ---------------------------------------------------------------------------------------


def gap(finding: Finding) -> Message:
    span = finding.period
    assert span is not None
    return Message(claim=_missing(finding, span), evidence=_gap_evidence(finding))


def _missing(finding: Finding, span: Period) -> str:
    f = finding.figures
    if finding.measure is not None:
        when = {
            "filled until": dates.since(span),
            "filled from": say("before {start}", start=dates.start(_after(span))),
            "not filled": dates.during(span),
        }[f["what"]]
        name, rows = names.column(f["column"]), numbers.whole(f["rows"])
        return say("no {name} is given {when}, in any of {rows} rows", name=name, when=when, rows=rows)
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
    import numpy as np

    following = span.end + np.timedelta64(1, "D")
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
