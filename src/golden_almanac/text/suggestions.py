"""What to do next: a rule for each kind of finding, with the amount at stake, how it is reckoned, and the next thing to
look at. A rule that has no figure to give stays silent: advice that would fit any table is none."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from ..aggregation.measures import Measure
from ..findings import Finding
from ..sql.expressions import quote_name
from ..support.shell import suggested
from . import consistent_rounding, dates, names, numbers
from .anomalies import fault
from .languages import say

#: What is better of a measure where nobody says: words of its name.
_MORE = frozenset(
    "revenue sales profit margin income turnover passengers customers members bookings orders time".split()
)
_LESS = frozenset(
    "cost costs delay delays late cancelled cancellations complaints returns returned waste loss errors fuel "
    "churn".split()
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Suggestion:
    """`text` says what to do and what is at stake; `amount` is that in the measure's unit, `reckoned` its arithmetic
    with
    the figures of the finding; `next_look` what to run next; `side` improvement, decline or data."""

    text: str
    amount: float
    reckoned: str
    next_look: str
    finding: str
    side: str

    def to_dict(self) -> dict[str, Any]:
        return {
            "text": self.text,
            "amount": self.amount,
            "reckoned": self.reckoned,
            "next": self.next_look,
            "finding": self.finding,
            "side": self.side,
        }


def suggestions(findings: Sequence[Finding], source: str, most: int = 5, side: str | None = None) -> list[Suggestion]:
    """Up to `most` suggestions, in the order of the findings, no two on the same rows; of one side where asked."""
    made: list[Suggestion] = []
    seen: set[object] = set()
    for one in findings:
        rule = _RULES.get(one.kind)
        about = (one.where, one.kind in ("outlier", "gap"))
        if rule is None or about in seen:
            continue
        found = rule(one, source)
        if found is not None and side in (None, found.side):
            made.append(found)
            seen.add(about)
        if len(made) >= most:
            break
    return made


def better(one: Finding) -> str | None:
    """up or down, as the caller said or the name tells; None where neither does."""
    if one.good is not None:
        way = one.direction or "up"
        return way if one.good else {"up": "down", "down": "up"}[way]
    words = (
        set() if one.measure is None else set(one.measure.label.lower().split()) | set(one.measure.name.lower().split())
    )
    plain = {word.strip("()_") for text in words for word in text.replace("(", " ").replace("_", " ").split()}
    if plain & _LESS:
        return "down"
    return "up" if plain & _MORE else None


def _side(one: Finding) -> str:
    way = better(one)
    return "data" if way is None or one.direction is None else "improvement" if way == one.direction else "decline"


def _command(source: str, one: Finding, command: str = "change", *more: str) -> str:
    measure = [] if one.measure is None else ["-m", one.measure.name]
    where = [] if one.condition is None else ["-w", one.condition]
    return suggested(command, source, *measure, *where, *more)


def _amount(value: float, measure: Measure | None) -> str:
    return numbers.difference(value, measure)


def _less(value: float, other: float, measure: Measure | None) -> str:
    """The arithmetic of a difference, with as many digits as make it come out as it is told."""
    told = consistent_rounding.stairs(other, [value - other], value, measure)
    return f"{told.end} − {told.start}"


def _moved(one: Finding, source: str) -> Suggestion | None:
    """A trend or step of something that adds up: what the movement is worth a period, and where to look."""
    f, measure = one.figures, one.measure
    if measure is None or not one.where.conditions:
        # That the whole grows or shrinks tells nobody what to do: its parts are told by themselves.
        return None
    before, after = (f["start"], f["end"]) if one.kind == "trend" else (f["before"], f["after"])
    size, side = after - before, _side(one)
    places = {
        "who": names.subject(measure, one.where),
        "worth": _amount(size, measure) + names.each(measure, names.grain(one)),
        "since": dates.since(one.period) if one.period is not None else say("since then"),
        "before": say("before {start}", start=dates.start(one.period))
        if one.period is not None
        else say("before then"),
        "others": names.the_others(one.by, None, ()),
    }
    if side == "decline" and measure.additive:
        text = say("Find what {who} lost {since}, and whether it went to {others}: {worth} at stake.", **places)
    elif side == "decline":
        text = say("Find what made {who} worse {since}, in it or in what it is made of: {worth} at stake.", **places)
    elif side == "improvement":
        text = say(
            "Find what lifted {who} {since}, and whether {others} can do the same: it is worth {worth}.", **places
        )
    elif size > 0:
        text = say("Plan for {who} at {who:its|their} new level: {worth} more than {before}.", **places)
    else:
        text = say("Plan for {who} at {who:its|their} new level: {worth} less than {before}.", **places)
    return Suggestion(
        text=text,
        amount=size,
        reckoned=_less(after, before, measure),
        next_look=_command(source, one),
        finding=one.id,
        side=side,
    )


def _difference(one: Finding, source: str) -> Suggestion | None:
    f, measure = one.figures, one.measure
    if measure is None or f.get("n") is None or f.get("gap") is None:
        return None
    way = better(one)
    gap, n = float(f["gap"]), float(f["n"])
    worse = way is not None and (gap > 0) == (way == "down")
    total = gap * n
    places = {
        "label": names.where_label(one.where),
        "others": names.the_others(one.by, None, ()),
        "gap": _amount(gap, measure),
        "measure": names.measure_name(measure),
    }
    if worse:
        what = (
            say("{n} rows", n=numbers.plain(abs(total)))
            if measure.share
            else say("{size} in all", size=_amount(total, measure))
        )
        text = say("Look at {label} first: were it like {others}, it would spare {what}.", what=what, **places)
    elif way is not None:
        text = say("Learn from {label}: {others} are {gap} behind it in {measure}.", **places)
    else:
        text = say("Ask why {label} differs from {others} by {gap} in {measure}.", **places)
    column = one.figures.get("column") or next((part.column for part in measure.parts if part.column), None)
    where = [] if one.condition is None else ["-w", one.condition]
    look = suggested("drivers", source, "--outcome", column, *where) if column else _command(source, one)
    return Suggestion(
        text=text,
        amount=total,
        reckoned=say("{gap} × {n} rows", gap=numbers.difference(gap, measure, digits=6), n=numbers.whole(n)),
        next_look=look,
        finding=one.id,
        side="decline" if worse else "improvement" if way is not None else "data",
    )


def _outlier(one: Finding, source: str) -> Suggestion | None:
    f = one.figures
    off = float(f["value"]) - float(f["typical"])
    measure = one.measure if one.measure and not one.measure.share else None
    told = consistent_rounding.stairs(float(f["typical"]), [off], float(f["value"]), measure)
    return Suggestion(
        text=say(
            "Check row {row} before anything is sent: {name} {value}{fault} moves every total it is in by about "
            "{size}.",
            row=numbers.whole(f["row"]),
            name=names.column(f["column"]),
            value=numbers.amount(f["value"], measure),
            fault=f" ({fault(str(f['fault']))})" if f.get("fault") else "",
            size=numbers.plain(abs(off)),
        ),
        amount=off,
        reckoned=say("{value} − {typical} (median)", value=told.end, typical=told.start),
        next_look=suggested(
            "check", source, "--sql", f"SELECT * FROM source WHERE {quote_name(f['column'])} = {f['value']!r}"
        ),
        finding=one.id,
        side="data",
    )


def _gap(one: Finding, source: str) -> Suggestion | None:
    f = one.figures
    expected = f.get("expected_rows")
    if not expected or one.period is None:
        return None
    places = {
        "who": names.where_label(one.where)
        or (names.column(str(f["column"])) if f.get("column") else say("the table")),
        "n": numbers.plain(expected),
        "span": dates.span_of(one.period),
    }
    text = (
        say(
            "Set {who} apart when comparing with years before it began: at its share since, {n} rows would have come "
            "before.",
            **places,
        )
        if f.get("what") == "began"
        else say(
            "Ask whether {who} really stopped or rows are missing: {n} rows would have come over {span}.", **places
        )
    )
    return Suggestion(
        text=text,
        amount=float(expected),
        reckoned=_expected_rows(float(expected), one),
        next_look=suggested("check", source),
        finding=one.id,
        side="data",
    )


def _expected_rows(expected: float, one: Finding) -> str:
    """How the rows expected were reckoned: by a share of all rows, or by so many rows a period."""
    f = one.figures
    if one.baseline is not None and f.get("share"):
        share = numbers.as_percent(numbers.fixed(100 * f["share"], 3))
        return say("{share} × {n} rows", share=share, n=numbers.whole(expected / f["share"]))
    each = numbers.figure(expected / f["periods"], 4)
    return say("{n} rows × {periods} periods", n=each, periods=f["periods"])


def _spike(one: Finding, source: str) -> Suggestion | None:
    f, measure = one.figures, one.measure
    if measure is None or one.period is None or f.get("expected") is None or f.get("value") is None:
        return None
    off = float(f["value"]) - float(f["expected"])
    places = {"who": names.subject(measure), "when": dates.within(one.period), "size": _amount(off, measure)}
    text = (
        say(
            "Note what happened {when}: {who} {who:was|were} {size} above what the time around it leads one to "
            "expect; leave "
            "it out of averages.",
            **places,
        )
        if off > 0
        else say(
            "Note what happened {when}: {who} {who:was|were} {size} below what the time around it leads one to "
            "expect; leave "
            "it out of averages.",
            **places,
        )
    )
    return Suggestion(
        text=text,
        amount=off,
        reckoned=_less(float(f["value"]), float(f["expected"]), measure),
        next_look=suggested("change", source, "-m", measure.name, "--period", f"{one.period.start}/{one.period.end}"),
        finding=one.id,
        side=_side(one),
    )


def _season(one: Finding, source: str) -> Suggestion | None:
    f, measure = one.figures, one.measure
    facts = one.candidate.series
    if measure is None or f.get("peak") is None or f.get("trough") is None or "profile" not in facts:
        return None
    profile = dict(zip((str(name) for name in facts["names"]), (float(v) for v in facts["profile"]), strict=True))
    high, low = profile.get(str(f["peak"])), profile.get(str(f["trough"]))
    if high is None or low is None or not low:
        return None
    return Suggestion(
        text=say(
            "Plan capacity by the {cycle}: {peak} brings {times} times the {measure} of {trough}.",
            cycle=names.grain_noun(f["cycle"]),
            peak=dates.calendar_name(str(f["peak"])),
            trough=dates.calendar_name(str(f["trough"])),
            times=numbers.plain(high / low, 2),
            measure=names.measure_name(measure),
        ),
        amount=high / low,
        reckoned=say("{high} ÷ {low} of the average", high=numbers.share(high), low=numbers.share(low)),
        next_look=_command(source, one, "change", "--baseline", "year-ago"),
        finding=one.id,
        side="data",
    )


def _mix(one: Finding, source: str) -> Suggestion | None:
    f, measure = one.figures, one.measure
    if measure is None or f.get("mix") is None:
        return None
    mix, within = consistent_rounding.split([f["mix"], f["within"]], f["change"], measure).texts(signed=True)
    return Suggestion(
        text=say(
            "Report {measure} by {part}, not in all: {mix} of its movement is the weight of the {parts}, {within} what "
            "happened within them.",
            measure=names.measure_name(measure),
            part=names.dimension(one.by),
            parts=names.plural(one.by),
            mix=mix,
            within=within,
        ),
        amount=float(f["mix"]),
        reckoned=say("midpoint weights; both parts add up to the change"),
        next_look=_command(source, one, "change", *([] if one.by is None else ["-b", one.by])),
        finding=one.id,
        side=_side(one),
    )


def _concentration(one: Finding, source: str) -> Suggestion | None:
    f, measure = one.figures, one.measure
    if measure is None or not f.get("top"):
        return None
    places = {
        "top": names.listed([names.label(label) for label in f["top"][:3]]),
        "share": numbers.percent(100 * f["share"]),
        "measure": names.measure_name(measure),
    }
    return Suggestion(
        text=say("Secure {top}: {share} of {measure} hangs on it.", **places)
        if len(f["top"]) == 1
        else say("Secure {top}: {share} of {measure} hangs on them.", **places),
        amount=float(f["share"]),
        reckoned=say("{share} of the sum of {measure}", **places),
        next_look=_command(source, one),
        finding=one.id,
        side="data",
    )


_RULES: dict[str, Callable[[Finding, str], Suggestion | None]] = {
    "trend": _moved,
    "shift": _moved,
    "difference": _difference,
    "outlier": _outlier,
    "gap": _gap,
    "spike": _spike,
    "seasonality": _season,
    "mix": _mix,
    "concentration": _concentration,
}
