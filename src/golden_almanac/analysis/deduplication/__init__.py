"""Which findings follow from which: a parent from its part, a slice from what it is made of."""

from .compositions import follows_from_composition, follows_from_mix, related_measures, through_a_third
from .mirrors import mirrors_of_parts, mirrors_of_siblings
from .parts import rests_on_a_part

__all__ = [
    "follows_from_composition",
    "follows_from_mix",
    "mirrors_of_parts",
    "mirrors_of_siblings",
    "related_measures",
    "rests_on_a_part",
    "through_a_third",
]
