"""Text turned into the type that its values have: one kind of value a file."""

from .typed_columns import Typed, decimal_comma, one_dictionary, typed

__all__ = ["Typed", "decimal_comma", "one_dictionary", "typed"]
