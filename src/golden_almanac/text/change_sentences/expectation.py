"""The change beside what was to be expected."""

from __future__ import annotations

from ...analysis.change import Expected, Explanation
from .. import numbers
from ..caveats import unrecorded
from ..core_sentences import retold
from ..languages import say
from .change_sizes import signed, size


def usual(explanation: Explanation) -> list[str]:
    """The change beside what was to be expected; where days are missing that is all there is to say of it."""
    if explanation.missing is not None:
        return [unrecorded(explanation.missing)]
    if explanation.baseline.foretold and explanation.forecast is not None:
        return [_foretold(explanation, explanation.forecast)]
    by = explanation.usual
    if explanation.cannot_judge:
        return [say("Earlier comparisons differ by more than the figure itself: none tells what is usual.")]
    if by is None:
        return []
    low, high = _span(explanation, by)
    up = explanation.change > 0
    places = {
        "size": size(explanation, explanation.change),
        "alike": _alike(explanation, by),
        "low": low,
        "high": high,
        "basis": retold(by.basis),
    }
    if by.usual and by.season:
        return [
            say(
                "That is the season: a rise of {size}, where {alike} is usual (between {low} and {high}; {basis}).",
                **places,
            )
            if up
            else say(
                "That is the season: a fall of {size}, where {alike} is usual (between {low} and {high}; {basis}).",
                **places,
            )
        ]
    if by.usual and by == explanation.chance:
        return [say("That is no more than chance makes from row to row (between {low} and {high}).", **places)]
    if by.usual:
        return [say("That is within its usual movement (between {low} and {high}).", **places)]
    surprise = explanation.change - by.change
    places |= {
        "extra": numbers.signed(surprise, numbers.difference(surprise, explanation.measure)),
        "least": signed(explanation, explanation.change - by.high),
        "most": signed(explanation, explanation.change - by.low),
    }
    if not by.season:
        return [
            say(
                "That is unusual: between {low} and {high} was to be expected ({basis}); the surprise is {extra} "
                "(between "
                "{least} and {most}).",
                **places,
            )
        ]
    return [
        say(
            "That is unusual for the season: a rise of {size}, where {alike} is usual (between {low} and {high}; "
            "{basis}); "
            "the surprise is {extra} (between {least} and {most}).",
            **places,
        )
        if up
        else say(
            "That is unusual for the season: a fall of {size}, where {alike} is usual (between {low} and {high}; "
            "{basis}); "
            "the surprise is {extra} (between {least} and {most}).",
            **places,
        )
    ]


def _foretold(explanation: Explanation, by: Expected) -> str:
    """What came beside the range of the forecast that was made before."""
    low, high = (numbers.amount(explanation.before + end, explanation.measure) for end in (by.low, by.high))
    return (
        say("That is within the range of the forecast ({low} to {high}, which 95 in 100 keep to).", low=low, high=high)
        if by.low <= explanation.change <= by.high
        else say(
            "That is outside the range of the forecast ({low} to {high}, which 95 in 100 keep to).", low=low, high=high
        )
    )


def _span(explanation: Explanation, by: Expected) -> tuple[str, str]:
    return _expected(explanation, by.low), _expected(explanation, by.high)


def _expected(explanation: Explanation, change: float) -> str:
    if explanation.change_pct is not None:
        return numbers.per_cent(100 * change / explanation.before)
    return signed(explanation, change)


def _alike(explanation: Explanation, by: Expected) -> str:
    """The usual change, without its sign where that is the sign of the change told before it."""
    if by.change * explanation.change > 0:
        return _expected(explanation, by.change).lstrip(numbers.MINUS + "+")
    return _expected(explanation, by.change)
