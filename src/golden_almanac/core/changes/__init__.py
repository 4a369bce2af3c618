"""Why a measure changed between two periods."""

from .candidates import candidate, unusual
from .explain import Breakdown, Explanation, explain, percent, with_slices
from .factors import Component, Factors, result_of
from .named import Named
from .periods import resolve_periods
from .usual import Expected
from .why import why

__all__ = [
    "Breakdown",
    "Component",
    "Expected",
    "Explanation",
    "Factors",
    "Named",
    "candidate",
    "explain",
    "percent",
    "resolve_periods",
    "result_of",
    "unusual",
    "why",
    "with_slices",
]
