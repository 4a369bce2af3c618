"""Cells: the table grouped, with counts, sums, squares and extremes per group."""

from .cells import Cells, PartCells
from .survey import PERIOD, Survey

__all__ = ["PERIOD", "Cells", "PartCells", "Survey"]
