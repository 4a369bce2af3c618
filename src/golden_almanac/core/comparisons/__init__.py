"""Comparisons of groups: the test that fits, named with its reason; effect, interval, pairs, assumptions."""

from .choosing import compare
from .results import TESTS, Compared, Group, Pair, Sized, Tested, described

__all__ = ["TESTS", "Compared", "Group", "Pair", "Sized", "Tested", "compare", "described"]
