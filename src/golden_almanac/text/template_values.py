"""Live values in people's own text: `{{ revenue.change | percent }}` is filled from the figures of an edition.

Only the names given are there; no expression is ever evaluated.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ..aggregation.measures import Measure
from ..support.errors import RequestError
from . import numbers


class Live:
    """A measure's figures under names: value, baseline, change, change_pct, period, compared_with."""

    def __init__(self, figures: Mapping[str, Any], measure: Measure | None) -> None:
        self._figures = dict(figures)
        self._measure = measure

    def figure(self, name: str) -> Any:
        """A figure by its name, which remembers its measure. Raises RequestError for a name that is not there."""
        if name not in self._figures:
            raise RequestError.unknown("The value", name, list(self._figures), "values")
        return _Figure.of(self._figures[name], self._measure)

    def __float__(self) -> float:
        return float(self._figures["value"])

    @property
    def measure(self) -> Measure | None:
        return self._measure

    def __str__(self) -> str:
        return numbers.amount(self._figures["value"], self._measure)


class _Figure(float):
    """A number that remembers its measure, for the filters."""

    measure: Measure | None = None

    @classmethod
    def of(cls, value: Any, measure: Measure | None) -> Any:
        if value is None or isinstance(value, str):
            return value
        made = cls(value)
        made.measure = measure
        return made

    def __str__(self) -> str:
        return numbers.amount(float(self), self.measure)


#: Letters of a text, and values in it, at most.
_MOST_LETTERS, _MOST_VALUES = 20_000, 200
_WANTED = "plain text with values such as {{ revenue.change | percent }}"


def fill(text: str, values: Mapping[str, Live | float | str]) -> str:
    """The text with its live values.

    The text is parsed as a template and then walked, never run: a value is a name, or a measure's name and one of its
    figures, with filters behind it, and nothing else can be said. Raises RequestError for an unknown name or filter, or
    a text that says more.
    """
    from jinja2 import Environment, TemplateError, nodes

    if len(text) > _MOST_LETTERS:
        raise RequestError("The text", text[:60], f"one of at most {_MOST_LETTERS:,} letters")
    try:
        parsed = Environment(autoescape=False, keep_trailing_newline=True).parse(text)
    except (TemplateError, RecursionError) as problem:
        raise RequestError("The text", text[:60], _WANTED) from problem
    if "{#" in text or "{%" in text:
        raise RequestError("The text", text[:60], _WANTED)
    filled: list[str] = []
    asked = 0
    for output in parsed.body:
        if not isinstance(output, nodes.Output):
            raise RequestError("The text", text[:60], _WANTED)
        for node in output.nodes:
            if isinstance(node, nodes.TemplateData):
                filled.append(node.data)
                continue
            asked += 1
            if asked > _MOST_VALUES:
                raise RequestError("The text", text[:60], f"one with at most {_MOST_VALUES} values")
            filled.append(_shown(_value(node, values, text)))
    return "".join(filled)


def _value(node: Any, values: Mapping[str, Live | float | str], text: str) -> Any:
    """What a name stands for, with the filters behind it. Raises RequestError for anything else."""
    from jinja2 import nodes

    filters = []
    while isinstance(node, nodes.Filter) and node.node is not None:
        if node.args or node.kwargs or node.dyn_args or node.dyn_kwargs:
            raise RequestError("The filter", node.name, "one without arguments")
        if node.name not in _FILTERS:
            raise RequestError("The filter", node.name, f"one of {', '.join(sorted(_FILTERS))}")
        filters.append(node.name)
        node = node.node
    figure = None
    if isinstance(node, nodes.Getattr):
        node, figure = node.node, node.attr
    if not isinstance(node, nodes.Name):
        raise RequestError("The text", text[:60], _WANTED)
    if node.name not in values:
        known = list(values)
        raise RequestError.unknown("The name", node.name, known, "names")
    found: Any = values[node.name]
    if figure is not None:
        if not isinstance(found, Live):
            raise RequestError("The value", figure, f"left out: {node.name} has no figures of its own")
        found = found.figure(figure)
    for name in reversed(filters):
        found = _FILTERS[name](found)
    return found


def _shown(value: Any) -> str:
    if value is None:
        raise RequestError("The value", "nothing", "a figure (there is none of it, as no percentage is from nought)")
    return str(value)


def _number(value: Any) -> float:
    if value is None:
        raise RequestError("The value", "nothing", "a figure (there is none of it, as no percentage is from nought)")
    if isinstance(value, str):
        raise RequestError("The value", value[:60], "a number, to be written as one")
    return float(value)


_FILTERS = {
    "percent": lambda value: numbers.signed(_number(value), numbers.percent(_number(value))),
    "points": lambda value: numbers.signed(_number(value), numbers.points(_number(value))),
    "amount": lambda value: numbers.amount(_number(value), getattr(value, "measure", None)),
    "difference": lambda value: numbers.signed(
        _number(value), numbers.difference(_number(value), getattr(value, "measure", None))
    ),
    "whole": lambda value: numbers.whole(_number(value)),
    "number": lambda value: numbers.plain(_number(value)),
}
