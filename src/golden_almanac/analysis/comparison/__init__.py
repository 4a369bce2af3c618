"""Comparisons of groups: the test that fits, named with its reason; effect, interval, pairs, assumptions."""

from .comparison_results import TESTS, Compared, Group, Pair, Sized, Tested, described
from .procedure_choice import compare

__all__ = ["TESTS", "Compared", "Group", "Pair", "Sized", "Tested", "compare", "described"]
