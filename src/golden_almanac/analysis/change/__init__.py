"""Why a measure changed between two periods."""

from .breakdowns import Breakdown
from .change_findings import candidate, unusual
from .compared_periods import resolve_periods
from .expected_change import Expected
from .explaining_slices import Named
from .explanation import Explanation, Missing, explain, percent, with_slices
from .price_volume_mix import Component, Factors, result_of
from .window_change import why

__all__ = [
    "Breakdown",
    "Component",
    "Expected",
    "Explanation",
    "Factors",
    "Missing",
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
