"""What a comparison, a regression and a relation mean, in sentences a manager understands."""

from __future__ import annotations

from collections.abc import Sequence

from ..aggregation.measures import Measure
from ..analysis.comparison import Compared, Pair, Tested
from ..analysis.regression import Coefficient, Regression
from ..analysis.relation import Relation, least_telling
from ..support.phrasing import Phrase
from . import names, numbers
from .core_sentences import retold
from .languages import Noun, mark, say, statement
from .summary import Summary, fit

#: A difference is called one at this level.
LEVEL = 0.05
#: What chance makes less often than this it is said not to make.
_CLEAR = 0.001
_MOST_PAIRS = 3
#: Rows below which it is said what they cannot show.
_FEW_ROWS = 30


def figure(value: float, compared: Compared, measure: Measure | None) -> str:
    own = measure is not None and measure.share
    return numbers.share(value) if compared.kind == "shares" and not own else numbers.amount(value, measure)


def gap(value: float, compared: Compared, measure: Measure | None) -> str:
    own = measure is not None and measure.share
    return numbers.points(100 * value) if compared.kind == "shares" and not own else numbers.difference(value, measure)


def comparison_summary(compared: Compared, measure: Measure | None) -> Summary:
    """What the comparison means; the pairs that differ; what was left out."""
    tail = (
        [say("Left out: {names}.", names=names.listed([retold(text) for text in compared.left_out]))]
        if compared.left_out
        else []
    )
    return fit(statement((meaning(compared, measure), ".")), [*pairs(compared, measure), _how_sure(compared)], tail)


def meaning(compared: Compared, measure: Measure | None) -> str:
    """One sentence, without its full stop."""
    who = names.column(compared.outcome, measure.unit if measure is not None else None)
    sure = compared.test.p < LEVEL
    if compared.kind == "labels":
        return names.capital(_mixes(compared, who, sure))
    if len(compared.groups) == 2:
        return names.capital(_two(compared, measure, who, sure))
    return names.capital(_several(compared, measure, who, sure))


def _mixes(compared: Compared, who: Noun, sure: bool) -> str:
    test = compared.test
    places = {"who": who, "parts": names.plural(compared.by)}
    text = (
        say("the mix of {who} differs between the {parts}, more than chance makes", **places)
        if sure
        else say("the mix of {who} is the same in all {parts}, as far as chance lets one tell", **places)
    )
    value = test.effect.value
    if value is None:
        return text
    if test.effect_name == "Cramér's V":
        return statement((text, " (", say(test.effect_name), " ", numbers.fixed(value, 2), ")"))
    return say("{text} (odds ratio {ratio})", text=text, ratio=numbers.plain(value, 2))


def _several(compared: Compared, measure: Measure | None, who: Noun, sure: bool) -> str:
    known = [group for group in compared.groups if group.mean is not None]
    ranks = compared.test.name == "Kruskal–Wallis test"

    def value(group: object) -> float:
        found = getattr(group, "median" if ranks else "mean")
        return float(found)

    top, low = max(known, key=value), min(known, key=value)
    places = {
        "who": who,
        "parts": names.plural(compared.by),
        "low": figure(value(low), compared, measure),
        "lowest": names.label_of(compared.by, low.label),
        "high": figure(value(top), compared, measure),
        "highest": names.label_of(compared.by, top.label),
    }
    if not sure:
        return say(
            "{who} {who:does|do} not differ between the {parts} by more than chance makes (from {low} in {lowest} to "
            "{high} "
            "in {highest})",
            **places,
        )
    if ranks:
        return say(
            "median {who} differs between the {parts}, more than chance makes: from {low} in {lowest} to {high} in "
            "{highest}",
            **places,
        )
    return say(
        "{who} {who:differs|differ} between the {parts}, more than chance makes: from {low} in {lowest} to {high} in "
        "{highest}",
        **places,
    )


def _two(compared: Compared, measure: Measure | None, who: Noun, sure: bool) -> str:
    a, b = compared.groups
    ranks = compared.test.name in ("Mann–Whitney U test", "Wilcoxon signed-rank test")
    first, second = (a.median, b.median) if ranks else (a.mean, b.mean)
    assert first is not None
    assert second is not None
    places = {
        "who": who,
        "first": figure(first, compared, measure),
        "a": names.label_of(compared.by, a.label),
        "second": figure(second, compared, measure),
        "b": names.label_of(compared.by, b.label),
    }
    if compared.kind == "shares":
        told = say("{who} {who:is|are} {first} in {a} and {second} in {b}", **places)
    elif ranks:
        told = say("{who} {who:has|have} a median of {first} in {a} and {second} in {b}", **places)
    else:
        told = say("{who} {who:averages|average} {first} in {a} and {second} in {b}", **places)
    difference = compared.test.difference
    if difference is None or difference.value is None or difference.low is None or difference.high is None:
        return (
            say("{told}, more than chance makes", told=told)
            if sure
            else say("{told}, no more than chance makes", told=told)
        )
    ends = {
        "told": told,
        "low": numbers.signed(difference.low, gap(difference.low, compared, measure)),
        "high": numbers.signed(difference.high, gap(difference.high, compared, measure)),
        "size": gap(difference.value, compared, measure),
    }
    if not sure:
        return say(
            "{told}, no more apart than chance makes: the true difference may lie between {low} and {high}", **ends
        )
    up = difference.value > 0
    if compared.test.p > _CLEAR:
        # One in twenty is seldom, not never.
        ends["p"] = numbers.p_value(compared.test.p)
        return (
            say("{told}: {size} more (95% range {low} to {high}), which chance alone seldom makes ({p})", **ends)
            if up
            else say("{told}: {size} less (95% range {low} to {high}), which chance alone seldom makes ({p})", **ends)
        )
    if ranks:
        return (
            say("{told}: {size} more typically (95% range {low} to {high}), which chance does not make", **ends)
            if up
            else say("{told}: {size} less typically (95% range {low} to {high}), which chance does not make", **ends)
        )
    return (
        say("{told}: {size} more (95% range {low} to {high}), which chance does not make", **ends)
        if up
        else say("{told}: {size} less (95% range {low} to {high}), which chance does not make", **ends)
    )


def pairs(compared: Compared, measure: Measure | None) -> list[str]:
    """The pairs that differ, the widest apart first, or that none does."""
    if not compared.test.pairs:
        return []
    differing = [pair for pair in compared.test.pairs if pair.p < LEVEL]
    if not differing:
        return [say("No two of them differ for sure, the number of pairs allowed for.")]
    widest = sorted(differing, key=lambda pair: (-abs(pair.difference), pair.a, pair.b))[:_MOST_PAIRS]
    return [
        say(
            "{n} of {all} pairs differ for sure, the number of pairs allowed for; widest apart: {told}.",
            n=len(differing),
            all=len(compared.test.pairs),
            told=names.listed([_pair(pair, compared, measure) for pair in widest]),
        )
    ]


def _pair(pair: Pair, compared: Compared, measure: Measure | None) -> str:
    size = numbers.signed(pair.difference, gap(pair.difference, compared, measure))
    return say("{a} and {b} ({size})", a=names.label(pair.a), b=names.label(pair.b), size=size)


def _how_sure(compared: Compared) -> str:
    line = names.capital(test_line(compared.test))
    if compared.asked:
        return f"{line}."
    return say("{line}. It was chosen for {why}.", line=line, why=retold(compared.why))


def test_line(test: Tested) -> str:
    """ "Welch's t test: t = 4.2 on 31.5 degrees of freedom, p below 0.0001; Hedges' g 0.8 (0.4 to 1.2)"."""
    letter = {
        "Welch's t test": "t",
        "cluster-robust t test": "t",
        "cluster-robust Wald test": "F",
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
        value = f"{letter} = {numbers.plain(test.statistic)}"
        df = names.listed([numbers.plain(part) for part in test.df])
        parts.append(say("{value} on {df} degrees of freedom", value=value, df=df) if df else value)
    parts.append(numbers.p_value(test.p))
    effect = test.effect
    told = ""
    if effect.value is not None:
        told = f"; {say(test.effect_name)} {numbers.plain(effect.value, 2)}"
        if effect.low is not None and effect.high is not None:
            low, high = numbers.plain(effect.low, 2), numbers.plain(effect.high, 2)
            told += f" ({say('95% range {low} to {high}', low=low, high=high)})"
    return f"{say(test.name)}: {', '.join(parts)}{told}"


def regression_summary(regression: Regression) -> Summary:
    """What the fit tells, its strongest terms, what its residuals warn of."""
    label = names.noun(regression.outcome.label)
    sure = [c for c in regression.coefficients if c.p < LEVEL and c.term != "intercept"]
    sure.sort(key=lambda c: -abs(c.t))
    n = numbers.whole(regression.n)
    if regression.p is not None and regression.p >= LEVEL:
        first = say(
            "The factors do not tell {label} beyond chance: R² {r2} on {n} rows ({p}).",
            label=label,
            r2=numbers.fixed(regression.r2, 2),
            n=n,
            p=numbers.p_value(regression.p),
        )
    else:
        first = say(
            "The fit accounts for {share} of what varies in {label} (R² {r2}, {n} rows).",
            share=numbers.percent(100 * max(0.0, regression.r2)),
            label=label,
            r2=numbers.fixed(regression.r2, 3),
            n=n,
        )
    body = [_coefficient(c, label, regression.bases) for c in sure[:3]]
    return fit(first, body, warnings(regression))


def _coefficient(coefficient: Coefficient, label: Noun, bases: Sequence[str]) -> str:
    ends = [numbers.signed(end, numbers.plain(abs(end))) for end in (coefficient.low, coefficient.high)]
    places = {"label": label, "size": numbers.plain(abs(coefficient.estimate)), "low": ends[0], "high": ends[1]}
    if coefficient.level is not None:
        column = coefficient.factor
        places |= {
            "column": names.column(column),
            "level": names.label(coefficient.level),
            "against": next((level for name, level in map(_base, bases) if name == column), say("nought")),
        }
        return names.capital(
            say(
                "{label} {label:is|are} {size} higher where {column} is {level} than where it is {against} (95% "
                "range {low} "
                "to {high}).",
                **places,
            )
            if coefficient.estimate > 0
            else say(
                "{label} {label:is|are} {size} lower where {column} is {level} than where it is {against} (95% range "
                "{low} "
                "to {high}).",
                **places,
            )
        )
    places["size"] = numbers.signed(coefficient.estimate, numbers.plain(abs(coefficient.estimate)))
    term = names.column(coefficient.term) if coefficient.term.isidentifier() else coefficient.term
    return say("One more of {term} goes with {size} {label} (95% range {low} to {high}).", term=term, **places)


def _base(text: str) -> tuple[str, str]:
    """The column and the label that its other labels are told against."""
    assert isinstance(text, Phrase)
    return text.places["column"].column, str(text.places["label"])


def warnings(regression: Regression) -> list[str]:
    """What the diagnostics say, worst first, as sentences; nothing where all is well."""
    found = dict(regression.notes)
    told = []
    if "ill-conditioned" in found:
        told.append(
            say(
                "The terms are so nearly combinations of each other (condition {condition}) that no digit of the "
                "coefficients is to be relied on; leave some out.",
                condition=f"{found['ill-conditioned']['condition']:.1e}",
            )
        )
    if "collinear" in found:
        facts = found["collinear"]
        told.append(
            say(
                "{term} goes so closely with other terms that its variance is {vif} times what it would be alone.",
                term=facts["term"],
                vif=numbers.plain(float(facts["vif"])),
            )
        )
    if "spread" in found and float(found["spread"]["p"]) < 0.01:
        told.append(say("Residuals spread more in some places than in others: rely on the robust errors (HC3) beside."))
    if "residuals" in found and float(found["residuals"]["p"]) < 0.001 and regression.n < 200:
        told.append(say("Residuals are far from normal, and rows are few: take p-values with care."))
    if "leverage" in found and float(found["leverage"]["cook"]) > 1:
        row = int(regression.outcome.table.row_numbers()[regression.rows[int(found["leverage"]["row"])]])
        told.append(
            say(
                "Row {row} alone moves the fit (Cook's distance {distance}).",
                row=numbers.whole(row),
                distance=numbers.plain(float(found["leverage"]["cook"])),
            )
        )
    told += [f"{names.capital(retold(text)).rstrip('.')}." for text in regression.left_out]
    return told


def equation(regression: Regression) -> str:
    """ "delay_min = 3.2 + 0.051 · load + 4.1 · vessel=Petrel"."""
    parts = []
    for place, c in enumerate(regression.coefficients):
        size = f"{abs(c.estimate):.6g}"
        body = size if c.term == "intercept" else f"{size} · {c.term}"
        sign = ("−" if c.estimate < 0 else "") if place == 0 else (" − " if c.estimate < 0 else " + ")
        parts.append(f"{sign}{body}")
    return f"{regression.outcome.name} = {''.join(parts)}"


def relation_summary(relation: Relation) -> Summary:
    x, y = (names.column(column.name, column.unit) for column in (relation.x, relation.y))
    r, low, high, p = relation.pearson
    rho = relation.spearman
    places = {
        "x": x,
        "y": y,
        "r": numbers.fixed(r, 2),
        "low": numbers.fixed(low, 2),
        "high": numbers.fixed(high, 2),
        "n": numbers.whole(relation.n),
    }
    few = []
    if relation.n < _FEW_ROWS:
        size = numbers.fixed(least_telling(relation.n), 2)
        few = [say("{n} rows show only strong relations: chance gives correlations up to {r}.", n=places["n"], r=size)]
    if rho[3] >= LEVEL and p >= LEVEL and relation.bins_p >= 0.01:
        nothing = say(
            "{y} and {x} do not go together beyond chance (correlation {r}, 95% range {low} to {high}, {n} rows).",
            **places,
        )
        return fit(names.capital(nothing), [], few)
    rises = rho[0] > 0
    if relation.shape.name == "turns":
        curve = relation.shape.curve
        rises = min(curve, key=lambda point: abs(point[0] - (relation.shape.bend or 0.0)))[1] > curve[0][1]
    goes = say("{y} {y:rises|rise} with {x}", **places) if rises else say("{y} {y:falls|fall} with {x}", **places)
    first = say("{text} (correlation {r}, 95% range {low} to {high}, {n} rows).", **places, text=_bent(goes, relation))
    slope = numbers.signed(relation.slope, numbers.plain(abs(relation.slope)))
    body = [
        say("On a straight line, one more of {x} goes with {size} {y}.", x=x, y=y, size=slope),
        say(
            "By ranks the correlation is {r} ({low} to {high}).",
            r=numbers.fixed(rho[0], 2),
            low=numbers.fixed(rho[1], 2),
            high=numbers.fixed(rho[2], 2),
        ),
        say("That is no proof that the one makes the other."),
    ]
    return fit(names.capital(first), body, few)


def _bent(text: str, relation: Relation) -> str:
    """A text on two columns, with how their relation departs from a straight line behind it."""
    shape = relation.shape
    if shape.cut is not None:
        return say("{text}, in a step above {at}", text=text, at=numbers.trimmed(shape.cut.at))
    if shape.bend is None:
        return text
    places = {"text": text, "at": numbers.plain(shape.bend)}
    if shape.name == "levels off":
        return say("{text}, then levels off above about {at}", **places)
    if shape.name == "sets in":
        return say("{text}, but only from about {at} on", **places)
    if shape.name == "turns":
        return say("{text} up to about {at}, then the other way", **places)
    return say("{text}, more steeply on one side of about {at}", **places)


#: Names of tests, effects and shapes, as results have them.
_NAMES = (
    mark("Welch's t test"),
    mark("cluster-robust t test"),
    mark("cluster-robust Wald test"),
    mark("paired t test"),
    mark("Welch's analysis of variance"),
    mark("chi-squared test"),
    mark("Kruskal–Wallis test"),
    mark("Mann–Whitney U test"),
    mark("Wilcoxon signed-rank test"),
    mark("two-proportion z test"),
    mark("odds ratio"),
    mark("risk ratio"),
    mark("rank-biserial correlation"),
    mark("chance that the first is larger"),
    mark("Hedges' g"),
    mark("Cramér's V"),
    mark("Cohen's d of the differences"),
    # Shapes of a relation, and the term that no factor has.
    mark("line"),
    mark("step"),
    mark("levels off"),
    mark("sets in"),
    mark("turns"),
    mark("bend"),
    mark("intercept"),
)
