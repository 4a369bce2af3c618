"""What cannot be added up or held: said in a sentence, before anything is worked out from it."""

from __future__ import annotations

from ..support.errors import ExpressionError

#: The largest number that a double holds, with room for rounding.
_LARGEST = 1.7e308


def check_size(sql: str, largest: float, count: int) -> None:
    """Raise ExpressionError for values whose sum could be beyond the largest number, or that are infinite."""
    if largest == float("inf"):
        raise ExpressionError(
            sql,
            "is infinite in some rows: it divides by nought there, or its numbers are too large",
            "Leave them out with nullif(…, 0) around what it divides by, or use smaller units.",
        )
    if largest > _LARGEST / max(count, 1):
        raise ExpressionError(
            sql, "has a sum beyond the largest number that can be held", "Divide it first, to millions for instance."
        )
