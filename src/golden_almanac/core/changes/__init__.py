"""Why a measure changed between two periods."""

from .explain import Explanation, explain, unusual

__all__ = ["Explanation", "explain", "unusual"]
