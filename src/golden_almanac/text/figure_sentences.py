"""Key figures in sentences: one each, that says whether to look."""

from __future__ import annotations

from ..analysis.key_figures import JudgedFigure, KeyFigures
from . import dates, names, numbers
from .languages import count, say
from .summary import Summary, fit
from .text_tables import TextTable


def figures_summary(found: KeyFigures, steps: list[str], length: str = "standard") -> Summary:
    """How many figures are worth a look, a sentence each, what to do."""
    odd = [one for one in found.figures if one.outside]
    period = dates.period(found.period)
    if odd:
        headline = count(
            len(odd),
            "{n} of {all} figures of {period} is worth a look: {which}.",
            "{n} of {all} figures of {period} are worth a look: {which}.",
            n=numbers.whole(len(odd)),
            all=numbers.whole(len(found.figures)),
            period=period,
            which=names.listed([names.measure_name(one.measure) for one in odd]),
        )
    else:
        judged = [one for one in found.figures if one.low is not None]
        headline = (
            say("All figures of {period} lie within what is usual for them.", period=period)
            if judged
            else say("The past is too short to say what is usual of the figures of {period}.", period=period)
        )
    body = [sentence(one, found) for one in found.figures]
    told = [say("To do: {step}", step=step) for step in steps]
    return fit(headline, [*body, *told], [], length)


def sentence(one: JudgedFigure, found: KeyFigures) -> str:
    """The figure, its change, and whether it is usual."""
    who = names.measure_name(one.measure)
    places = {
        "who": names.capital(who),
        "value": numbers.amount(one.value, one.measure),
        "change": change(one, found),
        "low": NONE if one.low is None else numbers.amount(one.low, one.measure),
        "high": NONE if one.high is None else numbers.amount(one.high, one.measure),
    }
    if one.low is None:
        return say("{who}: {value}, {change}; the past is too short to say what is usual.", **places)
    if one.outside > 0:
        return say("{who}: {value}, {change}; above what is usual ({low} to {high}): look.", **places)
    if one.outside < 0:
        return say("{who}: {value}, {change}; below what is usual ({low} to {high}): look.", **places)
    return say("{who}: {value}, {change}; as usual ({low} to {high}).", **places)


NONE = "–"


def change(one: JudgedFigure, found: KeyFigures) -> str:
    """Against the span before: "11% above July 2025"."""
    if one.before is None:
        return say("nothing to compare with")
    then = dates.period(found.before) if found.before.grain is not None else say("the days before")
    gap = one.value - one.before
    if gap == 0:
        return say("as {then}", then=then)
    if one.measure.in_points or one.before <= 0:
        size = numbers.difference(gap, one.measure)
    else:
        size = numbers.percent(100 * gap / one.before)
    return (
        say("{size} above {then}", size=size, then=then)
        if gap > 0
        else say("{size} below {then}", size=size, then=then)
    )


def change_short(one: JudgedFigure) -> str:
    """The change since the span before, with its sign: "−19%", "+0.3 points"."""
    if one.before is None:
        return NONE
    gap = one.value - one.before
    if one.measure.in_points or one.before <= 0:
        return numbers.signed(gap, numbers.difference(gap, one.measure))
    return numbers.per_cent(100 * gap / one.before)


def figures_table(found: KeyFigures) -> TextTable:
    """A row a figure: value, change, usual range, target, whether to look."""
    aimed, odd = any(one.target is not None for one in found.figures), any(one.outside for one in found.figures)
    heads = [
        say("Figure", "column"),
        say("Value", "column"),
        say("Change", "column"),
        say("Usual range", "column"),
        *([say("Target", "column")] if aimed else []),
        *([say("Look", "column")] if odd else []),
    ]
    rows = []
    for one in found.figures:
        usual = NONE
        if one.low is not None and one.high is not None:
            low, high = (numbers.amount(end, one.measure) for end in (one.low, one.high))
            usual = say("{low} to {high}", low=low, high=high)
        aim = [] if not aimed else [NONE if one.target is None else numbers.amount(one.target, one.measure)]
        look = [] if not odd else [{1: say("above", "usual"), -1: say("below", "usual"), 0: ""}[one.outside]]
        row = [names.capital(names.measure_name(one.measure)), numbers.amount(one.value, one.measure)]
        rows.append((*row, change(one, found), usual, *aim, *look))
    return TextTable(title="", heads=tuple(heads), rows=tuple(rows), left=1)
