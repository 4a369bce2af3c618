"""Text turned into the type that its values have: one kind of value a file."""

from .typed_columns import Typed, one_dictionary, typed

__all__ = ["Typed", "one_dictionary", "typed"]
