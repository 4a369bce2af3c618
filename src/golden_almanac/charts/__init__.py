"""Charts: one file each, one look, no pyplot."""

from .changes import CHANGE_CHARTS, draw_change, draw_change_as
from .chart import Chart
from .drawing import draw

__all__ = ["CHANGE_CHARTS", "Chart", "draw", "draw_change", "draw_change_as"]
