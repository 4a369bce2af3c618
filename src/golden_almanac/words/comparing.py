"""What a comparison, a regression and a relation mean, in sentences a manager understands."""

from __future__ import annotations

from collections.abc import Sequence

from ..core.comparisons import Compared, Pair, Tested
from ..core.measures import Measure, spoken
from ..core.regression import Coefficient, Regression
from ..core.relation import Relation
from . import names, numbers
from .summary import Summary, fit

#: A difference is called one at this level.
LEVEL = 0.05
_MOST_PAIRS = 3


def figure(value: float, one: Compared, measure: Measure | None) -> str:
    return numbers.share(value) if one.kind == "shares" else numbers.amount(value, measure)


def gap(value: float, one: Compared, measure: Measure | None) -> str:
    return numbers.points(100 * value) if one.kind == "shares" else numbers.difference(value, measure)


def comparison_summary(one: Compared, measure: Measure | None) -> Summary:
    """What the comparison means; the pairs that differ; what was left out."""
    tail = [f"Left out: {names.listed(list(one.left_out))}."] if one.left_out else []
    return fit(f"{meaning(one, measure)}.", [*pairs(one, measure), _how_sure(one)], tail)


def meaning(one: Compared, measure: Measure | None) -> str:
    """One sentence, without its full stop."""
    subject = names.capital(spoken(one.outcome, measure.unit if measure is not None else None))
    test = one.test
    sure = test.p < LEVEL
    if one.kind == "labels":
        size = "" if test.effect.value is None else f" (Cramér's V {numbers.fixed(test.effect.value, 2)})"
        if test.effect_name != "Cramér's V" and test.effect.value is not None:
            size = f" (odds ratio {numbers.plain(test.effect.value, 2)})"
        if sure:
            of = f"The mix of {spoken(one.outcome)} differs between the {names.plural(one.by)}"
            return f"{of}{size}, more than chance makes"
        of = f"The mix of {spoken(one.outcome)} is the same in all {names.plural(one.by)}"
        return f"{of}, as far as chance lets one tell{size}"
    if len(one.groups) == 2:
        return _two(one, measure, subject, sure)
    known = [group for group in one.groups if group.mean is not None]
    centre = "median" if test.name == "Kruskal–Wallis test" else "mean"

    def value(group: object) -> float:
        found = getattr(group, centre)
        return float(found)

    top, low = max(known, key=value), min(known, key=value)
    of = "median " if centre == "median" else ""
    if sure:
        return (
            f"{of}{subject if not of else subject.lower()} differs between the {names.plural(one.by)}, more than "
            f"chance "
            f"makes: from {figure(value(low), one, measure)} in {low.label} to {figure(value(top), one, measure)} "
            f"in {top.label}"
        ).replace("median ", "Median ", 1 if of else 0)
    return (
        f"{subject} does not differ between the {names.plural(one.by)} by more than chance makes (from "
        f"{figure(value(low), one, measure)} in {low.label} to {figure(value(top), one, measure)} in {top.label})"
    )


def _two(one: Compared, measure: Measure | None, subject: str, sure: bool) -> str:
    a, b = one.groups
    ranks = one.test.name in ("Mann–Whitney U test", "Wilcoxon signed-rank test")
    first, second = (a.median, b.median) if ranks else (a.mean, b.mean)
    assert first is not None
    assert second is not None
    verb = "is" if one.kind == "shares" else "has a median of" if ranks else "averages"
    told = (
        f"{subject} {verb} {figure(first, one, measure)} in {a.label} and {figure(second, one, measure)} in {b.label}"
    )
    found = one.test.difference
    if found is None or found.value is None or found.low is None or found.high is None:
        return f"{told}, {'more than chance makes' if sure else 'no more than chance makes'}"
    ends = [numbers.signed(end, gap(end, one, measure)) for end in (found.low, found.high)]
    if not sure:
        return f"{told}, no more apart than chance makes: the true difference may lie between {ends[0]} and {ends[1]}"
    size = gap(found.value, one, measure)
    side = "more" if found.value > 0 else "less"
    typical = " typically" if ranks else ""
    return f"{told}: {size} {side}{typical} (95% range {ends[0]} to {ends[1]}), which chance does not make"


def pairs(one: Compared, measure: Measure | None) -> list[str]:
    """The pairs that differ, the widest apart first, or that none does."""
    if not one.test.pairs:
        return []
    differing = [pair for pair in one.test.pairs if pair.p < LEVEL]
    if not differing:
        return ["No two of them differ for sure, the number of pairs allowed for."]
    widest = sorted(differing, key=lambda pair: (-abs(pair.difference), pair.a, pair.b))[:_MOST_PAIRS]
    told = names.listed([_pair(pair, one, measure) for pair in widest])
    return [
        (
            f"{len(differing)} of {len(one.test.pairs)} pairs differ for sure, the number of pairs allowed for; widest "
            f"apart: {told}."
        )
    ]


def _pair(pair: Pair, one: Compared, measure: Measure | None) -> str:
    return f"{pair.a} and {pair.b} ({numbers.signed(pair.difference, gap(pair.difference, one, measure))})"


def _how_sure(one: Compared) -> str:
    line = names.capital(test_line(one.test))
    return f"{line}. It was chosen for {one.why}." if not one.why.startswith("asked") else f"{line}."


def test_line(test: Tested) -> str:
    """ "Welch's t test: t = 4.2 on 31.5 degrees of freedom, p below 0.0001; Hedges' g 0.8 (0.4 to 1.2)"."""
    letter = {
        "Welch's t test": "t",
        "paired t test": "t",
        "Welch's analysis of variance": "F",
        "chi-squared test": "χ²",
        "Kruskal–Wallis test": "H",
        "Mann–Whitney U test": "U",
        "Wilcoxon signed-rank test": "W",
        "two-proportion z test": "z",
    }.get(test.name)
    parts = []
    if letter is not None and test.statistic is not None:
        df = " and ".join(numbers.plain(value) for value in test.df)
        parts.append(f"{letter} = {numbers.plain(test.statistic)}" + (f" on {df} degrees of freedom" if df else ""))
    parts.append(numbers.p_value(test.p))
    effect = test.effect
    told = ""
    if effect.value is not None:
        told = f"; {test.effect_name} {numbers.plain(effect.value, 2)}"
        if effect.low is not None and effect.high is not None:
            told += f" (95% range {numbers.plain(effect.low, 2)} to {numbers.plain(effect.high, 2)})"
    return f"{test.name}: {', '.join(parts)}{told}"


def regression_summary(one: Regression) -> Summary:
    """What the fit tells, its strongest terms, what its residuals warn of."""
    label = one.outcome.label
    share = numbers.percent(100 * max(0.0, one.r2))
    sure = [c for c in one.coefficients if c.p < LEVEL and c.term != "intercept"]
    sure.sort(key=lambda c: -abs(c.t))
    if one.p is not None and one.p >= LEVEL:
        first = (
            f"The factors do not tell {label} beyond chance: R² {numbers.fixed(one.r2, 2)} on "
            f"{numbers.whole(one.n)} rows "
            f"({numbers.p_value(one.p)})."
        )
    else:
        first = (
            f"The fit accounts for {share} of what varies in {label} (R² {numbers.fixed(one.r2, 3)}, "
            f"{numbers.whole(one.n)} "
            "rows)."
        )
    body = [_coefficient(c, label, one.bases) for c in sure[:3]]
    return fit(first, body, warnings(one))


def _coefficient(one: Coefficient, label: str, bases: Sequence[str]) -> str:
    size = numbers.signed(one.estimate, numbers.plain(abs(one.estimate)))
    ends = [numbers.signed(end, numbers.plain(abs(end))) for end in (one.low, one.high)]
    if "=" in one.term:
        column, level = one.term.split("=", 1)
        side = "higher" if one.estimate > 0 else "lower"
        against = next(
            (text.split(" against ", 1)[1].rstrip(".") for text in bases if text.startswith(column)), "nought"
        )
        return (
            f"{names.capital(label)} is {numbers.plain(abs(one.estimate))} {side} where {spoken(column)} is {level} "
            f"than where "
            f"it is {against} (95% range {ends[0]} to {ends[1]})."
        )
    return f"One more of {one.term} goes with {size} {label} (95% range {ends[0]} to {ends[1]})."


def warnings(one: Regression) -> list[str]:
    """What the diagnostics say, worst first, as sentences; nothing where all is well."""
    found = dict(one.notes)
    told = []
    if "ill-conditioned" in found:
        told.append(
            f"The terms are so nearly combinations of each other (condition "
            f"{found['ill-conditioned']['condition']:.1e}) that no "
            "digit of the coefficients is to be relied on; leave some out."
        )
    if "collinear" in found:
        facts = found["collinear"]
        vif = numbers.plain(float(facts["vif"]))
        told.append(
            f"{facts['term']} goes so closely with other terms that its variance is {vif} times what it would be alone."
        )
    if "spread" in found and float(found["spread"]["p"]) < 0.01:
        told.append("Residuals spread more in some places than in others: rely on the robust errors (HC3) beside.")
    if "residuals" in found and float(found["residuals"]["p"]) < 0.001 and one.n < 200:
        told.append("Residuals are far from normal, and rows are few: take p-values with care.")
    if "leverage" in found and float(found["leverage"]["cook"]) > 1:
        row = int(one.outcome.table.row_numbers()[one.rows[int(found["leverage"]["row"])]])
        told.append(
            f"Row {numbers.whole(row)} alone moves the fit (Cook's distance "
            f"{numbers.plain(float(found['leverage']['cook']))})."
        )
    told += [f"{text[0].upper()}{text[1:]}." if not text.endswith(".") else text for text in one.left_out]
    return told


def equation(one: Regression) -> str:
    """ "delay_min = 3.2 + 0.051 · load + 4.1 · vessel=Petrel"."""
    parts = []
    for place, c in enumerate(one.coefficients):
        size = f"{abs(c.estimate):.6g}"
        body = size if c.term == "intercept" else f"{size} · {c.term}"
        sign = ("−" if c.estimate < 0 else "") if place == 0 else (" − " if c.estimate < 0 else " + ")
        parts.append(f"{sign}{body}")
    return f"{one.outcome.name} = {''.join(parts)}"


def relation_summary(one: Relation) -> Summary:
    x, y = (spoken(column.name, column.unit) for column in (one.x, one.y))
    r, low, high, p = one.pearson
    rho = one.spearman
    span = f"95% range {numbers.fixed(low, 2)} to {numbers.fixed(high, 2)}"
    if rho[3] >= LEVEL and p >= LEVEL and one.bins_p >= 0.01:
        return fit(
            f"{names.capital(y)} and {x} do not go together beyond chance (correlation {numbers.fixed(r, 2)}, {span}, "
            f"{numbers.whole(one.n)} rows).",
            [],
            [],
        )
    shape = one.shape
    how = "rises with" if rho[0] > 0 else "falls with"
    where = ""
    if shape.cut is not None:
        where = f", in a step above {numbers.plain(shape.cut.at, 6)}"
    elif shape.bend is not None:
        at = numbers.plain(shape.bend)
        where = {
            "levels off": f", then levels off above about {at}",
            "sets in": f", but only from about {at} on",
            "turns": f" up to about {at}, then the other way",
            "bend": f", more steeply on one side of about {at}",
        }[shape.name]
    if shape.name == "turns":
        first = shape.curve[0][1]
        near = min(shape.curve, key=lambda point: abs(point[0] - (shape.bend or 0.0)))[1]
        how = "rises with" if near > first else "falls with"
    body = [
        (
            f"On a straight line, one more of {x} goes with {numbers.signed(one.slope, numbers.plain(abs(one.slope)))} "
            f"{y}."
        ),
        (
            f"By ranks the correlation is {numbers.fixed(rho[0], 2)} ({numbers.fixed(rho[1], 2)} to "
            f"{numbers.fixed(rho[2], 2)})."
        ),
        "That is no proof that the one makes the other.",
    ]
    return fit(
        f"{names.capital(y)} {how} {x}{where} (correlation {numbers.fixed(r, 2)}, {span}, {numbers.whole(one.n)} "
        f"rows).",
        body,
        [],
    )
