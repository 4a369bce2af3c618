"""What the tests behind findings are called."""

from __future__ import annotations

from ..support.phrasing import Phrase
from . import numbers
from .languages import mark, say

#: Names of tests, as detectors give them.
NAMES = (
    mark("autoregressive regression, weighed against the series in other orders"),
    mark("step at the best place, autoregressive, weighed against the series in other orders"),
    mark("two steps at the best pair of places, autoregressive, the less sure of both, times the pairs tried"),
    mark("F test of the season beside a trend, autoregressive"),
    mark("t over periods on the ratio to the next, times the number of groups"),
    mark("t over periods on the ratio of first to second, times half the number of groups"),
    mark("gap to the next value against the gaps below it"),
    mark("residual among those of all cells, and t over periods, times the number of cells"),
    mark("share of the top, chosen in one half of the periods, in the other half, against an even share"),
    mark("robust deviation of the number or the normal scores of rows, times the number of periods"),
    mark("rows expected where none are, by those of the other periods and their spread"),
    mark("rows expected where none are, by the label's usual share and its spread"),
    mark("values expected where none are, by the usual share of filled rows"),
    mark("one-bend regression, autoregressive, weighed against the series in other orders"),
    mark("t of the moves of a stretch against all others, times the stretches tried"),
    mark("ranks within each week (Friedman, F of Iman and Davenport)"),
    mark("ranks within each month (Friedman, F of Iman and Davenport)"),
    mark("t over pairs of periods: the whole's change, and what of it goes through the weights"),
    mark("the last periods off the path of those before, autoregressive, weighed against the series in other orders"),
    mark("normal scores within periods, and t over periods"),
    mark("exact test of the events, as widely as rows and periods spread"),
    mark("t of the ratio over rows, and over periods"),
    mark("t over periods: the share of the top tenth of the rows against half"),
    mark("surprise against earlier comparisons of the same kind"),
    mark("surprise against the forecast made before"),
    mark("change against the spread of the rows"),
    mark("excess over the rest, against the spread of the rows, times the slices looked at"),
    mark("normal scores within weeks, groups taken out, and t over periods"),
    mark("normal scores of the rows"),
    mark("exact test of the events"),
    mark("t of the ratio over rows"),
    mark("z of the gap of first to second over rows, times half the number of groups"),
    mark("share of the top against an even share, times the choices"),
    mark("normal scores of the rows, groups taken out"),
    mark("normal scores within periods, groups taken out, and t over periods"),
    mark("binomial: values on round numbers against an even share"),
    mark("the least of the week's years among all weeks, times the weeks and holidays"),
    mark("t of what was over what was planned, since it was left, times the periods it could have begun in"),
    mark("a peak's count against the valley's, times their choices"),
)


def spoken(name: str) -> str:
    """The name of a test in the current language; one that no catalogue knows stays in English."""
    if isinstance(name, Phrase):
        return say(name.phrase, test=spoken(name.places["test"]), n=numbers.whole(name.places["n"]))
    return say(name.replace("{", "").replace("}", ""))
