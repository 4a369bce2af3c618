"""What the tests behind findings are called."""

from __future__ import annotations

from .languages import mark, say

#: Names of tests, as detectors give them.
NAMES = (
    mark("autoregressive regression, weighed against the series in other orders"),
    mark("step at the best place, autoregressive, weighed against the series in other orders"),
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
)


def spoken(name: str) -> str:
    """The name of a test in the current language; one that no catalogue knows stays in English."""
    return say(name.replace("{", "").replace("}", ""))
