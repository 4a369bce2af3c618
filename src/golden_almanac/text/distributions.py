"""Messages of how values lie and go together: concentration, mix, relationship, distribution."""

from __future__ import annotations

from ..findings import Finding
from . import consistent_rounding, dates, names, numbers
from .languages import say
from .message import Message

# --- concentration -----------------------------------------------------------------------------


def concentration(finding: Finding) -> Message:
    f = finding.figures
    top = f["top"]
    places = {
        "n": f["labels"],
        "parts": names.plural(finding.by),
        "share": numbers.percent(100 * f["share"]),
        "measure": names.measure_name(finding.measure),
    }
    if len(top) == 1:
        claim = say("{who} of {n} {parts} makes {share} of {measure}", who=names.label(top[0]), **places)
    else:
        who = names.listed([names.label(label) for label in top]) if len(top) <= 3 else str(len(top))
        claim = say("{who} of {n} {parts} make {share} of {measure}", who=who, **places)
    return Message(claim=claim, evidence=_even(finding))


def _even(finding: Finding) -> str:
    f = finding.figures
    told = [
        say(
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
    return " ".join(told)


# --- mix ---------------------------------------------------------------------------------------


def mix(finding: Finding) -> Message:
    f, measure = finding.figures, finding.measure
    assert finding.period is not None
    up = f["change"] > 0
    places = {
        "who": names.subject(measure),
        "size": numbers.difference(f["change"], measure),
        "parts": names.plural(finding.by),
    }
    if f["reversal"]:
        within = numbers.difference(f["within"], measure)
        claim = (
            say(
                "{who} rose {size}, though within the {parts} {who:it|they} fell {within}: the {parts} weigh "
                "otherwise than a "
                "year before",
                within=within,
                **places,
            )
            if up
            else say(
                "{who} fell {size}, though within the {parts} {who:it|they} rose {within}: the {parts} weigh "
                "otherwise than a "
                "year before",
                within=within,
                **places,
            )
        )
        return Message(claim=claim, evidence=_mix_evidence(finding))
    share = min(1.0, f["mix_share"])
    part = say("all of it") if share > 0.95 else say("{share} of that", share=numbers.percent(100 * share))
    claim = (
        say("{who} rose {size} on the year before, {part} because the {parts} weigh otherwise", part=part, **places)
        if up
        else say(
            "{who} fell {size} on the year before, {part} because the {parts} weigh otherwise", part=part, **places
        )
    )
    return Message(claim=claim, evidence=_mix_evidence(finding))


def _mix_evidence(finding: Finding) -> str:
    f, measure = finding.figures, finding.measure
    assert finding.period is not None
    moved = max(f["parts"], key=lambda one: (abs(one["share"] - one["share_before"]), str(one["label"])))
    rate = moved["after"] if moved["after"] is not None else moved["before"]
    through, within = consistent_rounding.split([f["mix"], f["within"]], f["change"], measure).texts(signed=True)
    return say(
        "It went from {before} to {after} ({span}): {through} through the weights, {within} within the {parts}.",
        before=numbers.amount(f["value_before"], measure),
        after=numbers.amount(f["value"], measure),
        span=dates.span_of(finding.period),
        through=through,
        within=within,
        parts=names.plural(finding.by),
    ) + " " + say(
        "{label} went from {share_before} to {share} of all{rate}.",
        label=names.label(moved["label"]),
        share_before=numbers.percent(100 * moved["share_before"]),
        share=numbers.percent(100 * moved["share"]),
        rate="" if rate is None else say(", at {rate}", rate=numbers.amount(rate, measure)),
    )  # fmt: skip


# --- relationship ------------------------------------------------------------------------------


def relationship(finding: Finding) -> Message:
    f = finding.figures
    first, second = (names.column(name) for name in f["columns"])
    places = {"first": first, "second": second, "shape": _bent(f["shape"]), "r": _r(f["r"])}
    claim = (
        say("{first} and {second} rise and fall together{shape} (correlation {r})", **places)
        if f["slope"] > 0
        else say("{first} and {second} go opposite ways{shape} (correlation {r})", **places)
    )
    x = finding.candidate.series["x"]
    step = float(x[-1] - x[0]) / max(1, len(x) - 1)
    low, high = _r(f["low"]), _r(f["high"])
    told = {"n": numbers.whole(f["n"]), "low": low, "high": high, "r": _r(f["r_adjusted"])}
    evidence = (
        say("On {n} rows; within the same week and the same groups it is {r}.", **told)
        if low == high
        else say("On {n} rows (95% range {low} to {high}); within the same week and the same groups it is {r}.", **told)
    )
    more = {
        "step": numbers.plain(step),
        "first": first,
        "size": numbers.plain(abs(f["slope"] * step)),
        "second": second,
    }
    caution = (
        say(
            "Rows with {step} more {first} have {size} more {second} on average, which is no proof that the one "
            "makes the "
            "other.",
            **more,
        )
        if f["slope"] > 0
        else say(
            "Rows with {step} more {first} have {size} less {second} on average, which is no proof that the one "
            "makes the "
            "other.",
            **more,
        )
    )
    return Message(claim=claim, evidence=evidence, qualification=caution)


def _bent(shape: str) -> str:
    if shape == "uneven":
        return say(", though not evenly")
    if shape == "levels off":
        return say(", the more the lower they are")
    if shape == "sets in late":
        return say(", but only in the upper half")
    return say(", and the other way round in the upper half") if shape == "turns" else ""


def _r(value: float) -> str:
    return numbers.fixed(value, 2)


# --- distribution ------------------------------------------------------------------------------


def distribution(finding: Finding) -> Message:
    f, measure = finding.figures, finding.measure
    name, n = names.column(f["column"]), numbers.whole(f["n"])
    median = numbers.amount(f["median"], measure)
    if f["shape"] == "heaps":
        claim = say(
            "{share} of the values of {name} are multiples of {step}, {times} times the even share",
            share=numbers.percent(100 * f["on_step"]),
            name=name,
            step=numbers.plain(f["step"]),
            times=numbers.plain(f["on_step"] / f["even_share"], 2),
        )
        even = numbers.percent(100 * f["even_share"])
        evidence = say("As if estimated, not measured; an even share would be {even} (on {n} rows).", even=even, n=n)
        return Message(claim=claim, evidence=evidence)
    if f["shape"] == "two humps":
        first, second = (numbers.amount(f[hump], measure) for hump in ("first_hump", "second_hump"))
        by = f["divided_by"]
        who = say("; the {part} tells which", part=names.dimension(by)) if by else ""
        claim = say(
            "{name} has more than one usual size, such as {first} and {second}, with few rows between them{who}",
            name=name,
            first=first,
            second=second,
            who=who,
        )
        evidence = say(
            "An average over all describes none of them: {below} of the rows lie below about {valley} (on {n} rows); "
            "the "
            "median is {median}.",
            below=numbers.percent(100 * f["below"]),
            valley=numbers.amount(f["valley"], measure),
            n=n,
            median=median,
        )
        return Message(claim=claim, evidence=evidence)
    share = numbers.percent(100 * f["top_share"])
    claim = say("a tenth of the rows make {share} of {name}", share=share, name=name)
    evidence = say(
        "Those rows have {cut} or more each, while the median is {median} (on {n} rows). An average says little of a "
        "usual "
        "row.",
        cut=numbers.amount(f["top_from"], measure),
        median=median,
        n=n,
    )
    return Message(claim=claim, evidence=evidence)
