"""Cells: the table grouped, with counts, sums, squares and extremes per group."""

from .cells import Cells, PartCells
from .only import Only
from .rows import PERIOD, Rows
from .survey import Survey

__all__ = ["PERIOD", "Cells", "Only", "PartCells", "Rows", "Survey"]
