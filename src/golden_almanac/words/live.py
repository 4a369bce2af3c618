"""Live values in people's own text: `{{ revenue.change | percent }}` is filled from the figures of an edition.

Only the names given are there; nothing of Python is to be reached from the text.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from ..core.errors import RequestError, rather
from ..core.measures import Measure
from . import numbers


class Live:
    """A measure's figures under names: value, baseline, change, change_pct, period, compared_with."""

    def __init__(self, figures: Mapping[str, Any], measure: Measure | None) -> None:
        self._figures = dict(figures)
        self._measure = measure

    def __getattr__(self, name: str) -> Any:
        if name.startswith("_"):
            raise AttributeError(name)
        if name not in self._figures:
            raise RequestError(
                "The value", name, f"one there is; {rather(name, list(self._figures), 'values').rstrip('.')}"
            )
        return _Figure.of(self._figures[name], self._measure)

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


def fill(text: str, values: Mapping[str, Live | float | str]) -> str:
    """The text with its live values. Raises RequestError for an unknown name, filter, or a text that cannot be read."""
    from jinja2 import TemplateError, UndefinedError
    from jinja2.sandbox import ImmutableSandboxedEnvironment

    environment = ImmutableSandboxedEnvironment(undefined=_undefined(list(values)), autoescape=False)
    environment.globals.clear()
    environment.filters.clear()
    environment.tests.clear()
    environment.filters.update(_FILTERS)
    if "{%" in text or "{#" in text:
        raise RequestError("The text", text[:60], "plain text with values such as {{ revenue.change | percent }}")
    try:
        return environment.from_string(text).render(dict(values))
    except UndefinedError as problem:
        raise RequestError("The value", str(problem), "one there is") from problem
    except TemplateError as problem:
        message = str(problem)
        if "No filter named" in message:
            name = message.split("'")[1]
            raise RequestError("The filter", name, f"one of {', '.join(sorted(_FILTERS))}") from problem
        raise RequestError("The text", text[:60], f"one that can be filled ({message.rstrip('.')})") from problem


def _undefined(known: list[str]) -> Any:
    from jinja2 import StrictUndefined

    class Unknown(StrictUndefined):
        """A name that is not there, told with its nearest ones."""

        def _fail_with_undefined_error(self, *args: Any, **kwargs: Any) -> Any:
            name = str(self._undefined_name)
            raise RequestError("The name", name, f"one there is; {rather(name, known, 'names').rstrip('.')}")

        __str__ = __iter__ = __len__ = __eq__ = __ne__ = __bool__ = __hash__ = _fail_with_undefined_error
        __getattr__ = __getitem__ = __call__ = _fail_with_undefined_error

    return Unknown


def _number(value: Any) -> float:
    if value is None:
        raise RequestError("The value", "nothing", "a figure (there is none of it, as no percentage is from nought)")
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
