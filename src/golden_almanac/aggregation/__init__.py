"""Cells: the table grouped, with counts, sums, squares and extremes per group."""

from .cells import Cells, PartCells
from .period_holes import period_holes, unrecorded
from .row_codes import PERIOD, Rows
from .row_filter import Only
from .survey import Survey

__all__ = ["PERIOD", "Cells", "Only", "PartCells", "Rows", "Survey", "period_holes", "unrecorded"]
