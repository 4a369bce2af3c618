"""Why a measure changed between two periods."""

from .explain import Explanation, candidate, explain, resolve_periods, unusual
from .why import why

__all__ = ["Explanation", "candidate", "explain", "resolve_periods", "unusual", "why"]
